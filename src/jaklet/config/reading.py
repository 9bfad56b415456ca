"""What reading a config gives: values, positions, and faults, as they are collected."""

from dataclasses import dataclass, field
from typing import NamedTuple

from jaklet.config.fields import Found
from jaklet.config.reader import Source, Value
from jaklet.core.chords import Keys
from jaklet.core.config import Binding, Config
from jaklet.core.cursor import NAME
from jaklet.core.findings import finding
from jaklet.core.places import Place
from jaklet.core.ports import Programs
from jaklet.core.sentences import Action
from jaklet.core.spans import Spot
from jaklet.core.verbs import RESERVED


class Mention(NamedTuple):
    """Where the files name something that has to exist elsewhere: an app, place, display or layout."""

    kind: str
    name: str
    spot: Spot
    family: bool = False  # one of several that a family of bindings names


@dataclass
class Reading:
    """All that the files say, with positions, as far as it could be read; and what is wrong with them."""

    programs: Programs
    path: str = ""  # of the config file, as the user would write it
    config: Config = field(default_factory=Config)
    found: Found = field(default_factory=list)
    sources: dict[str, Source] = field(default_factory=dict)
    broken: set[str] = field(default_factory=set)  # sections that do not parse
    mentions: list[Mention] = field(default_factory=list)
    bindings: list[Binding] = field(default_factory=list)
    chords: list[tuple[Keys, Spot, str]] = field(default_factory=list)  # also of bindings whose action is at fault
    spots: dict[tuple[str, str], Spot] = field(default_factory=dict)  # (kind, name) -> where it is defined
    commands: list[tuple[str, Spot]] = field(default_factory=list)  # program of each `launch`
    guarded: list[tuple[Action, bool, Spot]] = field(default_factory=list)  # what keys and words do, and if it may kill
    layouts: dict[str, int | None] = field(default_factory=dict)  # name -> number, of the layouts on disk


def good_name(key: Value, name: str, kind: str, reading: Reading) -> bool:
    """Report a name that sentences could not use, and remember where a good one stands."""
    reading.spots[kind, name] = key.spot
    problem = None
    if not NAME.fullmatch(name):
        problem = f"{name!r} cannot be a name: it should be one word of letters, digits, - and _"
    elif name.lower() in RESERVED:
        problem = f"{name!r} cannot be a name: sentences need that word"
    if problem:
        reading.found.append(finding("JK108", key.spot, problem=problem, remedy="choose another name"))
    return problem is None


def mention_display(place: Place, value: Value, end: int, reading: Reading) -> None:
    """Note the display that a place names; it ends at offset `end` of the value."""
    assert place.display is not None
    spot = value.part(end - len(place.display), end)
    reading.mentions.append(Mention("display", place.display, spot))
