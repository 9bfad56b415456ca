"""Tabletops that no file describes: one made from a config, and a copy of a desk that is there."""

from collections.abc import Sequence
from typing import Final

from jaklet.core.values.apps import App
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.geometry import Rect
from jaklet.core.values.recency import Recency
from jaklet.desktops.tabletop.room import Program, Room, TabletopWindow

SCREEN: Final = Rect(0, 0, 1920, 1080)


def room_for(config: Config, displays: Sequence[Display] = ()) -> Room:
    """Return a tabletop with the displays and programs that a config names, and no window."""
    room = Room(tuple(displays) or _displays(config), programs_of(config))
    room.workspaces = config.settings.workspaces or room.workspaces
    return room


def _displays(config: Config) -> tuple[Display, ...]:
    names = [*config.displays.values()] or ["display"]
    found = []
    for i, name in enumerate(names):
        rect = SCREEN._replace(x=i * SCREEN.width)
        found.append(Display(name, rect, rect, i == 0))
    return tuple(found)


def programs_of(config: Config) -> dict[str, Program]:
    """Return a program for each app that can be launched, with windows that are the app's."""
    programs: dict[str, Program] = {}
    for app in config.apps.values():
        if app.command:
            name = app.command_line(config.settings.terminal)[0].rsplit("/", 1)[-1]
            programs.setdefault(name, _program(name, app))
    return programs


def _program(name: str, app: App) -> Program:
    parts = {part: _example(wanted) for rule in app.rules[:1] for part, wanted in rule.parts}
    own = parts.get("instance", name), parts.get("class", parts.get("instance", name)), parts.get("title", app.name)
    instance, cls, title = own
    return Program(name=name, cls=cls, instance=instance, title=title, takes=0.2)


def _example(pattern: str) -> str:
    """Return a text that a pattern matches: nothing for `*`, a letter for `?`."""
    text, plain = "", False
    for character in pattern:
        if plain or character not in "*?\\":
            text, plain = text + character, False
        elif character == "\\":
            plain = True
        else:
            text += "x" if character == "?" else ""
    return text


def copy_of(desk: Desk, config: Config) -> Room:
    """Return a tabletop that stands as a desk does now; what it launches is as the config says."""
    room = room_for(config, desk.displays)
    room.workspace, room.workspaces, room.gaps = desk.workspace or 1, desk.workspaces or 1, desk.gaps
    for window in desk.windows:
        name = _program_of(window, desk, config)
        room.programs.setdefault(name, Program(name=name, cls=window.cls, instance=window.instance, title=window.title))
        normal = window.frame if window.shape is WindowShape.NORMAL else _half(desk.display_of(window.frame).work)
        room.standing[window.id] = TabletopWindow(window, name, normal)
    known = set(room.standing)
    room.stacking = [wid for wid in desk.stacking if wid in known]
    room.stacking = [*(wid for wid in room.standing if wid not in room.stacking), *room.stacking]
    room.used = Recency([wid for wid in desk.recent if wid in known])
    room.active = desk.active if desk.active in known else None
    return room


def _program_of(window: Window, desk: Desk, config: Config) -> str:
    """Return the name of the program that shows a window: the one that its app launches, else its own."""
    app = config.apps.get(config.claims.app_of(window, desk) or "")
    command = app.command_line(config.settings.terminal) if app and app.command else ()
    return command[0].rsplit("/", 1)[-1] if command else window.process or window.instance or "program"


def _half(work: Rect) -> Rect:
    """Return where a window is restored to of which nothing better is known."""
    return Rect(work.x + work.width // 4, work.y + work.height // 4, work.width // 2, work.height // 2)
