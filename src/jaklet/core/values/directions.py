"""Which window is to the left, to the right, above or below: the measure, and nothing else.

Seen from a window in one direction, `ahead` is the distance between the edges that face each other, and `aside` the
distance across the direction. Both are below zero where the windows overlap.

1. A window *in line* (`aside` below zero) counts if its centre is further in the direction. Any other counts if it is
   wholly beyond the edge (`ahead` not below zero).
2. Windows in line come first, by `ahead`; then the others, by `ahead` plus `aside`.
3. Windows no more than `SLACK` pixels further than the nearest are equally near, and the one used last is chosen. So
   there and back comes home, unless another window is nearer.

The measure is the same in both directions. Windows that others cover wholly are passed over. All displays are parts of
one plane.
"""

from collections.abc import Iterable, Sequence
from typing import Final, NamedTuple

from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.geometry import Rect

SIDES: Final = ("left", "right", "up", "down")
SLACK: Final = 24  # pixels: more than a gap or a step of a terminal's size, less than windows are set off by


class Distance(NamedTuple):
    """How far a window is; the lesser is the nearer."""

    out_of_line: bool
    pixels: int


def distance(here: Rect, there: Rect, side: str) -> Distance | None:
    """Return how far `there` is from `here` in a direction; None if it is not in that direction."""
    if side in ("left", "up"):
        here, there = there, here  # the measure from there, in the opposite direction, is the same
    if side in ("left", "right"):
        ahead, beyond = there.x - here.right, there.x + there.right > here.x + here.right
        aside = max(there.y - here.bottom, here.y - there.bottom)
    else:
        ahead, beyond = there.y - here.bottom, there.y + there.bottom > here.y + here.bottom
        aside = max(there.x - here.right, here.x - there.right)
    if aside < 0:
        return Distance(False, ahead) if beyond else None
    return Distance(True, ahead + aside) if ahead >= 0 else None


def towards(here: Window, side: str, desk: Desk) -> Window | None:
    """Return the window that is next in a direction; None where there is none."""
    measured = [
        (far, window)
        for window in desk.main_windows
        if window.id != here.id and desk.in_view(window) and (far := distance(here.frame, window.frame, side))
    ]
    shown = VisibilityTest(desk)
    near: list[Window] = []
    best: Distance | None = None
    for far, window in sorted(measured, key=lambda pair: pair[0]):
        if best and (far.out_of_line != best.out_of_line or far.pixels > best.pixels + SLACK):
            break
        if shown(window):
            best = best or far
            near.append(window)
    return desk.latest(tuple(near))


class VisibilityTest:
    """Tells whether anything of a window can be seen."""

    def __init__(self, desk: Desk) -> None:
        views = (desk.by_id[wid] for wid in desk.stacking if wid in desk.by_id)
        self._views = [window for window in views if desk.in_view(window)]
        self._height = {window.id: i for i, window in enumerate(self._views)}

    def __call__(self, window: Window) -> bool:
        """Return whether anything of it can be seen."""
        above = self._views[self._height.get(window.id, -1) + 1 :]
        return bool(uncovered_parts(window.frame, (other.frame for other in above)))


def uncovered_parts(frame: Rect, covers: Iterable[Rect]) -> Sequence[Rect]:
    """Return rectangles that make up what the covers leave of a frame."""
    left = [frame]
    for cover in covers:
        left = [part for rect in left for part in _less(rect, cover)]
        if not left:
            break
    return left


def _less(rect: Rect, cover: Rect) -> list[Rect]:
    """Return the parts of a rectangle outside of another: at most four, none over another."""
    if not rect.overlap(cover):
        return [rect]
    top, bottom = max(rect.y, cover.y), min(rect.bottom, cover.bottom)
    parts = (
        Rect(rect.x, rect.y, rect.width, top - rect.y),
        Rect(rect.x, bottom, rect.width, rect.bottom - bottom),
        Rect(rect.x, top, cover.x - rect.x, bottom - top),
        Rect(cover.right, top, rect.right - cover.right, bottom - top),
    )
    return [part for part in parts if part.width > 0 and part.height > 0]
