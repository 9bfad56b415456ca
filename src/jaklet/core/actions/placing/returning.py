"""Displays that go and come back: their windows are brought to another one, and return with them."""

from collections.abc import Iterable, Mapping
from typing import NamedTuple

from jaklet.core.actions.change_words import refusal_told
from jaklet.core.actions.placing.afar import share_on
from jaklet.core.actions.placing.swapping import shaped_at
from jaklet.core.actions.placing.windows import as_in_view
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Goal, Task, TaskContext, TaskOutcome, reach
from jaklet.core.values.changes import Change
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.geometry import Rect
from jaklet.core.values.words import counted, listed


class DisplacedWindow(NamedTuple):
    """A window that was brought from a display that is gone: how it stood there, and where it was put instead."""

    display: Display
    frame: Rect
    shape: WindowShape
    put: Rect


def gone_displays(before: Desk, now: Desk) -> tuple[Display, ...]:
    """Return the displays that were there before and are not any more."""
    names = {display.name for display in now.displays}
    return tuple(display for display in before.displays if display.name not in names)


def brought_in(before: Desk, now: Desk, config: Config) -> Mapping[int, DisplacedWindow]:
    """Return where the windows of displays that are gone are to be put: the same share of the nearest that is left."""
    lost = {display.name: display for display in gone_displays(before, now)}
    away = {}
    for window in before.main_windows:
        home = lost.get(before.display_of(window.frame).name)
        if home and window.id in now.by_id:
            here = now.display_of(home.rect)
            away[window.id] = DisplacedWindow(home, window.frame, window.shape, share_on(window, here, before, config))
    return away


def bring_in(away: Mapping[int, DisplacedWindow], context: TaskContext, moment: Moment) -> Task:
    """Put the windows of a display that is gone where they can be seen."""
    frames = {wid: (one.put, one.shape) for wid, one in away.items()}
    moment, refused, _ = yield from reach(_standing(frames), moment)
    config = context.config
    homes = listed(sorted({config.role_of(one.display) for one in away.values()}))
    told = tuple(refusal_told(change, moment.desk, config) for change in refused)
    line = f"{counted(len(away), 'window')} of display {homes} brought to {_where(away, moment.desk, config)}"
    return TaskOutcome(not refused, line, told)


def unmoved_windows(
    away: Mapping[int, DisplacedWindow], desk: Desk, names: Iterable[str]
) -> Mapping[int, DisplacedWindow]:
    """Return the windows of these displays that stand where they were put: nobody has moved them since."""
    names = set(names)
    return {
        wid: one
        for wid, one in away.items()
        if one.display.name in names and (window := desk.by_id.get(wid)) and _stands(window, one)
    }


def _stands(window: Window, one: DisplacedWindow) -> bool:
    return window.frame == one.put if one.shape is WindowShape.NORMAL else window.shape is one.shape


def bring_back(away: Mapping[int, DisplacedWindow], context: TaskContext, moment: Moment) -> Task:
    """Put windows back on their displays, which are there again: as they stood, or with the same share."""
    desk, config = moment.desk, context.config
    frames: dict[int, tuple[Rect, WindowShape]] = {}
    for wid, one in away.items():
        home = desk.display_named(one.display.name)
        if home:
            same = home.work == one.display.work
            frame = one.frame if same else share_on(desk.by_id[wid], home, desk, config)
            frames[wid] = frame, one.shape
    moment, refused, _ = yield from reach(_standing(frames), moment)
    told = tuple(refusal_told(change, moment.desk, config) for change in refused)
    homes = listed(sorted({config.role_of(one.display) for one in away.values()}))
    return TaskOutcome(not refused, f"{counted(len(frames), 'window')} back on display {homes}", told)


def _standing(frames: Mapping[int, tuple[Rect, WindowShape]]) -> Goal:
    def goal(desk: Desk) -> tuple[Change, ...]:
        return tuple(
            change
            for wid, (frame, shape) in frames.items()
            if (window := desk.by_id.get(wid))
            for change in shaped_at(as_in_view(window), frame, shape, desk)
        )

    return goal


def _where(away: Mapping[int, DisplacedWindow], desk: Desk, config: Config) -> str:
    return listed(sorted({config.role_of(desk.display_of(one.put)) for one in away.values()}))
