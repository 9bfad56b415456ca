"""What reading a config gives: values, positions, and faults, as they are collected."""

from collections.abc import Iterator, Mapping
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


class ConfigReading:
    """All that the files say, with positions, as far as it could be read; and what is wrong with them."""

    def __init__(self, programs: Programs, path: str = "", here: MachineContext = NOWHERE) -> None:
        self.programs = programs
        self.path = path  # of the config file, as the user would write it
        self.here = here
        self.config = Config()
        self.found: Found = []
        self.sources: dict[str, SourceFile] = {}
        self.files: dict[str, Path] = {}  # by the same names as their sources
        self.own: set[str] = set()  # names of the files of the config itself, also where one cannot be read
        self.parts = 0  # of the config that were read; one can be included several times
        self.broken: set[str] = set()  # sections that do not parse
        self.mentions: list[Mention] = []
        self.bound: dict[tuple[str, Keys], list[BoundKeys]] = {}  # by layer and chords
        self.reserved: list[ReservedChord] = []  # chords that others own, as the files say
        self.left_out: list[str] = []  # parts that are for another host or keyboard
        self.spots: dict[tuple[str, str], Spot] = {}  # (kind, name) -> where it is defined
        self.commands: list[tuple[str, Spot]] = []  # program of each `launch`
        self.deeds: list[WrittenAction] = []
        self.steps: dict[Spot, Value] = {}  # of macros: their sentences
        self.instances: dict[Call, tuple[Step, ...]] = {}  # what macros do, by what they are run with
        self.trials: list[Trial] = []
        self.laid: list[StoredLayout] = []  # the layouts on disk that could be read
        self.layouts: dict[str, int | None] = {}  # name -> number, of the layouts on disk

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
