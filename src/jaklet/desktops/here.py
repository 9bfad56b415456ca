"""Which desks are here, by the environment, and the names of their listeners. Small: the quickest commands load it."""

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

X11 = "x11"


def x11_here(environment: "Mapping[str, str]") -> str:
    """Return the X server's display; empty where none is meant (X(7), DISPLAY NAMES)."""
    return environment.get("DISPLAY", "")


def x11_listener(where: str) -> str:
    """Return the name of the listener of a display; its screen is no part of it, as one listener hears all of them."""
    return f"x11{where.removesuffix('.0')}"


# Each kind of desk that is found by the environment: where one is, and the name of its listener.
HERE: "Mapping[str, tuple[Callable[[Mapping[str, str]], str], Callable[[str], str]]]" = {X11: (x11_here, x11_listener)}


def listener_here(desk: str | None, environment: "Mapping[str, str]") -> str:
    """Return the name of the listener of the desk that is here, or of this kind; empty where there is none."""
    for name, (here, listener) in HERE.items():
        if desk in (None, "", name) and (where := here(environment)):
            return listener(where)
    return ""
