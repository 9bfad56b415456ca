"""Layouts on disk: one file each, replaced whole, every overwritten version kept in SQLite.

Order of a save, under a lock: the former text goes into the history and is committed; the new text is written beside
the file and synced; a rename puts it in place; the folder is synced. Whatever stops the process, and whenever, the file
holds the old layout or the new one, and the old one is in the history before it can go. A layout that gets another name
is under both for a moment, and one that is removed is in the history first.
"""

import contextlib
import os
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path
from typing import Final

from jaklet.config.layout_reading import Bases, LayoutDraft, LayoutReading, joined_layout, read_draft, read_layout
from jaklet.config.layout_writing import layout_text, text_over
from jaklet.config.ownership import exposed_file
from jaklet.config.paths import state_folder
from jaklet.config.versions import Version, VersionHistory
from jaklet.core.actions.ports.layout_store import SavedVersion
from jaklet.core.values.errors import StoreError, UsageError
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.layouts import HOME, Layout, PastVersion, name_fault, no_such_name, number_of
from jaklet.core.values.spans import Spot
from jaklet.files import read_ordinary, remove_whole, write_whole
from jaklet.yaml_files.reader import SourceFile, read_source

DEEPEST: Final = 16  # layouts that build on one another


class LayoutFolder:
    """The layouts in one folder, and their history in the state folder (by default the user's)."""

    def __init__(self, folder: Path, state: Path | None = None, shown: str = "") -> None:
        self.folder = folder
        self._given_state = state
        self._shown = shown or str(folder)

    @cached_property
    def _state(self) -> Path:
        """The state folder, looked up only where something is kept: reading layouts needs none."""
        return self._given_state or state_folder()

    @cached_property
    def versions(self) -> VersionHistory:
        """The former versions."""
        return VersionHistory(self._state, self.folder)

    def files(self) -> list[Path]:
        """Return the layout files in the order of their names."""
        return sorted(path for path in self.folder.glob("*.yaml") if not path.name.startswith("."))

    def names(self) -> list[str]:
        """Return the names of all layouts, by their files."""
        return [path.stem for path in self.files()]

    def shown(self, path: Path) -> str:
        """Return a layout file's path as the user would write it."""
        return os.path.join(self._shown, path.name)

    def read(self, path: Path, found: list[Finding]) -> tuple[SourceFile | None, LayoutReading | None]:
        """Read one layout file with all that it builds on, reporting every fault."""
        source = self._source(path, found)
        return source, read_layout(source, found, self._bases(path)) if source else None

    def _source(self, path: Path, found: list[Finding]) -> SourceFile | None:
        """Return the text of a layout file; None where it cannot be read, or other users can write it."""
        source = read_source(path, self.shown(path), found)
        exposed = exposed_file(path, self.shown(path)) if source and path.exists() else None
        found += [exposed] if exposed else []
        return None if exposed else source

    def _draft(self, name: str, trail: tuple[str, ...]) -> LayoutDraft:
        """Return a layout that others build on; raises `StoreError`. `trail`: the layouts that led to it."""
        if name in trail:
            raise StoreError(f"it builds on itself: {' on '.join((*trail, name))}", "take `base` away in one of them")
        if len(trail) > DEEPEST:
            way = f"{trail[0]} on {trail[1]} and so on"
            raise StoreError(f"it builds on more than {DEEPEST} layouts: {way}", "build on one that is near the first")
        path = self._file(name)
        found: list[Finding] = []
        if not path.exists():
            raise StoreError(f"there is no layout {name} to build on", "name one of: " + ", ".join(self.names()))
        source = self._source(path, found)
        draft = read_draft(source, found, [], {}) if source else None
        if draft is None:
            raise StoreError(f"layout {name}, on which it builds, has faults", f"see to {self.shown(path)}")
        base = draft.heads.get("base")
        return joined_layout(draft, self._draft(base.read, (*trail, name))) if base else draft

    def find(self, word: str) -> Layout | None:
        """Return the layout with this name, number, or former version `NAME@N`, or the one marked `home`.

        Raises `StoreError` where its file has faults.
        """
        name, at, version = word.partition("@")
        if at:
            return self._former(name, version)
        number = number_of(word)
        if number is None:
            path = self._file(word)
            if path.exists():
                return self._whole(path)
        if number is None and word != HOME:
            return None
        for path in self.files():
            _, reading = self.read(path, [])
            layout = reading.layout if reading else None
            if layout and (layout.home if word == HOME else layout.number == number):
                return layout
        return None

    def _file(self, name: str) -> Path:
        fault = name_fault(name)
        if fault:
            raise StoreError(*no_such_name(name, fault))
        return self.folder / f"{name}.yaml"

    def path(self, name: str) -> Path:
        """Return the file of a layout that is there; raises `StoreError`."""
        path = self._file(name)
        if not path.exists():
            raise StoreError(f"no layout is called {name!r}", "jaklet layout list shows all")
        return path

    def _whole(self, path: Path) -> Layout:
        found: list[Finding] = []
        _, reading = self.read(path, found)
        if reading is None or reading.layout is None:
            first = found[0]
            raise StoreError(f"{first.spot}: {first.cause}", f"{first.remedy}; `jaklet check` shows all of it")
        return reading.layout

    def keep(self, layout: Layout, *, take_number: bool = False) -> SavedVersion:
        """Save a layout, keeping the former version; raises `StoreError`, and then nothing has changed.

        The text that was there keeps its comments. `take_number`: another layout that has its number loses it.
        """
        path = self._file(layout.name)
        with self._changing(layout.name):
            robbed = self._number_is_free(layout, path, take_number)
            former = _text(path)
            text = layout_text(layout) if former is None else text_over(former, layout, self._bases(path))
            if former == text:
                return SavedVersion(None)
            if robbed:
                its = self._file(robbed.name)
                before = _text(its) or ""
                without = text_over(before, robbed._replace(number=None), self._bases(its))
                self._put(robbed.name, before, without)
            number = self._put(layout.name, former, self._sound(layout.name, text))
            return SavedVersion(number, robbed.name if robbed else "", str(self.versions.aside or ""))

    def _bases(self, path: Path) -> Bases:
        """Return a function that finds the layouts that a file's layout builds on."""
        return lambda name: self._draft(name, (path.stem,))

    def _put(self, name: str, former: str | None, text: str) -> int | None:
        """Write a layout's file, its former text remembered before; return the number that has."""
        number = None if former is None else self._remember(name, former)
        self._write(name, text)
        return number

    def _write(self, name: str, text: str) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        write_whole(self._file(name), text)

    def _sound(self, name: str, text: str) -> str:
        """Return a text that its reader takes; raises `StoreError` before it stands in the place of the former one."""
        found: list[Finding] = []
        if read_layout(SourceFile(name, text), found, self._bases(self._file(name))).layout is None:
            raise StoreError(f"{name} was not saved, as it could not be read back: {found[0].cause}", found[0].remedy)
        return text

    def _remember(self, name: str, text: str) -> int:
        try:
            return self.versions.remember(name, text)
        except StoreError as fault:
            problem = f"{name} was not saved, as its former version could not be kept: {fault.message}"
            raise StoreError(problem, f"{fault.remedy}, then save again") from fault

    def _number_is_free(self, layout: Layout, own: Path, take: bool) -> Layout | None:
        """Return the layout that would lose its number; raises `StoreError` where it must not."""
        if layout.number is None:
            return None
        holder = self.find(str(layout.number))
        if not holder or self._file(holder.name) == own:
            return None
        if not take:
            raise StoreError(f"number {layout.number} belongs to {holder.name}", "choose another number, or add --sure")
        return holder

    def put_text(self, name: str, text: str) -> int | None:
        """Write a layout's file as it is given, keeping the former text; raises `StoreError`."""
        path = self._file(name)
        with self._changing(name):
            former = _text(path)
            return None if former == text else self._put(name, former, text)

    def check_text(self, name: str, text: str) -> list[Finding]:
        """Return the findings in a text that is to be a layout's file."""
        found: list[Finding] = []
        path = self._file(name)
        layout = read_layout(SourceFile(self.shown(path), text), found, self._bases(path)).layout
        if layout and layout.name != name:
            spot = Spot(self.shown(path), 1, 1, 2)
            remedy = "jaklet layout rename gives it another name"
            found.append(finding("JK502", spot, name=layout.name, file=path.name, remedy=remedy))
        return found

    def rename(self, name: str, to: str) -> None:
        """Give a layout another name; its history goes with it. Raises `StoreError`, and then nothing has changed."""
        with self._changing(name):
            self._unused(to)
            path = self.path(name)
            layout, former = self._whole(path), _text(path) or ""
            text = self._sound(to, text_over(former, layout._replace(name=to), self._bases(path)))
            with self.versions.renaming(name, to, former):
                self._write(to, text)
                try:
                    remove_whole(path)
                except OSError:
                    with contextlib.suppress(OSError):
                        remove_whole(self._file(to))
                    raise

    def copy(self, name: str, to: str) -> Layout:
        """Write a layout under another name, without its number and mark, which only one can have."""
        with self._changing(to):
            self._unused(to)
            path = self.path(name)
            layout = self._whole(path)._replace(name=to, number=None, home=False)
            self._write(to, self._sound(to, text_over(_text(path) or "", layout, self._bases(path))))
        return layout

    def _unused(self, name: str) -> None:
        if os.path.lexists(self._file(name)):
            raise StoreError(f"there is a layout {name} already", "choose another name, or remove that one first")

    def remove(self, name: str) -> int:
        """Take a layout away; return the number of the version that is kept of it."""
        with self._changing(name):
            path = self.path(name)
            number = self._remember(name, _text(path) or "")
            remove_whole(path)
        return number

    def restore(self, name: str, version: str = "") -> tuple[int, int | None]:
        """Put a former version in use again, by default the last; return its number, and that of what it replaced."""
        with self._changing(name):
            every = self.versions.of(name)
            if not every:
                raise StoreError(f"{name} has no former version", "jaklet layout history shows all that have")
            one = every[-1] if not version else self._version(name, version)
            former, text = _text(self._file(name)), self._as_now(name, one.text)
            return one.number, None if former == text else self._put(name, former, text)

    def _as_now(self, name: str, text: str) -> str:
        """Return the text of a version under the name that its layout has now, without a number that another has."""
        layout = self._read_text(name, text, []).layout
        if layout is None:
            return text
        holder = self.find(str(layout.number)) if layout.number is not None else None
        number = None if holder and holder.name != name else layout.number
        new = layout._replace(name=name, number=number)
        return text if new == layout else text_over(text, new, self._bases(self._file(name)))

    def past(self, name: str) -> list[PastVersion]:
        """Return all versions of a layout, the one in use first, then the latest."""
        former = [
            PastVersion(one.number, one.saved, self._layout(name, one)) for one in reversed(self.versions.of(name))
        ]
        now = [PastVersion(None, "", self.find(name))] if self._file(name).exists() else []
        return now + former

    def _version(self, name: str, version: str) -> Version:
        number = number_of(version)
        if number is None:
            raise UsageError(f"{name}@{version} names no version", f"write a version's number: {name}@1")
        found = next((one for one in self.versions.of(name) if one.number == number), None)
        if found is None:
            raise StoreError(f"there is no version {version} of {name}", f"jaklet layout history {name} shows all")
        return found

    def _layout(self, name: str, one: Version) -> Layout | None:
        return self._read_text(f"{name}@{one.number}", one.text, []).layout

    def _read_text(self, shown: str, text: str, found: list[Finding]) -> LayoutReading:
        return read_layout(SourceFile(shown, text), found, lambda base: self._draft(base, ()))

    def _former(self, name: str, version: str) -> Layout:
        one = self._version(name, version)
        found: list[Finding] = []
        layout = self._read_text(f"{name}@{version}", one.text, found).layout
        if layout is None:
            raise StoreError(f"{found[0].spot}: {found[0].cause}", found[0].remedy)
        return layout

    @contextlib.contextmanager
    def _changing(self, name: str) -> Iterator[None]:
        """Let one process change layouts at a time; tell of what the system refuses."""
        from jaklet.locks import HeldError, hold_lock  # only what writes needs it

        try:
            self._state.mkdir(parents=True, exist_ok=True, mode=0o700)
            with hold_lock(self._state / "layouts.lock"):
                yield
        except HeldError as fault:
            raise StoreError(f"{name} is as it was before, as {fault.strerror}", fault.remedy) from fault
        except OSError as fault:
            raise StoreError(
                f"{name} was not saved, and is as it was before: {fault.strerror or fault}",
                f"see to {fault.filename or self._shown}, then save again",
            ) from fault


def _text(path: Path) -> str | None:
    """Return the text of a file, with marks for bytes that are no text; None where there is no file."""
    return read_ordinary(path).decode("utf-8", "replace") if path.exists() else None
