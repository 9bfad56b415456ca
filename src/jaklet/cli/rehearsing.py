"""Opens what is rehearsed on: a tabletop of the user's, one made from the config, or a copy of the desk as it is."""

from pathlib import Path
from typing import TYPE_CHECKING

from jaklet.core.values.errors import UsageError

if TYPE_CHECKING:
    from jaklet.cli.resources import OpenedConfig
    from jaklet.core.values.config import Config
    from jaklet.desktops.tabletop.room import Room
    from jaklet.rehearsal.stage import PressResult, Rehearsal

NOW = "now"
WAIT = "wait "


def room_from(source: str | None, desk: str | None, config: "Config") -> "Room":
    """Return the tabletop that was asked for: a file, `now`, that of --desk, else one made from the config."""
    from jaklet.cli.resources import opened_desk
    from jaklet.desktops.addresses import file_of
    from jaklet.desktops.tabletop.file import read_room
    from jaklet.rehearsal.tabletops import copy_of, room_for

    own = file_of(desk)
    if source == NOW and not own:
        with opened_desk(desk) as one:
            return copy_of(one.look().desk, config)
    if source and source != NOW:
        path = Path(source.removeprefix("tabletop:")).expanduser()
        if not path.is_file():
            raise UsageError(f"there is no tabletop at {path}", "`jaklet tabletop new FILE` makes one")
        return read_room(path)
    return read_room(own) if own else room_for(config)


def stage_for(ready: "OpenedConfig", room: "Room") -> "Rehearsal":
    """Return a stage on which chords of a config can be pressed."""
    from jaklet.rehearsal.stage import Rehearsal, RehearsalInputs

    return Rehearsal(RehearsalInputs(ready.config, ready.shelf), room)


def play(stage: "Rehearsal", words: list[str]) -> "list[PressResult]":
    """Press chords, one after another; `wait 5s` among them lets time pass."""
    from jaklet.core.language.cursor import Cursor
    from jaklet.core.language.slots import PLAIN_SLOTS
    from jaklet.core.values.chords import parse_keys
    from jaklet.core.values.errors import SentenceError

    moves: list[tuple[str, object]] = []
    for word in words:
        try:
            if word.startswith(WAIT):
                moves.append(("wait", PLAIN_SLOTS["TIME"](Cursor(word.removeprefix(WAIT))).amount))
            else:
                moves += [("press", chord) for chord in parse_keys(word)]
        except SentenceError as fault:
            raise UsageError(f"{word}: {fault.message}", fault.remedy) from fault
    acts = []
    for kind, what in moves:
        acts.append(stage.let_pass(what) if kind == "wait" else stage.press(what))  # type: ignore[arg-type]
    return acts
