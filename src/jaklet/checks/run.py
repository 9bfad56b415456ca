"""Reads all files of a configuration and runs every rule over them."""

from typing import NamedTuple

from jaklet.checks.rules import RULES, Case
from jaklet.config.build import read_config
from jaklet.config.paths import Places
from jaklet.config.reading import Reading
from jaklet.config.store import LayoutShelf
from jaklet.core.config import Config
from jaklet.core.findings import ERROR, Finding, finding
from jaklet.core.ports import Programs


class Checked(NamedTuple):
    """A configuration and all that is wrong with it, sorted by file and position."""

    reading: Reading
    findings: tuple[Finding, ...]

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


def check(places: Places, programs: Programs) -> Checked:
    """Read and check a config and the layouts beside it; every fault is reported in one pass."""
    reading = read_config(places.config, places.shown, programs)
    _read_layouts(shelf_of(places), reading)
    case = Case(reading, programs)
    found = [*reading.found, *(one for rule in RULES for one in rule(case))]
    return Checked(reading, tuple(sorted(set(found), key=lambda one: one.order)))


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
