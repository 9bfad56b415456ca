"""jaklet init"""

from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption
from jaklet.core.values.errors import DeskError, JakletError, UsageError

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from jaklet.core.values.chords import Chord
    from jaklet.core.values.desk import Display


def init(
    printed: Annotated[bool, typer.Option("--print", help="Print the config, and write nothing.")] = False,
    config: ConfigOption = None,
    desk: DeskOption = None,
) -> None:
    """Write a first config, of programs and keys that are free here.

    It takes what is installed, and keys that are free on this desk.

    Programs are those you have chosen as defaults, else the first of their kind. No config is ever overwritten.

    Example: jaklet init --print
    """
    from jaklet.cli.resources import installed_programs
    from jaklet.config.paths import place_for
    from jaklet.core.language.first_config import config_text, programs_for_roles
    from jaklet.installed.defaults import default_ids, default_programs

    places = place_for(config)
    if places.config.exists() and not printed:
        raise UsageError(f"there is a config at {places.shown} already", "look at a new one with --print")
    programs = installed_programs(desk)
    displays, free = _desk(desk)
    picked = programs_for_roles(programs.entries(), programs.works, default_ids(), default_programs())
    text = config_text(picked, displays, free)
    if printed:
        terminal.say(text.rstrip("\n"))
        return
    from jaklet.files import write_new

    try:
        places.config.parent.mkdir(parents=True, exist_ok=True)
        write_new(places.config, text)
    except FileExistsError as fault:
        raise UsageError(f"there is a config at {places.shown} already", "look at a new one with --print") from fault
    except OSError as fault:
        raise JakletError(
            f"{places.shown} cannot be written: {fault.strerror or fault}", "see to its folder"
        ) from fault
    found = [one.role.app for one in picked if one.entry]
    terminal.say(f"wrote {places.shown}, with {', '.join(found) if found else 'no program, as none was found'}")
    terminal.say("next: jaklet check, then jaklet listen")


def _desk(desk: str | None) -> "tuple[Sequence[Display], Callable[[Chord], bool]]":
    """Return the displays, and whether a chord is free; where there is no desk, none, and all are."""
    from jaklet.checks.owners import shipped_reservations
    from jaklet.cli.live import facts_of
    from jaklet.cli.resources import opened_desk
    from jaklet.core.language.first_config import wanted_chords
    from jaklet.core.values.scopes import EVERYWHERE

    owned = {one.keys[0] for one in shipped_reservations() if one.lost_to(EVERYWHERE)}
    try:
        with opened_desk(desk) as desktop:
            facts = facts_of(desktop, wanted_chords())  # what `check --live` would say
            return desktop.look().desk.displays, lambda chord: chord not in owned and not facts.claims(chord)
    except DeskError as fault:
        terminal.warn(f"which keys are free could not be seen: {fault.message}")
        return (), lambda chord: chord not in owned
