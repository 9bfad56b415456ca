"""The action `gaps`: gaps between windows, on or off, and the windows moved to match."""

from jaklet.core.actions.change_words import refusal_told
from jaklet.core.actions.placing.window_stands import filling, form_of
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, reach
from jaklet.core.values.changes import Change, Gaps, Move
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, WindowShape
from jaklet.core.values.forms import PixelPlace
from jaklet.core.values.geometry import Rect
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import counted


def gaps(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Switch gaps on or off; with neither said, the other way. Windows that fill a place close up or make room."""
    desk, config = moment.desk, context.config
    switch = action.named("SWITCH")
    on = switch.name == "on" if switch else not desk.gaps
    frames = with_gaps(desk, config, on)

    def goal(now: Desk) -> tuple[Change, ...]:
        switched: tuple[Change, ...] = () if now.gaps is on else (Gaps(on),)
        return switched + tuple(
            Move(wid, frame) for wid, frame in frames.items() if wid in now.by_id and now.by_id[wid].frame != frame
        )

    moment, refused, _ = yield from reach(goal, moment)
    told = tuple(refusal_told(change, moment.desk, config) for change in refused)
    moved = f", {counted(len(frames), 'window')} moved" if frames else ""
    return TaskOutcome(not refused, f"gaps are {'on' if on else 'off'}{moved}", told)


def with_gaps(desk: Desk, config: Config, on: bool) -> dict[int, Rect]:
    """Return the new frames of the windows that fill a place now, where these differ."""
    other, frames = desk.with_gaps(on), {}
    for window in desk.main_windows:
        if window.shape is not WindowShape.NORMAL:
            continue
        form = form_of(window, desk, config)
        if isinstance(form, PixelPlace):
            continue
        frame = filling(form, window, desk.display_of(desk.frame_of(window)), other, config).frame(window)
        if frame != desk.frame_of(window):
            frames[window.id] = frame
    return frames
