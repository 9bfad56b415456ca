"""jaklet doctor"""

import contextlib
import os
from typing import TYPE_CHECKING

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, FormatOption, OutputFormat

if TYPE_CHECKING:
    from jaklet.checks.run import CheckedConfig
    from jaklet.core.values.findings import MissingRequirement


def doctor(config: ConfigOption = None, desk: DeskOption = None, form: FormatOption = OutputFormat.text) -> None:
    """List what the config and its layouts need and is not here.

    Programs, displays, keys that others hold, the keyboard. For the first look after the files were carried to another
    machine. Exits with 1 if something is missing.

    Example: jaklet doctor
    """
    import typer

    from jaklet.checks.missing_requirements import missing_requirements
    from jaklet.cli.layout import present
    from jaklet.cli.listener_calls import left_behind
    from jaklet.cli.live import live_found
    from jaklet.cli.resources import checked_config, installed_programs
    from jaklet.desktops.addresses import address_of, file_of
    from jaklet.drawing.missing_requirements import lacks_text

    result = checked_config(config, desk)
    now = present(desk)
    unreached = [] if now else _unreached(desk)
    held = live_found(result, desk) if now else []
    usual = "" if file_of(desk) else _keyboard()
    is_real = now is not None and not file_of(desk)
    found = [
        *unreached,
        *missing_requirements(
            result, held, now, usual, installed_programs(desk).needs_wayland if is_real else lambda _program: False
        ),
    ]
    _tidy(result)
    if form is OutputFormat.json:
        terminal.say_json([one._asdict() for one in found])
    elif found:
        terminal.say(lacks_text(found, terminal.ink_for()))
    else:
        looked = "programs, displays, keys and keyboard" if now else "programs (no desk was looked at)"
        terminal.say(f"nothing is missing here: {looked}")
    address = address_of(desk)
    for line in left_behind(desk) if form is not OutputFormat.json else ():
        terminal.say(f"{line}; `jaklet stop` gives it back")
    for line in address.grants() if address and form is not OutputFormat.json else ():
        terminal.say(line)
    raise typer.Exit(1 if found else 0)


def _unreached(desk: str | None) -> "list[MissingRequirement]":
    """Return why a desk that should be here cannot be used, if that is so."""
    from jaklet.cli.resources import opened_desk
    from jaklet.core.values.errors import DeskError
    from jaklet.core.values.findings import MissingRequirement
    from jaklet.desktops.addresses import address_of
    from jaklet.locations import unknown_session

    if address_of(desk) is None and (desk or not unknown_session(os.environ)):
        return []
    try:
        with opened_desk(desk):
            return []
    except DeskError as fault:
        return [MissingRequirement("desk", fault.message, "", fault.remedy)]


def _tidy(result: "CheckedConfig") -> None:
    """Take away what saves have left behind that were killed, and say so."""
    from jaklet.config.paths import companion_folders
    from jaklet.files import leftovers

    for folder in (result.path.parent, *companion_folders(result.path)):
        for path in leftovers(folder):
            with contextlib.suppress(OSError):
                path.unlink()
                terminal.warn(f"taken away, as the save that wrote it was killed: {path}")


def _keyboard() -> str:
    from jaklet.keyboards.machine import usual_keyboard

    return usual_keyboard()
