"""Reads all files of a configuration and runs every rule over them."""

from typing import NamedTuple

from jaklet.checks.case import Case
from jaklet.checks.owners import shipped
from jaklet.checks.rules import RULES
from jaklet.checks.silence import unsilenced
from jaklet.config.build import read_config
from jaklet.config.paths import Places
from jaklet.config.reading import NOWHERE, Here, Reading
from jaklet.config.store import LayoutShelf
from jaklet.core.config import Config
from jaklet.core.findings import ERROR, Finding, finding
from jaklet.core.keyboards import THIS, Keyboard, parse_keyboard
from jaklet.core.ports import Programs
from jaklet.keyboards.tables import keyboard


class Checked(NamedTuple):
    """A configuration and all that is wrong with it, sorted by file and position."""

    reading: Reading
    findings: tuple[Finding, ...]
    silenced: int  # findings that the files silence
    case: Case

    @property
    def config(self) -> Config:
        """The configuration, as far as it could be read."""
        return self.reading.config

    @property
    def usable(self) -> bool:
        """True if the config itself has no error. A layout at fault is one that cannot be recalled, no more."""
        return not self.errors

    @property
    def errors(self) -> list[Finding]:
        """The findings that keep the config from being used."""
        return [one for one in self.findings if one.severity == ERROR and one.spot.path == self.reading.path]


def shelf_of(places: Places) -> LayoutShelf:
    """Return the layouts that belong to a config."""
    return LayoutShelf(places.layouts, shown=places.shown_layouts)


def check(places: Places, programs: Programs, here: Here = NOWHERE, this: Keyboard | None = None) -> Checked:
    """Read and check a config and the layouts beside it; every fault is reported in one pass.

    `here`: the machine and keyboards it is checked for. `this`: the keyboard that is called so.
    """
    reading = read_config(places.config, places.shown, programs, here)
    _read_layouts(shelf_of(places), reading)
    case = Case(reading, programs, keyboards_of(reading, this), shipped())
    found = [*reading.found, *(one for rule in RULES for one in rule(case))]
    heard = unsilenced(dict.fromkeys(found), reading.sources.values())
    return Checked(reading, tuple(sorted(heard.findings, key=lambda one: one.order)), heard.silenced, case)


def keyboards_of(reading: Reading, this: Keyboard | None = None) -> list[Keyboard]:
    """Return the keyboards to check for: those asked for, else those of the settings, else the usual one."""
    here = reading.here
    names = here.keyboards or reading.config.settings.keyboards or (here.usual,)
    parsed = (parse_keyboard(name, this=True) for name in dict.fromkeys(names))
    return [this if this and name.name == THIS else keyboard(name) for name in parsed]


def _read_layouts(shelf: LayoutShelf, reading: Reading) -> None:
    numbers: dict[int, str] = {}
    for path in shelf.files():
        source, read = shelf.read(path, reading.found)
        if source:
            reading.sources[source.path] = source
        if read is None:
            continue
        reading.mentions += read.mentions
        layout = read.layout
        reading.layouts[path.stem] = layout.number if layout else None
        if "layout" in read.spots:
            reading.spots["layout", path.stem] = read.spots["layout"]
        if layout is None:
            continue
        if layout.name != path.stem:
            reading.found.append(
                finding("JK502", read.spots["layout"], name=layout.name, file=path.name, remedy="rename one of the two")
            )
        if layout.number is not None:
            other = numbers.setdefault(layout.number, layout.name)
            if other != layout.name:
                reading.found.append(finding("JK501", read.spots["number"], number=layout.number, other=other))
