"""From what the script in KWin tells to the picture of a desk. Nothing of it is believed that does not fit."""

import re
from collections.abc import Mapping, Sequence
from typing import Any, Final, NamedTuple

from jaklet.core.values.desk import DIALOG, NORMAL, Display, Window, WindowShape
from jaklet.core.values.geometry import Insets, Rect, SizeLimits
from jaklet.core.values.regexes import regex
from jaklet.desktops import procfs

MOST: Final = 32767  # pixels: what KWin says of a window without a greatest size is far beyond that
_OUTPUT: Final = re.compile(
    r"^Screen \d+:\n-+\nName: (?P<name>\S+)\n(?:.*\n)*?Geometry: (?P<x>-?\d+),(?P<y>-?\d+),(?P<w>\d+)x(?P<h>\d+)",
    re.MULTILINE,
)


class ScriptWindow(NamedTuple):
    """A window of the script: its id there, its process, and as it is."""

    uuid: str
    pid: int
    window: Window


def number_of(uuid: str) -> int:
    """Return the id of a window: the first 32 bits of KWin's own, so that it is the same for every process of ours."""
    return int(uuid.strip("{}")[:8], 16)


# What KWin puts behind a title that several windows have: a number, and a mark for the direction of the text.
_OF_KWIN: Final = regex(r"(?: <\d+>)?\N{LEFT-TO-RIGHT MARK}$")


def window_of(told: Mapping[str, Any], process: str | None = None) -> ScriptWindow:
    """Return a window that the script has described; raises `KeyError`, `TypeError` or `ValueError`.

    `process`: the name of its process, where it is known already.
    """
    frame, inside = Rect(*told["frame"]), Rect(*told["inside"])
    border = Insets(inside.x - frame.x, frame.right - inside.right, inside.y - frame.y, frame.bottom - inside.bottom)
    (wide, high), (widest, highest) = told["least"], told["most"]
    shape = (
        WindowShape.FULLSCREEN
        if told["fullscreen"]
        else WindowShape.MAXIMISED
        if told["maximised"]
        else WindowShape.NORMAL
    )
    pid = int(told["pid"])
    window = Window(
        number_of(told["id"]),
        instance=told["name"],
        cls=told["cls"],
        title=_OF_KWIN.sub("", told["title"]),
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
    return ScriptWindow(told["id"], pid, window)


def _most(size: float) -> int:
    return MOST if not 0 < size < MOST else int(size)


def displays_of(screens: Sequence[Mapping[str, Any]], support: str) -> tuple[Display, ...]:
    """Return the displays, by the names that KWin's own report gives to their rectangles; the first one is primary.

    The script cannot ask for names in 5.27.
    """
    outputs = [one.groupdict() for one in _OUTPUT.finditer(support)]
    names = {Rect(*(int(one[part]) for part in "xywh")): one["name"] for one in outputs}
    found = []
    for number, screen in enumerate(screens):
        whole = Rect(*screen["whole"])
        found.append(Display(names.get(whole, f"screen-{number}"), whole, Rect(*screen["work"]), number == 0))
    return tuple(found)
