"""What commands say, and where: answers to standard output, faults to standard error."""

import os
import sys

from jaklet.core.values.errors import JakletError
from jaklet.core.values.words import printable

TYPE_CHECKING = False
if TYPE_CHECKING:  # this is loaded by the quickest commands
    from collections.abc import Iterable
    from typing import Any, TextIO

    from jaklet.core.actions.tasks import TaskOutcome
    from jaklet.drawing.ink import Ink

COLUMNS = 100  # wide enough for two displays side by side; wider terminals gain little


def ink_for(stream: "TextIO | None" = None) -> "Ink":
    """Return coloured ink for a terminal, plain ink for pipes, files, NO_COLOR and dumb terminals."""
    from jaklet.drawing.ink import Ink

    stream = stream or sys.stdout
    return Ink(stream.isatty() and not os.environ.get("NO_COLOR") and os.environ.get("TERM") != "dumb")


def columns() -> int:
    """Return how wide a drawing may be."""
    return min(_terminal_columns(), 120)


def wide_columns() -> int:
    """Return how wide drawings side by side may be."""
    return min(_terminal_columns(), 240)


def table_columns() -> int | None:
    """Return how wide a table may be; None in pipes, where nothing is cut."""
    return _terminal_columns() if sys.stdout.isatty() else None


def _terminal_columns() -> int:
    """Return the width of the terminal, or what COLUMNS says; `shutil`, which tells the same, is slow to load."""
    said = os.environ.get("COLUMNS", "")
    if said.isascii() and said.isdigit() and int(said) > 0:
        return int(said)
    try:
        return os.get_terminal_size(sys.__stdout__.fileno()).columns or COLUMNS if sys.__stdout__ else COLUMNS
    except (OSError, ValueError):
        return COLUMNS


def say(text: str) -> None:
    """Print an answer."""
    _write(sys.stdout, text)


def warn(text: str) -> None:
    """Print a remark beside the answer."""
    _write(sys.stderr, text)


def _write(stream: "TextIO", text: str) -> None:
    """Write a line; where the terminal cannot show a character, something plain that is like it."""
    try:
        stream.write(text + "\n")
    except UnicodeEncodeError:
        from jaklet.drawing.plain import plain_text

        coding = stream.encoding or "ascii"
        stream.write(plain_text(text, coding).encode(coding, "replace").decode(coding) + "\n")


def say_json(data: "Any", on_one_line: bool = False) -> None:
    """Print data for scripts; what could steer a terminal stands there escaped."""
    import json

    text = json.dumps(data, indent=None if on_one_line else 2, ensure_ascii=False)
    say("".join(c if c.isprintable() or c == "\n" else json.dumps(c)[1:-1] for c in text))


def say_outcome(outcome: "TaskOutcome") -> None:
    """Print how an action ended."""
    say_end(outcome.done, outcome.line, outcome.more)


def say_end(done: bool, line: str, more: "Iterable[str]") -> None:
    """Print how an action ended: to standard output if it was done, else to standard error."""
    tell = say if done else warn
    tell(printable(line))
    for one in filter(None, more):
        tell(f"  {printable(one)}")


def say_error(fault: JakletError) -> None:
    """Print one clear line, and what to do."""
    ink = ink_for(sys.stderr)
    warn(f"{ink('jaklet:', 'error')} {printable(fault.message)}")
    if fault.remedy:
        first, *more = fault.remedy.split("\n")
        warn(f"  {ink('remedy:', 'good')} {printable(first)}")
        for line in more:
            warn(printable(line))


def confirm(question: str, sure: bool) -> bool:
    """Return whether the user says yes; without a terminal only `--sure` does. Raises `UsageError`."""
    from jaklet.core.values.errors import UsageError

    if sure:
        return True
    if not (sys.stdin.isatty() and sys.stderr.isatty()):
        raise UsageError("nobody is here to say yes", "add --sure")
    import typer

    return typer.confirm(question, err=True)


def say_now(line: str) -> None:
    """Print a line of a running log, and do not keep it back."""
    _write(sys.stdout, line)
    sys.stdout.flush()


class faults_told:  # noqa: N801  # it is used as a function; contextlib would be a tenth of a quick command
    """Tell of errors, and turn them into exit statuses: 1 findings or a failed action, 2 wrong use."""

    def __enter__(self) -> None:
        pass

    def __exit__(self, _kind: object, fault: "BaseException | None", _trace: object) -> None:
        if isinstance(fault, JakletError):
            say_error(fault)
            sys.exit(fault.exit_status)
        if isinstance(fault, KeyboardInterrupt):
            sys.exit(130)
        if isinstance(fault, BrokenPipeError):
            sys.stderr.close()  # the reader of our output has gone; that is its right
            sys.exit(141)
