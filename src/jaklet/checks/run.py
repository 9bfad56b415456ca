"""Reads all files of a configuration and runs every rule over them."""

import os
from collections.abc import Iterable
from typing import NamedTuple

from jaklet.checks.rules import RULES, Case, Programs
from jaklet.config.build import Reading, read_config
from jaklet.config.paths import Places
from jaklet.config.store import LayoutShelf
from jaklet.core.config import Config
from jaklet.core.findings import ERROR, Finding, finding


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


class PathPrograms:
    """Programs on PATH, and any others that the desk has of its own."""

    def __init__(self, more: Iterable[str] = ()) -> None:
        self._more = frozenset(more)
        self._names: set[str] | None = None

    def has(self, program: str) -> bool:
        """True if this can be run: by name on PATH, or by its path."""
        if program in self._more:
            return True
        folders = [""] if "/" in program else os.get_exec_path()
        paths = (os.path.join(folder, os.path.expanduser(program)) for folder in folders)
        return any(os.path.isfile(path) and os.access(path, os.X_OK) for path in paths)

    def names(self) -> Iterable[str]:
        """Return the names of all programs on PATH."""
        if self._names is None:
            self._names = set(self._more)
            for folder in os.get_exec_path():
                try:
                    self._names.update(os.listdir(folder))
                except OSError:
                    continue  # a folder on PATH that is not there is no fault of the config
        return self._names


def shelf_of(places: Places) -> LayoutShelf:
    """Return the layouts that belong to a config."""
    return LayoutShelf(places.layouts, shown=places.shown_layouts)


def check(places: Places, programs: Programs) -> Checked:
    """Read and check a config and the layouts beside it; every fault is reported in one pass."""
    reading = read_config(places.config, places.shown)
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
