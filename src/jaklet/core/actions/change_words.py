"""Changes and windows in words."""

from typing import Final, NamedTuple

from jaklet.core.values.changes import KINDS, Change, Focus, Move, lacking_for, window_of
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.words import printable, shortened

TITLE_WIDTH: Final = 40


def window_name(window: Window | None, desk: Desk, config: Config) -> str:
    """Return the name of a window for people: its app and its title, or its class where no app claims it."""
    if window is None:
        return "a window that is gone"
    name = config.claims.app_of(window, desk) or printable(window.cls) or "window"
    return f"{name} ({shortened(window.title, TITLE_WIDTH)})" if window.title else name


class _Names(NamedTuple):
    """Names (`core.values.changes.DeskNames`) on a desk."""

    desk: Desk
    config: Config

    def window(self, wid: int) -> str:
        return window_name(self.desk.by_id.get(wid), self.desk, self.config)

    def workspace(self, number: int) -> str:
        return self.config.workspace_told(number)


def change_told(change: Change, desk: Desk, config: Config) -> str:
    """Return in words what a change does, and to which window."""
    return KINDS[type(change)].words(change, _Names(desk, config))


def refusal_told(change: Change, desk: Desk, config: Config) -> str:
    """Return in words what was asked and is not so, or what could not be asked."""
    lacking = lacking_for(change, desk.abilities)
    if lacking:
        return f"could not {change_told(change, desk, config)}: {lacking.lacking}"
    wid = window_of(change)
    if wid is None:
        return f"could not {change_told(change, desk, config)}"
    window = desk.by_id.get(wid)
    name = window_name(window, desk, config)
    if window is None:
        return f"{name} closed meanwhile"
    if isinstance(change, Move):
        return f"{name} was asked to be {change.frame} and is {window.frame}"
    if isinstance(change, Focus):
        front = desk.by_id.get(desk.active) if desk.active is not None else None
        if front is window:
            return f"{name} has the focus, and could not be brought back into view"
        return f"{name} did not get the focus; {window_name(front, desk, config) if front else 'nothing'} has it"
    return f"could not {change_told(change, desk, config)}"
