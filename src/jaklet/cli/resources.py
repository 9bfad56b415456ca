"""Opens what commands work with: the config, checked; the desk; the layouts."""

import contextlib
import os
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, NamedTuple

from jaklet.cli import terminal
from jaklet.core.values.errors import JakletError, SentenceError, UsageError

if TYPE_CHECKING:
    from jaklet.checks.run import CheckedConfig
    from jaklet.config.reading import MachineContext
    from jaklet.config.store import LayoutFolder
    from jaklet.core.actions.ports.desktop import Desktop
    from jaklet.core.actions.tasks import TaskContext
    from jaklet.core.keys.free_chords import UnheardChords
    from jaklet.core.keys.keyboards import Keyboard
    from jaklet.core.values.config import Config
    from jaklet.desktops.undo_history import UndoHistory
    from jaklet.installed.programs import InstalledPrograms


@contextlib.contextmanager
def opened_desk(desk: str | None) -> Iterator["Desktop"]:
    """Open the desk asked for, else the one that is here; let go of it at the end."""
    from jaklet.config.paths import state_folder
    from jaklet.desktops.addresses import address_here

    desktop = address_here(desk).open(state_folder)
    try:
        yield desktop
    finally:
        desktop.close()


def installed_programs(desk: str | None) -> "InstalledPrograms":
    """Return the programs that can be launched: those of this machine, and those of the tabletop."""
    from jaklet.desktops.addresses import file_of
    from jaklet.installed.programs import InstalledPrograms

    path = file_of(desk)
    if path is None:
        return InstalledPrograms()
    from jaklet.desktops.tabletop.file import read_room

    room = read_room(path)
    return InstalledPrograms(room.programs, room.entries())


def checked_config(
    config: str | None, desk: str | None = None, keyboards: Sequence[str] = (), unheard: "UnheardChords | None" = None
) -> "CheckedConfig":
    """Read and check the config. `keyboards`: the ones to check it for, instead of its own.

    `unheard`: the chords that are not to be offered.
    """
    from jaklet.checks.run import check_config
    from jaklet.config.paths import locate_config
    from jaklet.core.keys.keyboards import THIS, parse_keyboard

    names = []
    for text in keyboards:
        try:
            names.append(parse_keyboard(text, this=True))
        except SentenceError as fault:
            raise UsageError(fault.message, fault.remedy) from fault
    this = _this_keyboard() if any(name.name == THIS for name in names) else None
    here = _here(desk, tuple(str(name) for name in names))
    return check_config(locate_config(config), installed_programs(desk), here, this, *([unheard] if unheard else []))


def _here(desk: str | None, keyboards: tuple[str, ...]) -> "MachineContext":
    """Return where the config is used: this machine, and the keyboard that it was set up with."""
    from jaklet.config.reading import MachineContext
    from jaklet.desktops.addresses import address_of
    from jaklet.keyboards.machine import DEFAULT, usual_keyboard

    host, address = os.uname().nodename, address_of(desk)
    path = address.file if address else None
    if path is None:
        return MachineContext(host, keyboards, usual_keyboard(), abilities=address.abilities if address else None)
    from jaklet.desktops.tabletop.file import read_room

    room = read_room(path)
    return MachineContext(host, keyboards, DEFAULT, room.workspaces, room.abilities)


def _this_keyboard() -> "Keyboard":
    """Return the keyboard of the running X server."""
    from jaklet.core.keys.keyboards import THIS, Keyboard, KeyboardName
    from jaklet.desktops.x11 import keyboard_levels
    from jaklet.keyboards.shipped import codes

    levels = keyboard_levels()
    rows = {name: levels[code] for name, code in codes().items() if code in levels}
    return Keyboard(KeyboardName(THIS), rows)


def usable_config(result: "CheckedConfig") -> "Config":
    """Return the config of a check; raises where it has errors."""
    if not result.usable:
        errors = result.errors or list(result.findings)
        more = f", and {len(errors) - 1} more" if len(errors) > 1 else ""
        raise JakletError(
            f"the config has errors: {errors[0].spot}: {errors[0].cause}{more}", "run `jaklet check` to see all of it"
        )
    return result.config


class OpenedConfig(NamedTuple):
    """A checked config and its layouts."""

    config: "Config"
    shelf: "LayoutFolder"
    desk: str | None

    def context(self, desktop: "Desktop") -> "TaskContext":
        """Return the context of tasks on a desk. Where a listener sees new windows, it does their actions."""
        from jaklet.cli.listener_calls import listener_status
        from jaklet.config.paths import state_folder
        from jaklet.core.actions.begin import begin
        from jaklet.core.actions.new_windows import opening
        from jaklet.core.actions.tasks import TaskContext
        from jaklet.desktops.learned_returns import LearnedReturns

        desktop.keep_free(self.config.kept_free)
        history = history_of(desktop)
        opens = None if listener_status(self.desk) else opening
        goes_back = LearnedReturns(state_folder).after
        return TaskContext(self.config, self.shelf, history=history, opens=opens, begin=begin, goes_back=goes_back)


def history_of(desktop: "Desktop") -> "UndoHistory":
    """Return the steps that can be undone on a desk."""
    from jaklet.config.paths import state_folder
    from jaklet.desktops.undo_history import UndoHistory

    return UndoHistory(state_folder, desktop.identity())


def uses_of_layouts() -> "UndoHistory":
    """Return where it is kept when layouts were used, whichever desk it was on."""
    from jaklet.config.paths import state_folder
    from jaklet.desktops.undo_history import UndoHistory

    return UndoHistory(state_folder, "")


def last_uses() -> dict[str, float]:
    """Return when each layout was used last, in seconds since the epoch; nothing where that cannot be read."""
    try:
        return uses_of_layouts().last_uses()
    except JakletError:
        return {}


def opened_config(config: str | None, desk: str | None = None) -> OpenedConfig:
    """Open config and layouts; raises where the config has errors or there is none."""
    from jaklet.checks.run import shelf_of
    from jaklet.config.paths import locate_config

    return OpenedConfig(usable_config(checked_config(config, desk)), shelf_of(locate_config(config)), desk)


def opened_or_bare(config: str | None, desk: str | None = None) -> "Config":
    """Return the config if there is one that can be used, else an empty one: looking needs none.

    A config with errors is remarked upon: what it says is not in what is shown.
    """
    from jaklet.config.paths import locate_config
    from jaklet.core.values.config import Config
    from jaklet.locations import VARIABLE

    try:
        locate_config(config)
    except UsageError:
        if config or os.environ.get(VARIABLE):
            raise
        return Config()
    result = checked_config(config, desk)
    if not result.usable:
        terminal.warn("the config has errors, and is left out of this: `jaklet check` shows them")
    return result.config if result.usable else Config()
