"""An app that is launched by its desktop entry."""

from typing import Final

from jaklet.core.actions.layouts.trust import CATEGORY
from jaklet.core.actions.ports.programs import Programs
from jaklet.core.values.apps import App, exactly
from jaklet.core.values.desktop_entries import DesktopEntry, EntryError


class NoSuchEntryError(EntryError):
    """No desktop entry has this id."""


def with_entry(app: App, entry: str, programs: Programs) -> App:
    """Return the app with the command and window rules of its desktop entry, `ID` or `ID#ACTION`.

    Raises `EntryError` with the reason where it cannot be launched by it.
    """
    entry_id, _, action = entry.partition("#")
    found = programs.entry(entry_id)
    if found is None:
        raise NoSuchEntryError(entry_id)
    command = _command_of(found, action)
    for program in filter(None, (found.try_exec, command[0])):
        if not programs.has(program):
            raise EntryError(f"its program {program!r} is not installed")
    rules = tuple(rule for name in _names(found, command) for rule in (exactly(instance=name), exactly(cls=name)))
    return app._replace(
        command=command,
        rules=app.rules or rules,
        folder=app.folder or found.folder,
        in_terminal=found.in_terminal,
        terminal=CATEGORY in found.categories,
    )


def _command_of(entry: DesktopEntry, action: str) -> tuple[str, ...]:
    """Return the command of a desktop entry or of one of its actions; raises `EntryError` where there is none."""
    if entry.hidden:
        raise EntryError("it is marked Hidden, which means that its program was removed")
    if action and action not in entry.actions:
        raise EntryError(f"it has no action {action!r}; it has {', '.join(entry.actions) or 'none'}")
    command = entry.actions[action][1] if action else entry.command
    if not command and entry.activated:
        raise EntryError("it is started over D-Bus only, which Jaklet does not do")
    if not command:
        raise EntryError(entry.fault or f"its action {action!r} has no Exec line that can be used")
    return command


# Programs that only start another one, whose name says nothing of the windows.
WRAPPERS: Final = frozenset({"sh", "bash", "dash", "env", "flatpak", "snap", "java", "perl", "python3", "ruby", "sudo"})


def _names(entry: DesktopEntry, command: tuple[str, ...]) -> list[str]:
    """Return the likely class and instance of its windows: StartupWMClass, else the program's file name; or the id.

    Windows of Wayland name the id of their desktop entry (xdg-shell, set_app_id).
    """
    if entry.wm_class:
        return [*dict.fromkeys((entry.wm_class, entry.id))]
    program = command[0].rsplit("/", 1)[-1]
    return [entry.id] if program in WRAPPERS else [*dict.fromkeys((program, entry.id))]
