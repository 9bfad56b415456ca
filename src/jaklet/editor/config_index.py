"""The files of a config as an editor has them: read and checked as a whole whenever one of them changes."""

from collections.abc import Callable, Iterator, Mapping
from functools import cached_property
from pathlib import Path
from typing import NamedTuple

from jaklet.checks.run import CheckedConfig
from jaklet.core.values.findings import Finding
from jaklet.core.values.spans import Spot
from jaklet.yaml_files.reader import SourceFile, unsaved

Check = Callable[[Path], CheckedConfig]


class FileTexts(NamedTuple):
    """Files of which something is told: what is in them and where they are, as they are called in spots."""

    sources: Mapping[str, SourceFile]
    files: Mapping[str, Path]


class NameOccurrence(NamedTuple):
    """A thing with a name: what it is, what it is called, where that stands, and whether it is defined there."""

    kind: str
    name: str
    spot: Spot
    defines: bool = False


class ConfigIndex:
    """What was found in the files of a config. It is made anew whenever one of them changes."""

    def __init__(self, config: Path, texts: Mapping[Path, str], check: Check) -> None:
        """Read and check. `texts`: of files that are open, by their whole paths."""
        with unsaved(texts):
            self.checked = check(config)
        self.files = {shown: path.resolve() for shown, path in self.checked.reading.files.items()}
        self.texts = FileTexts(self.checked.reading.sources, self.files)

    @cached_property
    def shown(self) -> Mapping[Path, str]:
        """How the files are called in spots."""
        return {path: shown for shown, path in self.files.items()}

    def findings(self) -> Mapping[Path, list[Finding]]:
        """Return the findings by file; each file that was read has a list."""
        found: dict[Path, list[Finding]] = {path: [] for path in self.files.values()}
        for one in self.checked.findings:
            path = self.files.get(one.spot.path)
            if path:
                found[path].append(one)
        return found

    @cached_property
    def named(self) -> list[NameOccurrence]:
        """All names in the files: where each is defined, and where it is used."""
        reading = self.checked.reading
        own = {"app", "place", "display", "layout", "layer", "macro", "word", "workspace"}
        found = [NameOccurrence(kind, name, spot, True) for (kind, name), spot in reading.spots.items() if kind in own]
        found += [NameOccurrence(one.kind, one.name, one.spot) for one in reading.mentions]
        for deed in reading.deeds:
            for name in deed.action.names():
                found.append(NameOccurrence(name.kind, name.name, deed.value.part(name.start, name.end)))
        return [*found, *self._in_focus()]

    def _in_focus(self) -> Iterator[NameOccurrence]:
        """Yield the apps that layouts give the focus to: `berths`, or `berths 2`."""
        reading = self.checked.reading
        for laid in reading.laid:
            spot = laid.spots.get("focus")
            source = reading.sources.get(spot.path) if spot else None
            if spot and source:
                name = source.line(spot.line)[spot.column - 1 : spot.end - 1].split(" ")[0]
                if name in reading.config.apps:
                    yield NameOccurrence("app", name, spot.part(0, len(name)))

    def at(self, path: Path, line: int, column: int) -> NameOccurrence | None:
        """Return the name that stands at a place. `line` and `column` count from 1."""
        shown = self.shown.get(path)
        inside = [
            one
            for one in self.named
            if one.spot.path == shown and one.spot.line == line and one.spot.column <= column <= one.spot.end
        ]
        return min(inside, key=lambda one: one.spot.end - one.spot.column, default=None)

    def every(self, named: NameOccurrence) -> list[NameOccurrence]:
        """Return all places where the same thing is named, its definition first."""
        same = [one for one in self.named if (one.kind, one.name) == (named.kind, named.name)]
        return sorted(dict.fromkeys(same), key=lambda one: (not one.defines, one.spot))

    def definition(self, named: NameOccurrence) -> NameOccurrence | None:
        """Return where a thing is defined; None where it is not, or not in these files."""
        return next((one for one in self.every(named) if one.defines), None)

    def names(self, kind: str) -> list[str]:
        """Return the names of all things of a kind."""
        return [name for one, name in self.checked.reading.spots if one == kind]
