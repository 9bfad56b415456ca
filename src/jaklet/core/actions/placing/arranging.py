"""Giving windows their frames, learning what they take instead, and what is said of it."""

from collections.abc import Callable, Generator, Mapping
from typing import Final, NamedTuple

from jaklet.core.actions.change_words import refusal_told, window_name
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Goal, TaskContext, TaskRequest, reach, wait_for_returns
from jaklet.core.values.changes import Change, Move
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.geometry import Insets, Rect, SizeLimits

ROUNDS: Final = (
    3  # an arrangement is planned again around what was learned: first where windows stand, then their sizes
)


class RefusedFrame(NamedTuple):
    """What was learned of a window that did not take the frame it was asked to.

    `limits`: it keeps the one size that it has. `kept_in`: the window manager lets no part of it off its display, its
    invisible shadow included.
    """

    limits: SizeLimits | None = None
    kept_in: bool = False


Learned = Mapping[int, RefusedFrame]  # by the windows' ids
NOTHING: Final = RefusedFrame()


class FramePlan(NamedTuple):
    """The frame of each window, by its id, and what is to be said of it."""

    frames: Mapping[int, Rect]
    notes: tuple[str, ...] = ()


class ArrangingResult(NamedTuple):
    """How an arrangement went: the last moment, what was refused, what is to be said, whether there was any to ask."""

    moment: Moment
    refused: tuple[Change, ...]
    notes: tuple[str, ...]
    asked: bool


Plan = Callable[[Learned, Desk], FramePlan]
Needed = Callable[[Desk, Mapping[int, Rect]], tuple[Change, ...]]


def as_now(window: Window, desk: Desk) -> Window:
    """Return a window as it was, with the frame around it and the limits that it has now."""
    now = desk.by_id.get(window.id, window)
    return window._replace(border=now.border, limits=now.limits)


def arrange(
    plan: Plan, needed: Needed, context: TaskContext, moment: Moment
) -> Generator[TaskRequest, Moment, ArrangingResult]:
    """Give the windows of a plan their frames. What a window took instead is learned, and the rest planned around it.

    `needed`: what it still takes for windows to have these frames.
    """
    learned: dict[int, RefusedFrame] = {}
    notes: tuple[str, ...] = ()
    asked, began = False, moment.now
    planned = plan(learned, moment.desk)
    for _ in range(ROUNDS):
        moment, refused, more = yield from reach(_goal(needed, planned.frames), moment, lasting=True, since=began)
        asked |= more
        again = plan(learned, moment.desk)
        # A window that was maximised has another frame around it now, so that other sizes fit.
        if again.frames == planned.frames:
            new = _lessons(refused, learned, moment.desk)
            if not new:
                break
            desk = moment.desk
            odd = {wid: one for wid, one in new.items() if not _has_rounded(desk.by_id[wid], planned.frames[wid])}
            notes += tuple(_lesson_told(one, desk.by_id[wid], context.config, desk) for wid, one in odd.items())
            learned |= new
            again = plan(learned, desk)
        planned = again
    if not refused:
        desk = moment.desk
        windows = [desk.by_id[wid] for wid in planned.frames if wid in desk.by_id]
        moment, refused = yield from wait_for_returns(_goal(needed, planned.frames), windows, context, moment)
    told = tuple(refusal_told(change, moment.desk, context.config) for change in refused)
    return ArrangingResult(moment, refused, (*planned.notes, *notes, *told), asked)


def _goal(needed: Needed, frames: Mapping[int, Rect]) -> Goal:
    return lambda desk: needed(desk, frames)


def _lessons(refused: tuple[Change, ...], known: Learned, desk: Desk) -> dict[int, RefusedFrame]:
    """Return the newly learned limits of windows whose changes were refused."""
    new = {}
    for change in refused:
        window = desk.by_id.get(change.window) if isinstance(change, Move) else None
        if window is None or not isinstance(change, Move):
            continue
        before, wanted, stands = known.get(window.id, NOTHING), change.frame, window.frame
        if not before.kept_in and shadow_of(window) != Insets() and wanted[:2] != stands[:2]:
            new[window.id] = before._replace(kept_in=True)
        elif before.limits is None and wanted[2:] != stands[2:]:
            inside = window.border.inside(stands)
            size = inside.width, inside.height
            new[window.id] = before._replace(limits=SizeLimits(*size, *size))
    return new


STEP: Final = 32  # pixels: more than a letter of a terminal has


def _has_rounded(window: Window, wanted: Rect) -> bool:
    """True if a window has the corner that was asked for, and a size that is less by no more than a step of its own.

    Not every desktop tells in which steps a terminal takes its size.
    """
    stands = window.frame
    less = wanted.width - stands.width, wanted.height - stands.height
    return stands[:2] == wanted[:2] and all(0 <= one < STEP for one in less)


def shadow_of(window: Window) -> Insets:
    """Return how far a window reaches, unseen, beyond what is seen of it."""
    return Insets(*(max(0, -side) for side in window.border))


def kept_in(frame: Rect, window: Window, area: Rect) -> Rect:
    """Return the part of a frame where all of the window, its shadow included, is within an area."""
    room = shadow_of(window).inside(area)
    x, y = max(frame.x, room.x), max(frame.y, room.y)
    return Rect(x, y, max(1, min(frame.right, room.right) - x), max(1, min(frame.bottom, room.bottom) - y))


def _lesson_told(lesson: RefusedFrame, window: Window, config: Config, desk: Desk) -> str:
    name = window_name(window, desk, config)
    if lesson.limits is None:
        return f"the window manager keeps the invisible shadow of {name} on the display, so that it stands further in"
    return f"{name} took no other size than {window.frame.width}x{window.frame.height}"
