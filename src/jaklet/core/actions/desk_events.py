"""What happened between two looks at a desk, and whether that is what an event of the config waits for."""

from collections.abc import Iterator
from typing import NamedTuple

from jaklet.core.language.event_kinds import (
    APPEARS,
    CARRIED,
    CLOSES,
    COMES,
    EVENTS,
    FOCUS,
    GOES,
    HIDES,
    OPENS,
    SENT,
    SHOWN,
    TITLE,
)
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.event_bindings import EventBinding
from jaklet.core.values.sentences import Ref


class DeskEvent(NamedTuple):
    """Something that happened: which event, of what (an app, display, layout or workspace), and to which window.

    `to`: the workspace or display that it moved to.
    """

    kind: str
    name: str = ""
    window: int | None = None
    to: str = ""


def events_between(before: Desk, now: Desk, config: Config) -> Iterator[DeskEvent]:
    """Yield the events between two readings of a desk."""
    if before.windows is not now.windows:
        yield from _to_windows(before, now, config)
    if before.active != now.active and now.active is not None:
        front = now.by_id.get(now.active)
        yield DeskEvent(FOCUS, _app(front, now, config), now.active)
    if before.workspace != now.workspace:
        yield DeskEvent(SHOWN, str(now.workspace))
    if before.displays != now.displays:
        were, are = ({config.role_of(display) for display in desk.displays} for desk in (before, now))
        yield from (DeskEvent(COMES, name) for name in sorted(are - were))
        yield from (DeskEvent(GOES, name) for name in sorted(were - are))


def _to_windows(before: Desk, now: Desk, config: Config) -> Iterator[DeskEvent]:
    """Yield which windows came and went, and which are called something else."""
    for window in now.windows:
        former = before.by_id.get(window.id)
        if former is None:
            yield DeskEvent(OPENS, _app(window, now, config), window.id)
        elif former != window:
            yield from _to_window(former, window, before, now, config)
    for window in before.windows:
        if window.id not in now.by_id:
            yield DeskEvent(CLOSES, _app(window, before, config))


def _to_window(former: Window, window: Window, before: Desk, now: Desk, config: Config) -> Iterator[DeskEvent]:
    """Yield the events of a window that was there before."""
    app = _app(window, now, config)
    if former.title != window.title:
        yield DeskEvent(TITLE, app, window.id)
    if former.workspace != window.workspace and window.workspace is not None:
        yield DeskEvent(SENT, app, window.id, str(window.workspace))
    if former.minimised != window.minimised:
        yield DeskEvent(HIDES if window.minimised else APPEARS, app, window.id)
    # A display that goes takes its windows elsewhere, which `display D goes` tells of.
    if former.frame != window.frame and before.displays == now.displays:
        was, is_ = before.display_of(former.frame), now.display_of(window.frame)
        if was != is_:
            yield DeskEvent(CARRIED, app, window.id, config.role_of(is_))


def _app(window: Window | None, desk: Desk, config: Config) -> str:
    return (config.claims.app_of(window, desk) or "") if window else ""


def answers(on: EventBinding, happening: DeskEvent, config: Config) -> bool:
    """Return whether what happened is what an entry waits for; `idle` and `at` are asked of the clock instead."""
    if on.kind != happening.kind:
        return False
    kind = EVENTS[on.kind]
    named = {"N" if ref.kind == "WORKSPACE" else ref.kind: ref for ref in on.refs}
    pairs = ((kind.of, happening.name), (kind.to, happening.to))
    return all(slot not in named or _called(named[slot], config) == name for slot, name in pairs)


def _called(ref: Ref, config: Config) -> str:
    return str(config.workspace_of(ref)) if ref.kind in ("N", "WORKSPACE") else ref.name
