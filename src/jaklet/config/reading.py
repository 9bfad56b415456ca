"""What reading a config gives: values, positions, and faults, as they are collected."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from itertools import chain
from pathlib import Path
from typing import Final, NamedTuple

from jaklet.core.actions.ports.programs import Programs
from jaklet.core.keys.reserved import ReservedChord
from jaklet.core.language.slots import name_problem
from jaklet.core.language.steps import Step
from jaklet.core.language.trials import Trial
from jaklet.core.values.chords import Keys
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.desk_abilities import Abilities
from jaklet.core.values.findings import finding
from jaklet.core.values.layouts import Layout
from jaklet.core.values.scopes import Scope
from jaklet.core.values.sentences import Action
from jaklet.core.values.spans import Spot
from jaklet.yaml_files.fields import Found
from jaklet.yaml_files.reader import SourceFile, Value

Call = tuple[str, tuple[tuple[str, str], ...]]  # a macro and what it is run with


class Mention(NamedTuple):
    """Where the files name something that has to exist elsewhere: an app, place, display or layout."""

    kind: str
    name: str
    spot: Spot
    family: bool = False  # one of several that a family of bindings names


class BoundKeys(NamedTuple):
    """A chord or sequence of the files, also where its action is at fault (`binding` is None then).

    `text`: the action as it is written; `key`: the value that holds the chord.
    """

    keys: Keys
    spot: Spot
    text: str
    layer: str
    scope: Scope
    on_release: bool
    off: bool
    key: Value
    binding: Binding | None


class FilledSentence(NamedTuple):
    """A sentence that is made of a text with parameters, so that only the whole of it has a place in the file."""

    spot: Spot

    def part(self, _start: int, _end: int) -> Spot:
        """Return the spot of the whole."""
        return self.spot


class WrittenAction(NamedTuple):
    """What a key, a word, a macro or an event does, and where it is written.

    `sure`: it may kill. `family`: it is one of several.
    """

    action: Action
    value: Value | FilledSentence
    sure: bool
    off: bool
    family: bool


class StoredLayout(NamedTuple):
    """A layout on disk, and where it and its entries stand, arrangement by arrangement."""

    layout: Layout
    spots: Mapping[str, Spot]
    entry_spots: tuple[tuple[Spot, ...], ...]


class MachineContext(NamedTuple):
    """Where the config is used: the name of this machine, and keyboards asked for instead of those in its settings.

    `workspaces`: how many there are, `abilities`: what the desk can do; None where that is not known.
    """

    host: str = ""
    keyboards: tuple[str, ...] = ()
    usual: str = "us"  # where neither they nor the settings say more
    workspaces: int | None = None
    abilities: Abilities | None = None


NOWHERE: Final = MachineContext()


@dataclass(eq=False, repr=False)  # what is not made need not be made at each start
class ConfigReading:
    """All that the files say, with positions, as far as it could be read; and what is wrong with them."""

    programs: Programs
    path: str = ""  # of the config file, as the user would write it
    here: MachineContext = NOWHERE
    config: Config = field(default_factory=Config)
    found: Found = field(default_factory=list)
    sources: dict[str, SourceFile] = field(default_factory=dict)
    files: dict[str, Path] = field(default_factory=dict)  # by the same names as their sources
    own: set[str] = field(default_factory=set)  # names of the files of the config itself, also where one cannot be read
    parts: int = 0  # of the config that were read; one can be included several times
    broken: set[str] = field(default_factory=set)  # sections that do not parse
    mentions: list[Mention] = field(default_factory=list)
    bound: dict[tuple[str, Keys], list[BoundKeys]] = field(default_factory=dict)  # by layer and chords
    reserved: list[ReservedChord] = field(default_factory=list)  # chords that others own, as the files say
    left_out: list[str] = field(default_factory=list)  # parts that are for another host or keyboard
    spots: dict[tuple[str, str], Spot] = field(default_factory=dict)  # (kind, name) -> where it is defined
    commands: list[tuple[str, Spot]] = field(default_factory=list)  # program of each `launch`
    deeds: list[WrittenAction] = field(default_factory=list)
    steps: dict[Spot, Value] = field(default_factory=dict)  # of macros: their sentences
    instances: dict[Call, tuple[Step, ...]] = field(default_factory=dict)  # what macros do, by what they are run with
    trials: list[Trial] = field(default_factory=list)
    laid: list[StoredLayout] = field(default_factory=list)  # the layouts on disk that could be read
    layouts: dict[str, int | None] = field(default_factory=dict)  # name -> number, of the layouts on disk

    def every_bound(self) -> Iterator[BoundKeys]:
        """Yield all bindings, also those that are off or dead."""
        return chain.from_iterable(self.bound.values())


def define_once(kind: str, key: Value, name: str, reading: ConfigReading) -> bool:
    """Remember where a name stands; report one that another file has, too."""
    former = reading.spots.setdefault((kind, name), key.spot)
    if former != key.spot:
        reading.found.append(finding("JK107", key.spot, ((former, "the first one"),), name=name, inside=f"{kind}s"))
    return former == key.spot


def good_name(key: Value, name: str, kind: str, reading: ConfigReading) -> bool:
    """Report a name that sentences could not use, or that another file uses; remember where a good one stands."""
    if not define_once(kind, key, name, reading):
        return False
    problem = name_problem(name)
    if problem:
        reading.found.append(finding("JK108", key.spot, problem=problem, remedy="choose another name"))
    return not problem
