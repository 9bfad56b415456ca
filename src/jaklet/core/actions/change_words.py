"""Changes and windows in words."""

from typing import Final

from jaklet.core.values.changes import (
    Change,
    Close,
    Focus,
    Gaps,
    Kill,
    Launch,
    Minimise,
    Move,
    Press,
    Provide,
    Raise,
    Reshape,
    Reveal,
    Send,
    Shell,
    ShowWorkspace,
    Stack,
    lacking_for,
)
from jaklet.core.values.chords import keys_written
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.words import counted, printable, shortened

TITLE_WIDTH: Final = 40
MOST_NAMES: Final = 6


def window_name(window: Window | None, desk: Desk, config: Config) -> str:
    """Return the name of a window for people: its app and its title, or its class where no app claims it."""
    if window is None:
        return "a window that is gone"
    name = config.claims.app_of(window, desk) or printable(window.cls) or "window"
    return f"{name} ({shortened(window.title, TITLE_WIDTH)})" if window.title else name


def change_told(change: Change, desk: Desk, config: Config) -> str:
    """Return in words what a change does, and to which window."""
    if isinstance(change, Launch | ShowWorkspace | Stack | Press | Provide | Gaps | Shell):
        return _desk_change_told(change, desk, config)
    return _window_change_told(change, window_name(desk.by_id.get(change.window), desk, config), config)


def _desk_change_told(
    change: Launch | ShowWorkspace | Stack | Press | Provide | Gaps | Shell, desk: Desk, config: Config
) -> str:
    if isinstance(change, Launch):
        return f"launch {change.app}: {' '.join(change.command)}"
    if isinstance(change, ShowWorkspace):
        return f"show {config.workspace_told(change.workspace)}"
    if isinstance(change, Press):
        return f"press {keys_written(change.chords)}"
    if isinstance(change, Shell):
        return f"let a shell run: {printable(change.command)}"
    if isinstance(change, Provide):
        return f"have {counted(change.workspaces, 'workspace')}"
    if isinstance(change, Gaps):
        return f"switch gaps {'on' if change.on else 'off'}"
    names = [window_name(desk.by_id.get(wid), desk, config) for wid in reversed(change.windows)]
    names[MOST_NAMES:] = [f"and {len(names) - MOST_NAMES} more"] if len(names) > MOST_NAMES else []
    return f"stack from the front: {', '.join(names)}"


def _window_change_told(
    change: Move | Reshape | Minimise | Reveal | Raise | Focus | Close | Kill | Send, name: str, config: Config
) -> str:
    match change:
        case Move(_, frame):
            return f"move {name} to {frame}"
        case Reshape(_, shape):
            return f"make {name} {shape}"
        case Minimise():
            return f"minimise {name}"
        case Reveal():
            return f"bring {name} back into view"
        case Focus():
            return f"focus {name}"
        case Raise(_, above):
            return f"{'keep' if above else 'no longer keep'} {name} above"
        case Close():
            return f"close {name}"
        case Kill():
            return f"kill {name}"
        case Send(_, workspace):
            return f"send {name} to {'all workspaces' if workspace is None else config.workspace_told(workspace)}"


def refusal_told(change: Change, desk: Desk, config: Config) -> str:
    """Return in words what was asked and is not so, or what could not be asked."""
    lacking = lacking_for(change, desk.abilities)
    if lacking:
        return f"could not {change_told(change, desk, config)}: {lacking.lacking}"
    if isinstance(change, Launch | ShowWorkspace | Stack | Press | Provide | Gaps | Shell):
        return f"could not {change_told(change, desk, config)}"
    window = desk.by_id.get(change.window)
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
