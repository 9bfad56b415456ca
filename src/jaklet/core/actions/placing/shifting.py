"""The actions `nudge`, `stretch` and `shrink`: a window's frame changed by an amount at a side."""

from collections.abc import Callable
from typing import Final

from jaklet.core.actions.placing.grounds import ground_of
from jaklet.core.actions.placing.window_stands import FILLING
from jaklet.core.actions.placing.windows import finish_window_goal, placing, target_window
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, outcome
from jaklet.core.values.changes import Change
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.forms import FullPlace, Ground, frame_of
from jaklet.core.values.geometry import Anchor, Length, Rect, settled_frame
from jaklet.core.values.sentences import Action

DEFAULT: Final = Length(None, 40)  # pixels: seen at once, and yet small
AXIS: Final = {"left": "x", "right": "x", "up": "y", "down": "y"}
Shift = Callable[[Window, Rect, str, int, Ground], Rect]


def nudge(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Move the window towards a side; it stops at the rim of the work area."""
    return _shifted(nudged_frame, "nudged", action, context, moment)


def stretch(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Move one edge of the window outwards; it stops at the rim of the work area."""
    return _shifted(stretched_frame, "stretched", action, context, moment)


def shrink(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Move one edge of the window inwards, down to the least size that it takes."""
    return _shifted(shrunk_frame, "shrunk", action, context, moment)


def _shifted(shift: Shift, word: str, action: Action, context: TaskContext, moment: Moment) -> Task:
    window, desk = target_window(action, context, moment.desk), moment.desk
    if isinstance(window, str):
        return outcome(False, window)
    side, named = action.refs[0].name, action.named("LENGTH")
    amount = named.length if named and named.length else DEFAULT
    before = desk.frame_of(window)
    display = desk.display_of(before)
    ground = ground_of(window, display, desk, context.config)
    pixels = amount.of(ground.area.width if AXIS[side] == "x" else ground.area.height)
    if window.shape in FILLING:  # it leaves that, and what it would have under a bar
        before = frame_of(FullPlace(), ground)
    frame = shift(window, before, side, max(1, pixels), ground)
    if frame == desk.frame_of(window):
        return outcome(True, f"nothing to do: the window is as far {side} as it goes")

    def goal(now: Desk) -> tuple[Change, ...]:
        return placing(now.by_id[window.id], frame, now) if window.id in now.by_id else ()

    return finish_window_goal(goal, window, context, moment, f"{word} {side}: {frame}")


def nudged_frame(_window: Window, frame: Rect, side: str, pixels: int, ground: Ground) -> Rect:
    """Return a frame moved by some pixels, within the rim, or as near to being within as it was."""
    step = -pixels if side in ("left", "up") else pixels
    if AXIS[side] == "x":
        return frame._replace(x=_kept(frame.x, frame.width, step, ground.area.x, ground.area.right, ground.rim))
    return frame._replace(y=_kept(frame.y, frame.height, step, ground.area.y, ground.area.bottom, ground.rim))


def _kept(at: int, size: int, step: int, low: int, high: int, rim: int) -> int:
    """Return the position after a step, which does not lead out of what is between `low` and `high`."""
    ends = sorted((low + rim, high - rim - size))  # the other way about where it is larger than the area
    if step < 0:
        return min(at, max(at + step, ends[0]))
    return max(at, min(at + step, ends[1]))


def stretched_frame(window: Window, frame: Rect, side: str, pixels: int, ground: Ground) -> Rect:
    """Return a frame with one edge further out; by a whole step at least, where the window has steps."""
    area, rim = ground.area, ground.rim
    room = {
        "left": frame.x - area.x - rim,
        "right": area.right - rim - frame.right,
        "up": frame.y - area.y - rim,
        "down": area.bottom - rim - frame.bottom,
    }[side]
    return _edge_moved(window, frame, side, pixels, max(0, room))


def shrunk_frame(window: Window, frame: Rect, side: str, pixels: int, _ground: Ground) -> Rect:
    """Return a frame with one edge further in; by a whole step at least, where the window has steps."""
    size = frame.width if AXIS[side] == "x" else frame.height
    return _edge_moved(window, frame, side, -pixels, size - 1)


def _edge_moved(window: Window, frame: Rect, side: str, pixels: int, room: int) -> Rect:
    """Return the frame after an edge was moved out by so many pixels (in, below zero), and no further than there is."""
    limits, across = window.limits, AXIS[side] == "x"
    anchor = Anchor(2 if side == "left" else 0, 2 if side == "up" else 0)
    sign = 1 if pixels > 0 else -1
    size = frame.width if across else frame.height
    step = limits.step_width if across else limits.step_height
    for wanted in (abs(pixels), max(abs(pixels), step)):
        length = max(1, size + sign * min(wanted, room))
        grown = frame._replace(width=length) if across else frame._replace(height=length)
        if side == "left":
            grown = grown._replace(x=frame.right - length)
        elif side == "up":
            grown = grown._replace(y=frame.bottom - length)
        taken = settled_frame(grown, window.border, limits, anchor)
        after = taken.width if across else taken.height
        if after != size:
            return taken if (after - size) * sign > 0 else frame
    return frame
