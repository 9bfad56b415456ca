"""From what our code in a compositor tells to the picture of a desk. Nothing of it is believed that does not fit."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Final, NamedTuple

from jaklet.core.values.desk import DIALOG, NORMAL, Display, Window, WindowShape
from jaklet.core.values.geometry import Insets, Rect, SizeLimits
from jaklet.desktops import procfs

MOST: Final = 32767  # pixels: what is told of a window without a greatest size is far beyond that


class AgentWindow(NamedTuple):
    """A window of the agent: its id there, its process, and as it is. `is_x11`: it is of a program of X11."""

    uuid: str
    pid: int
    window: Window
    is_x11: bool


def window_of(told: Mapping[str, Any], number_of: Callable[[str], int], process: str | None = None) -> AgentWindow:
    """Return a window that the agent has described; raises `KeyError`, `TypeError` or `ValueError`.

    `number_of`: returns the id of a window by its id there. `process`: the name of its process, where it is known.
    """
    frame, inside = Rect(*told["frame"]), Rect(*told["inside"])
    border = Insets(inside.x - frame.x, frame.right - inside.right, inside.y - frame.y, frame.bottom - inside.bottom)
    (wide, high), (widest, highest) = told["least"], told["most"]
    shape = (
        WindowShape.FULLSCREEN
        if told["fullscreen"]
        else WindowShape.MAXIMISED
        if told["maximised"]
        else WindowShape.TILED
        if told["tiled"]
        else WindowShape.NORMAL
    )
    pid = int(told["pid"])
    window = Window(
        number_of(told["id"]),
        instance=told["name"],
        cls=told["cls"],
        title=told["title"],
        role=told["role"],
        frame=frame,
        border=border,
        limits=SizeLimits(max(1, int(wide)), max(1, int(high)), _most(widest), _most(highest)),
        workspace=told["workspace"] or None,
        shape=shape,
        minimised=told["minimised"],
        above=told["above"],
        kind=DIALOG if told["dialog"] else NORMAL,
        parent=number_of(told["parent"]) if told["parent"] else None,
        process=(procfs.name_of(pid) if pid > 0 else "") if process is None else process,
        takes_focus=told["focusable"],
    )
    return AgentWindow(told["id"], pid, window, bool(told["x11"]))


def _most(size: float) -> int:
    return MOST if not 0 < size < MOST else int(size)


def displays_of(screens: Sequence[Mapping[str, Any]], names: Mapping[tuple[int, int], str]) -> tuple[Display, ...]:
    """Return the displays; the first one is primary where none is said to be. `names`: connectors by their corners."""
    found = []
    for number, screen in enumerate(screens):
        whole, primary = Rect(*screen["whole"]), bool(screen.get("primary", number == 0))
        found.append(Display(names.get((whole.x, whole.y), f"screen-{number}"), whole, Rect(*screen["work"]), primary))
    return tuple(found)
