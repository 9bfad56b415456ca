"""Lost windows: what is out of reach, and how `gather` brings it back.

A window can be reached if enough of its title is within one work area to take hold of. The title is the strip at the
top, as high as the title bar, or `STRIP` without one. Enough is `GRIP` pixels in width and half the height, or the
whole strip where it is smaller. A window that fills its display by its shape can be reached if any display shows it.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Final

from jaklet.core.actions.change_words import window_name
from jaklet.core.actions.placing.arranging import NOTHING, FramePlan, Learned, arrange, as_now
from jaklet.core.actions.placing.windows import frames_needed
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, outcome
from jaklet.core.values.changes import Change, Stack
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.geometry import Anchor, Rect, settled_frame
from jaklet.core.values.sentences import Action
from jaklet.core.values.stacking import to_raise
from jaklet.core.values.words import counted

GRIP: Final = 48  # pixels: what a pointer takes hold of without care
STRIP: Final = 24  # pixels: the title of a window that shows none
STEP: Final = 32  # pixels between one gathered window and the next: its title is seen above the next one
ROOM: Final = 3  # gathered windows leave this part of a side, at the most, free for the steps


def is_lost(window: Window, displays: Iterable[Display]) -> bool:
    """True if no pointer can take hold of a window."""
    if window.shape is not WindowShape.NORMAL:
        return not any(window.frame.overlap(display.rect) for display in displays)
    title = _title(window, window.frame)
    wide, high = min(GRIP, title.width), max(1, title.height // 2)
    return not any(_shows(display.work, title, wide, high) for display in displays)


def _title(window: Window, frame: Rect) -> Rect:
    """Return the strip at the top of a window by which it is taken hold of, where it has this frame."""
    return frame._replace(height=min(frame.height, window.border.top if window.border.top > 0 else STRIP))


def _is_free(title: Rect, over: Iterable[Rect]) -> bool:
    """True if enough of a title is seen beside the frames that stand before it."""
    high = [one for one in over if min(one.bottom, title.bottom) - max(one.y, title.y) > title.height // 2]
    at, widest = title.x, 0
    for one in sorted(high):
        widest = max(widest, min(one.x, title.right) - at)
        at = max(at, one.right)
    return max(widest, title.right - at) >= min(GRIP, title.width)


def _shows(work: Rect, title: Rect, wide: int, high: int) -> bool:
    across = min(work.right, title.right) - max(work.x, title.x)
    down = min(work.bottom, title.bottom) - max(work.y, title.y)
    return across >= wide and down >= high


def lost_windows(desk: Desk) -> tuple[Window, ...]:
    """Return the lost windows, dialogs too, in the order in which they opened."""
    return tuple(window for window in desk.windows if is_lost(window, desk.displays))


def gather(_action: Action, context: TaskContext, moment: Moment) -> Task:
    """Bring every lost window back into reach. Minimised ones stay so, and are there when they come back."""
    lost = lost_windows(moment.desk)
    if not lost:
        return outcome(True, "no window is out of reach")
    return _gathered(lost, context, moment)


def _gathered(lost: Sequence[Window], context: TaskContext, moment: Moment) -> Task:
    start, config = moment.desk, context.config

    def plan(learned: Learned, desk: Desk) -> FramePlan:
        now = (as_now(window, desk) for window in lost)
        known = [w._replace(limits=learned.get(w.id, NOTHING).limits or w.limits) for w in now]
        return FramePlan(stepped_frames(known, start))

    done = yield from arrange(plan, _gathered_needed, context, moment)
    desk = done.moment.desk
    names = []
    for window in lost:
        now = desk.by_id.get(window.id)
        where = f"on {config.role_of(desk.display_of(now.frame))}" if now else "closed meanwhile"
        names.append(f"{window_name(now or window, desk, config)} {where}")
    still = [window for window in lost_windows(desk) if window.id in {one.id for one in lost}]
    line = f"{counted(len(lost) - len(still), 'window')} brought back"
    if still:
        line += f"; {len(still)} could not be"
    return TaskOutcome(not still, line, (*names, *done.notes))


def _gathered_needed(desk: Desk, frames: Mapping[int, Rect]) -> tuple[Change, ...]:
    """Return the changes that put windows at these frames, before all others, so that each title is in view."""
    changes = frames_needed(desk, frames, hidden=True)
    order = tuple(wid for wid in frames if (window := desk.by_id.get(wid)) and desk.in_view(window))
    current = [wid for wid in desk.stacking if not desk.by_id[wid].above or wid in order]
    return (*changes, Stack(order)) if to_raise(current, order) else changes


def stepped_frames(windows: Sequence[Window], desk: Desk) -> Mapping[int, Rect]:
    """Return frames for windows on the displays that are nearest to them, each a step right of and below the last.

    A window keeps its size where that fits from there; else it is made as small as need be, and it can be. Where
    that would cover a title, it stands where it covers none, as far as there is such a place.
    """
    frames: dict[int, Rect] = {}
    placed: dict[str, int] = {}
    brought = {window.id for window in windows}
    titles = [
        _title(one, one.frame) for one in desk.windows if desk.in_view(one) and one.id not in brought and not one.above
    ]
    for window in windows:
        display = desk.display_of(window.frame)
        order = placed.get(display.name, 0)
        placed[display.name] = order + 1
        found = _uncovering(window, display, order, titles, frames)
        frames[window.id] = found
        titles.append(_title(window, found))
    return frames


def _uncovering(
    window: Window, display: Display, order: int, titles: Sequence[Rect], frames: Mapping[int, Rect]
) -> Rect:
    """Return a frame for a window: its step; if that covers a title, elsewhere on the display at the same size."""
    usual = step_frame(window, display.work, order)
    best, fewest = usual, _covers(usual, titles, frames)
    work = display.work
    for y in range(work.y + STEP, work.bottom - usual.height + 1, STEP) if fewest else ():
        for x in range(work.x + STEP, work.right - usual.width + 1, STEP):
            frame = usual._replace(x=x, y=y)
            covered = _covers(frame, titles, frames)
            if covered < fewest:
                best, fewest = frame, covered
            if not fewest:
                return best
    return best


def _covers(frame: Rect, titles: Sequence[Rect], frames: Mapping[int, Rect]) -> int:
    """Return how many titles would not be seen any more, if a window came to stand there, before those gathered."""
    over = [*frames.values(), frame]
    # Those that were brought in before are the last of the titles, in the same order; each hides what is behind it.
    behind = len(titles) - len(frames)
    return sum(not _is_free(title, over[max(0, i - behind + 1) :]) for i, title in enumerate(titles))


def step_frame(window: Window, work: Rect, order: int) -> Rect:
    """Return the frame of the window that is brought into a work area as so many others were before it."""
    each = max(1, min(work.width, work.height) // ROOM // STEP)
    turn, at = divmod(order, each)
    # Each turn begins a little further right than the one before, so that it hides none of its titles.
    x = work.x + (at + 1) * STEP + turn % each * (STEP * each) % max(1, work.width - 2 * STEP * each)
    y = work.y + (at + 1) * STEP
    room = Rect(x, y, min(window.frame.width, work.right - x), min(window.frame.height, work.bottom - y))
    return settled_frame(room, window.border, window.limits, Anchor())
