"""Work areas: from struts, and from what the window manager says where no strut tells why.

EWMH has one work area for all displays together (_NET_WORKAREA), so that what it leaves out has to be given to the
displays where it is.
"""

from collections.abc import Iterable, Sequence
from typing import Final

from jaklet.core.values.geometry import Rect, Strut

DEEPEST: Final = 4  # a strip of more than such a part of a display is no bar: the area is one of before


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


def unexplained(area: Rect, whole: Rect, struts: Iterable[Strut]) -> list[Strut]:
    """Return the strips at the edges of the screen that a work area leaves out, where struts leave out less."""
    free = {
        "left": Rect(0, 0, area.x, whole.height),
        "right": Rect(area.right, 0, whole.right - area.right, whole.height),
        "top": Rect(0, 0, whole.width, area.y),
        "bottom": Rect(0, area.bottom, whole.width, whole.bottom - area.bottom),
    }
    known = dict.fromkeys(free, 0)
    for side, strip in struts:
        known[side] = max(known[side], depth(Strut(side, strip)))
    return [Strut(side, strip) for side, strip in free.items() if depth(Strut(side, strip)) > known[side]]


def depth(strut: Strut) -> int:
    """Return how far a strip reaches in from its edge."""
    return strut.strip.width if strut.side in ("left", "right") else strut.strip.height


def on_displays(strips: Iterable[Strut], displays: Sequence[Rect], windows: Iterable[Rect]) -> list[Strut]:
    """Return the part of each strip that a display loses: where a window lies within it, a bar most likely.

    Where none does, it is all displays at that edge. `windows`: those that are mapped and nobody's main windows.
    """
    windows, found = tuple(windows), []
    for side, strip in strips:
        parts = [part for display in displays if (part := _common(display, strip)) and _is_bar(side, part, display)]
        barred = [part for part in parts if any(_fills(window, part, side) for window in windows)]
        found += [Strut(side, part) for part in barred or parts]
    return found


def _common(one: Rect, other: Rect) -> Rect | None:
    x, y = max(one.x, other.x), max(one.y, other.y)
    right, bottom = min(one.right, other.right), min(one.bottom, other.bottom)
    return Rect(x, y, right - x, bottom - y) if right > x and bottom > y else None


def _is_bar(side: str, part: Rect, display: Rect) -> bool:
    """True if a part is at that edge of its display, and no deeper than a bar."""
    if side in ("left", "right"):
        return part.width * DEEPEST <= display.width
    return part.height * DEEPEST <= display.height


def _fills(window: Rect, part: Rect, side: str) -> bool:
    """True if a window lies within a strip and takes more than half of its depth."""
    inside = _common(window, part)
    if inside is None or inside.width * inside.height * 2 < window.width * window.height:
        return False
    deep, whole = (inside.width, part.width) if side in ("left", "right") else (inside.height, part.height)
    return deep * 2 > whole
