"""One guard around whatever comes from outside: a fault of Jaklet's own ends what it is in, and never the listener."""

from collections.abc import Callable

OURS = "this is a fault in Jaklet itself"


def reraise(_what: str, fault: Exception) -> str:
    """Let a fault through, where nobody is there to be told of it."""
    raise fault


def report_fault(what: str, fault: Exception, tell: Callable[[str], None]) -> str:
    """Tell of a fault that nobody has foreseen, with its traceback; return it in a few words."""
    import traceback  # which nobody should ever need

    line = f"{OURS}: {type(fault).__name__}: {str(fault) or 'no more is known'}"
    tell(f"{what}: {line}")
    for row in traceback.format_exception(fault):
        for each in row.rstrip().split("\n"):
            tell(f"  {each}")
    return line
