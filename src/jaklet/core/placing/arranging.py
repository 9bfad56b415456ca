"""Giving several windows their frames at once, and what is said of it."""

from collections.abc import Callable, Generator, Mapping
from typing import NamedTuple

from jaklet.core.config import Config
from jaklet.core.desk import Change, Desk, Move, Window
from jaklet.core.geometry import Rect, SizeLimits
from jaklet.core.placing.windows import placing
from jaklet.core.ports import Moment
from jaklet.core.tasks import Ask, Context, reach
from jaklet.core.telling import refusal_told, window_name

Learned = Mapping[int, SizeLimits]  # the one size that windows keep which were asked for another, by their ids
ROUNDS = 2  # an arrangement is planned again, once, around windows that did not take what their hints promise


class Frames(NamedTuple):
    """The frame of each window, by its id, and what is to be said of it."""

    frames: Mapping[int, Rect]
    notes: tuple[str, ...] = ()


class Arranged(NamedTuple):
    """How an arrangement went: the last moment, what was refused, what is to be said, whether there was any to ask."""

    moment: Moment
    refused: tuple[Change, ...]
    notes: tuple[str, ...]
    asked: bool


def frames_goal(frames: Mapping[int, Rect]) -> Callable[[Desk], tuple[Change, ...]]:
    """Return the goal that windows have these frames."""

    def goal(desk: Desk) -> tuple[Change, ...]:
        known = desk.by_id
        return tuple(change for wid, frame in frames.items() if wid in known for change in placing(known[wid], frame))

    return goal


def arrange(plan: Callable[[Learned], Frames], context: Context, moment: Moment) -> Generator[Ask, Moment, Arranged]:
    """Give the windows of a plan their frames. What a window took instead is learnt, and the rest planned around it."""
    learned: dict[int, SizeLimits] = {}
    notes: tuple[str, ...] = ()
    asked = False
    for _ in range(ROUNDS):
        planned = plan(learned)
        moment, refused, more = yield from reach(frames_goal(planned.frames), moment)
        asked |= more
        new = [
            window
            for change in refused
            if isinstance(change, Move)
            and (window := moment.desk.by_id.get(change.window))
            and _other_size(change, window)
            if change.window not in learned
        ]
        if not new:
            break
        notes += tuple(_kept_its_size(window, moment.desk, context.config) for window in new)
        for window in new:
            inside = window.border.inside(window.frame)
            learned[window.id] = SizeLimits(inside.width, inside.height, inside.width, inside.height)
    told = tuple(refusal_told(change, moment.desk, context.config) for change in refused)
    return Arranged(moment, refused, (*planned.notes, *notes, *told), asked)


def _other_size(change: Move, window: Window) -> bool:
    return (change.frame.width, change.frame.height) != (window.frame.width, window.frame.height)


def _kept_its_size(window: Window, desk: Desk, config: Config) -> str:
    size = f"{window.frame.width}x{window.frame.height}"
    return f"{window_name(window, desk, config)} took no other size than {size}; the others stand around it"
