"""What happened between two looks at a desk, and whether that is what an event of the config waits for."""

from collections.abc import Iterator
from typing import NamedTuple

from jaklet.core.language.events import CLOSES, COMES, EVENTS, FOCUS, GOES, OPENS, TITLE
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.event_bindings import EventBinding


class Happening(NamedTuple):
    """Something that happened: which event, of what (an app, display or layout), and the window that it is about."""

    kind: str
    name: str = ""
    window: int | None = None


def happened(before: Desk, now: Desk, config: Config) -> Iterator[Happening]:
    """Yield what happened between two looks at a desk."""
    if before.windows is not now.windows:
        yield from _to_windows(before, now, config)
    if before.active != now.active and now.active is not None:
        front = now.by_id.get(now.active)
        yield Happening(FOCUS, _app(front, now, config), now.active)
    if before.displays != now.displays:
        were, are = ({config.role_of(display) for display in desk.displays} for desk in (before, now))
        yield from (Happening(COMES, name) for name in sorted(are - were))
        yield from (Happening(GOES, name) for name in sorted(were - are))


def _to_windows(before: Desk, now: Desk, config: Config) -> Iterator[Happening]:
    """Yield which windows came and went, and which are called something else."""
    for window in now.windows:
        former = before.by_id.get(window.id)
        if former is None:
            yield Happening(OPENS, _app(window, now, config), window.id)
        elif former.title != window.title:
            yield Happening(TITLE, _app(window, now, config), window.id)
    for window in before.windows:
        if window.id not in now.by_id:
            yield Happening(CLOSES, _app(window, before, config))


def _app(window: Window | None, desk: Desk, config: Config) -> str:
    return (config.claims.app_of(window, desk) or "") if window else ""


def answers(on: EventBinding, happening: Happening) -> bool:
    """Return whether what happened is what an entry waits for; `idle` and `at` are asked of the clock instead."""
    if on.kind != happening.kind:
        return False
    wanted = next((ref.name for ref in on.refs if ref.kind == EVENTS[on.kind].of), None)
    return wanted is None or wanted == happening.name
