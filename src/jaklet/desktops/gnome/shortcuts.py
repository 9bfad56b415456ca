"""The shell's shortcuts: which are ours, who has the others, and those that are lent.

A shortcut is a key and the modifiers with it, as the keymap counts them; the shell takes such accelerators, too.
Owners are known by GNOME's published settings. What is lent is taken out of a setting, and put back.
"""

import contextlib
import time as clock
from collections.abc import Callable, Container, Iterable, Iterator
from pathlib import Path
from typing import Any, Final, NamedTuple

from jaklet.core.keys.strokes import KeyTable
from jaklet.core.values.errors import DeskError
from jaklet.desktops.compositor.bus import BUS
from jaklet.desktops.compositor.chord_source import AcceleratorEvent, ShortcutRequest
from jaklet.desktops.compositor.ledger import LentFile
from jaklet.desktops.gnome.extension import GnomeExtension
from jaklet.desktops.gnome.settings import ShellShortcut, chord_of, gsettings, texts_of
from jaklet.desktops.wayland.keyboard import MASKS

MEDIA_KEYS: Final = "org.gnome.SettingsDaemon.MediaKeys"  # who has the shortcuts of the settings daemon, where it runs
LETS_GO: Final = 1.0  # seconds in which the shell lets go of a shortcut that is in its settings no more
LOOKS: Final = 0.01


class LentAccelerator(NamedTuple):
    """An accelerator that was taken out of a setting for a while, and what that is for."""

    schema: str
    path: str
    key: str
    accelerator: str
    purpose: str


def lent_accelerator(*texts: Any) -> LentAccelerator:
    """Return one as it was written; raises `TypeError`."""
    return LentAccelerator(*(str(one) for one in texts))


def lent_file(state: Callable[[], Path]) -> LentFile[LentAccelerator]:
    """Return the file of what is lent, which outlives a violent end. `state`: returns the folder for such files."""
    return LentFile(state, "gnome", lent_accelerator)


def code_of(key: int, modifiers: int) -> int:
    """Return the number of a key with modifiers: evdev's number of the key, and the bits of the keymap's modifiers."""
    return key << 8 | sum(mask for one, mask in MASKS.items() if modifiers & one)


