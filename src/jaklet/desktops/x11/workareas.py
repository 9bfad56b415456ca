"""Work areas: from struts, and from what the window manager says where no strut tells why.

EWMH has one work area for all displays together (_NET_WORKAREA), so that what it leaves out has to be given to the
displays where it is.
"""

from collections.abc import Iterable, Sequence
from typing import Final

from jaklet.core.values.geometry import Rect, Strut

DEEPEST: Final = 6  # a strip of more than such a part of a display is no bar


def whole_of(displays: Iterable[Rect]) -> Rect:
    """Return the least rectangle from the origin that has all displays in it: the screen, as struts count it."""
    displays = tuple(displays)
    return Rect(0, 0, max(rect.right for rect in displays), max(rect.bottom for rect in displays))


def struts_of(words: Sequence[int], whole: Rect) -> Iterable[Strut]:
    """Yield the strips of _NET_WM_STRUT_PARTIAL (12 numbers), or of the older _NET_WM_STRUT (4); none for less."""
    if len(words) < 4:
        return
    left, right, top, bottom = words[:4]
    width, height = whole.width, whole.height
    spans = words[4:12] if len(words) >= 12 else (0, height - 1, 0, height - 1, 0, width - 1, 0, width - 1)
    if left:
        yield Strut("left", Rect(0, spans[0], left, spans[1] - spans[0] + 1))
    if right:
        yield Strut("right", Rect(width - right, spans[2], right, spans[3] - spans[2] + 1))
    if top:
        yield Strut("top", Rect(spans[4], 0, spans[5] - spans[4] + 1, top))
    if bottom:
        yield Strut("bottom", Rect(spans[6], height - bottom, spans[7] - spans[6] + 1, bottom))


def unexplained_strips(area: Rect, whole: Rect, struts: Iterable[Strut]) -> list[Strut]:
    """Return the strips at the edges of the screen that a work area leaves out, where struts leave out less."""
    free = {
        "left": Rect(0, 0, area.x, whole.height),
        "right": Rect(area.right, 0, whole.right - area.right, whole.height),
        "top": Rect(0, 0, whole.width, area.y),
        "bottom": Rect(0, area.bottom, whole.width, whole.bottom - area.bottom),
    }
    known = dict.fromkeys(free, 0)
    for side, strip in struts:
        known[side] = max(known[side], strip_depth(Strut(side, strip)))
    return [Strut(side, strip) for side, strip in free.items() if strip_depth(Strut(side, strip)) > known[side]]


def strip_depth(strut: Strut) -> int:
    """Return how far a strip reaches in from its edge."""
    return strut.strip.width if strut.side in ("left", "right") else strut.strip.height


def on_displays(strips: Sequence[Strut], displays: Sequence[Rect], windows: Sequence[Rect]) -> list[Strut]:
    """Return the widths that bars without a strut take off displays.

    `strips`: the parts that a work area leaves out beside.

    `windows`: those of the manager itself. One that lies along an edge is a bar; where the work area could tell of it,
    it counts only if that does: one for the whole screen cannot tell of an edge between two displays. Where there is
    none, a strip is taken from every display at that edge.
    """
    whole, sides = whole_of(displays), {side for side, _ in strips}
    bars = [
        Strut(side, bar)
        for display in displays
        for window in windows
        if (bar := _common(window, display)) and (side := _edge_of(bar, display))
        if side in sides or not _is_outer(side, display, whole)
    ]
    if bars:
        return bars
    parts = [(side, _common(display, strip), display) for side, strip in strips for display in displays]
    return [Strut(side, part) for side, part, display in parts if part and _is_thin(side, part, display)]


def _common(one: Rect, other: Rect) -> Rect | None:
    x, y = max(one.x, other.x), max(one.y, other.y)
    right, bottom = min(one.right, other.right), min(one.bottom, other.bottom)
    return Rect(x, y, right - x, bottom - y) if right > x and bottom > y else None


def _edge_of(bar: Rect, display: Rect) -> str:
    """Return the edge of a display along which a bar lies, for half of its length at least; empty if along none."""
    ends = {
        "left": (bar.x == display.x, bar.height * 2 >= display.height),
        "right": (bar.right == display.right, bar.height * 2 >= display.height),
        "top": (bar.y == display.y, bar.width * 2 >= display.width),
        "bottom": (bar.bottom == display.bottom, bar.width * 2 >= display.width),
    }
    return next((side for side, along in ends.items() if all(along) and _is_thin(side, bar, display)), "")


def _is_outer(side: str, display: Rect, whole: Rect) -> bool:
    """True if an edge of a display is one of the whole screen, of which a work area can tell."""
    ends = {"left": display.x == 0, "right": display.right == whole.right, "top": display.y == 0}
    return ends.get(side, display.bottom == whole.bottom)


def _is_thin(side: str, part: Rect, display: Rect) -> bool:
    """True if a strip is no deeper than a bar is."""
    if side in ("left", "right"):
        return part.width * DEEPEST <= display.width
    return part.height * DEEPEST <= display.height
