"""Reads all files of a configuration and runs every rule over them."""

from collections import Counter
from collections.abc import Iterable
from itertools import chain, islice
from pathlib import Path
from typing import Final, NamedTuple

from jaklet.checks.inputs import CheckInputs
from jaklet.checks.owners import shipped_reservations
from jaklet.checks.rules import RULES
from jaklet.checks.silence import apply_silences
from jaklet.config.build import read_config
from jaklet.config.ownership import exposed_folders
from jaklet.config.paths import TRIALS, ConfigPaths, companion_folders
from jaklet.config.reading import NOWHERE, ConfigReading, MachineContext, StoredLayout
from jaklet.config.store import LayoutFolder
from jaklet.config.trial_reading import read_trial_files
from jaklet.core.actions.ports.programs import Programs
from jaklet.core.keys.free_chords import ALL_HEARD, UnheardChords
from jaklet.core.keys.keyboards import THIS, Keyboard, parse_keyboard
from jaklet.core.values.config import Config
from jaklet.core.values.findings import CATALOGUE, ERROR, Finding, finding
from jaklet.keyboards.shipped import keyboard
from jaklet.yaml_files.reader import SourceFile

MOST_FOUND: Final = 5_000  # findings; a file with more is none that somebody wrote


class CheckedConfig(NamedTuple):
    """A configuration and all that is wrong with it, sorted by file and position."""

    reading: ConfigReading
    findings: tuple[Finding, ...]
    silenced: int  # findings that the files silence
    case: CheckInputs
    path: Path  # of the config file
    cut: bool  # there were so many findings that the rest was not looked for
    what: str = "config"  # or another kind of file, by itself

    @property
    def config(self) -> Config:
        """The configuration, as far as it could be read."""
        return self.reading.config

    @property
    def usable(self) -> bool:
        """True if no file of the config has an error. A layout at fault is one that cannot be recalled, no more.

        Where the rest of the findings was not looked for, there may be errors among them.
        """
        return not self.errors and not self.cut

    @property
    def errors(self) -> list[Finding]:
        """The findings that keep the config from being used."""
        return [one for one in self.findings if one.severity == ERROR and one.spot.path in self.reading.own]


def check_file_alone(
    what: str, source: SourceFile, path: Path, findings: Iterable[Finding], programs: Programs
) -> CheckedConfig:
    """Return the findings of a file that is no part of a config. `what`: the kind of file."""
    reading = ConfigReading(programs, source.path)
    reading.sources, reading.files, reading.own = {source.path: source}, {source.path: path}, {source.path}
    return CheckedConfig(
        reading, tuple(findings), 0, CheckInputs(reading, programs, [], ()), path.resolve(), False, what
    )


def shelf_of(places: ConfigPaths) -> LayoutFolder:
    """Return the layouts that belong to a config."""
    return LayoutFolder(places.layouts, shown=places.shown_layouts)


def check_config(
    places: ConfigPaths,
    programs: Programs,
    here: MachineContext = NOWHERE,
    this: Keyboard | None = None,
    unheard: UnheardChords = ALL_HEARD,
) -> CheckedConfig:
    """Read and check a config and the layouts beside it; every fault is reported in one pass.

    `here`: the machine and keyboards it is checked for. `this`: the keyboard that is called so. `unheard`: the chords
    that are not to be offered, as the running desk does not let us hear them.
    """
    reading = read_config(places.config, places.shown, programs, here)
    for folder in companion_folders(places.config):
        if folder.is_dir():
            reading.found += exposed_folders(folder, places.shown)
    _read_layouts(shelf_of(places), reading)
    read_trial_files(places.config.parent / TRIALS, str(Path(places.shown).parent / TRIALS) + "/", reading)
    case = CheckInputs(reading, programs, keyboards_of(reading, this), shipped_reservations(), unheard)
    every = chain(reading.found, chain.from_iterable(rule(case) for rule in RULES))
    found = list(islice(every, MOST_FOUND))
    lasting = dict.fromkeys(_without_followers(found, reading))
    heard = apply_silences(_condensed(lasting, case), reading.sources.values())
    ordered = tuple(sorted(heard.findings, key=lambda one: one.order))
    return CheckedConfig(reading, ordered, heard.silenced, case, places.config.resolve(), cut=len(found) == MOST_FOUND)


def _without_followers(findings: list[Finding], reading: ConfigReading) -> list[Finding]:
    """Return the findings; where a file could not be read whole, without those that say that something is not there."""
    return [one for one in findings if not (reading.broken and CATALOGUE[one.code].of_absence)]


def _condensed(findings: Iterable[Finding], case: CheckInputs) -> list[Finding]:
    """Return the findings, those of one kind about several members of a family as one."""
    families = {bound.spot for bound in case.live if bound.binding and bound.binding.family}
    firsts: dict[object, Finding] = {}
    counts = Counter[object]()
    for one in findings:
        key = (one.code, one.spot) if one.spot in families else one
        firsts.setdefault(key, one)
        counts[key] += 1
    more = {key: number - 1 for key, number in counts.items()}
    return [
        one._replace(cause=f"{one.cause}; so it is with {more[key]} more of the family") if more[key] else one
        for key, one in firsts.items()
    ]


def keyboards_of(reading: ConfigReading, this: Keyboard | None = None) -> list[Keyboard]:
    """Return the keyboards to check for: those asked for, else those of the settings, else the usual one."""
    here = reading.here
    names = here.keyboards or reading.config.settings.keyboards or (here.usual,)
    parsed = (parse_keyboard(name, this=True) for name in dict.fromkeys(names))
    return [this if this and name.name == THIS else keyboard(name) for name in parsed]


def _read_layouts(shelf: LayoutFolder, reading: ConfigReading) -> None:
    numbers: dict[int, str] = {}
    for path in shelf.files():
        source, read = shelf.read(path, reading.found)
        if source:
            reading.sources[source.path] = source
            reading.files[source.path] = path
        if read is None:
            continue
        reading.mentions += read.mentions
        layout = read.layout
        reading.layouts[path.stem] = layout.number if layout else None
        if "layout" in read.spots:
            reading.spots["layout", path.stem] = read.spots["layout"]
        if layout is None:
            continue
        reading.laid.append(StoredLayout(layout, read.spots, read.entry_spots))
        if layout.name != path.stem:
            reading.found.append(
                finding("JK502", read.spots["layout"], name=layout.name, file=path.name, remedy="rename one of the two")
            )
        if layout.number is not None:
            other = numbers.setdefault(layout.number, layout.name)
            if other != layout.name:
                reading.found.append(finding("JK501", read.spots["number"], number=layout.number, other=other))