class GnomeShortcuts:
    """The shell's shortcuts that are ours at a time (`compositor.chord_source.Shortcuts`).

    `table`: returns what is on the keys.
    """

    def __init__(
        self,
        extension: GnomeExtension,
        table: Callable[[], KeyTable[int]],
        ledger: LentFile[LentAccelerator] | None = None,
    ) -> None:
        self._extension, self._table, self._ledger = extension, table, ledger
        self._held: dict[int, bool] = {}  # and whether each is followed
        self._lent: dict[int, LentAccelerator] = {}
        self.refused: dict[int, str] = {}
        self.told: list[AcceleratorEvent] = []
        self.lost: list[int] = []

    def begin(self) -> None:
        """Give back what a listener has left behind that could not; presses are told of anyway."""
        for _line in given_back(self._ledger) if self._ledger else ():
            pass

    def begin_again(self) -> None:
        """Ask a shell that has begun anew for all that was ours; `hear` tells of the result."""
        self._held, self.refused, self._lent = {}, {}, {}

    def sweep(self) -> None:
        """Give back all that is ours; raises `DeskError`."""
        self.hear([])

    def hear(self, wanted: Iterable[ShortcutRequest], over: Container[int] = ()) -> dict[int, str]:
        """Have exactly these; return those that cannot be had, with the owner of each as far as that is told."""
        asked = {one.code: one.is_followed for one in wanted}
        back = [code for code in self._lent if code not in over or code not in asked]
        gone = [code for code, followed in self._held.items() if asked.get(code) is not followed or code in back]
        new = [code for code in asked if (code not in self._held or code in gone) and code not in self.refused]
        refused = self._grab([code for code in new if code not in back], asked, gone)
        self._give_back(back)
        if wanted_over := [code for code in refused if code in over]:
            self._borrow(wanted_over)
            until = clock.monotonic() + LETS_GO
            while (still := self._grab(wanted_over, asked, [])) and clock.monotonic() < until:
                clock.sleep(LOOKS)
            refused = [code for code in refused if code not in wanted_over or code in still]
        refused += [code for code in back if code in asked]
        if refused:
            owners = self._names(refused)
            self.refused |= {code: owners.get(code, "") for code in refused}
        return {code: self.refused[code] for code in asked if code in self.refused}

    def _grab(self, new: list[int], followed: dict[int, bool], gone: list[int]) -> list[int]:
        """Ask for some, and let go of others; return those that were refused."""
        for code in gone:
            self._held.pop(code, None)
        if not (new or gone):
            return []
        rows = [[code, followed[code]] for code in new]
        refused = [int(code) for code in self._extension.question("chords", add=rows, remove=gone) or ()]
        self._held |= {code: followed[code] for code in new if code not in refused}
        return refused

    def _borrow(self, codes: list[int]) -> None:
        """Take shortcuts out of the settings where they stand, once that is written down."""
        rows = {
            code: LentAccelerator(one.schema, one.path, one.key, one.accelerator, one.owner)
            for code, one in self._published().items()
            if code in codes
        }
        self._lent |= rows
        if self._ledger:
            self._ledger.write(self._lent.values())
        self._extension.question("lend", rows=[row[:4] for row in rows.values()])

    def _give_back(self, codes: list[int]) -> None:
        if codes:
            self._extension.question("unlend", rows=[self._lent.pop(code)[:4] for code in codes])
            if self._ledger:
                self._ledger.write(self._lent.values())

    def owners(self, codes: Iterable[int]) -> dict[int, str]:
        """Return the owners of these shortcuts, empty for one that has no name; those that nobody has are left out."""
        taken = [int(code) for code in self._extension.question("taken", codes=[*codes]) or ()]
        names = self._names(taken) if taken else {}
        return {code: names.get(code, "") for code in taken}

    def _names(self, codes: Iterable[int]) -> dict[int, str]:
        published = self._published()
        return {code: published[code].owner for code in codes if code in published}

    def _published(self) -> dict[int, ShellShortcut]:
        """Return the shortcuts in the settings by number; of a program that does not run, none."""
        has_daemon = bool(self._extension.bus.call(BUS, "NameHasOwner", "s", MEDIA_KEYS))
        found: dict[int, ShellShortcut] = {}
        for schema, path, key, purpose, accelerators in self._extension.question("shortcuts") or ():
            for accelerator in accelerators if has_daemon or "settings-daemon" not in schema else ():
                chord = chord_of(accelerator)
                for stroke in self._table().strokes(chord) if chord else ():
                    shortcut = ShellShortcut(schema, path, key, purpose, accelerator)
                    found.setdefault(code_of(stroke.key, stroke.modifiers), shortcut)
        return found


def given_back(ledger: LentFile[LentAccelerator]) -> Iterator[str]:
    """Put back into the settings what a listener has left lent that was killed; yield a line for each."""
    for one, where, there in _missing(ledger):
        with contextlib.suppress(DeskError):
            gsettings("set", where, one.key, str([*there, one.accelerator]))
            yield f"given back to {one.purpose}: {one.accelerator}"
    ledger.write([])


def left_behind(ledger: LentFile[LentAccelerator]) -> Iterator[str]:
    """Yield a line for each shortcut that is still lent."""
    for one, _where, _there in _missing(ledger):
        yield f"{one.purpose} lacks {one.accelerator}, which a listener had that was killed"


def _missing(ledger: LentFile[LentAccelerator]) -> Iterator[tuple[LentAccelerator, str, list[str]]]:
    """Yield accelerators that are lent still, the places of their settings, and the texts that stand there now."""
    for one in ledger.read():
        where = f"{one.schema}:{one.path}" if one.path else one.schema
        with contextlib.suppress(DeskError):
            there = texts_of(where, one.key)
            if one.accelerator not in there:
                yield one, where, there
