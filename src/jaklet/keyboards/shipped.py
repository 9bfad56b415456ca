"""Reads the tables of keyboards that ship with Jaklet."""

import json
from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Any, Final

from jaklet.core.keys.keyboards import FULL, Keyboard, KeyboardName
from jaklet.core.keys.shapes import spots_of
from jaklet.core.values.chords import keysym_of_letter
from jaklet.core.values.keysyms import KEYSYMS

_FOLDER: Final = Path(__file__).parent / "tables"


@cache
def _table(name: str) -> dict[str, Any]:
    table: dict[str, Any] = json.loads((_FOLDER / f"{name}.json").read_text(encoding="utf-8"))
    return table


def rows_of(name: str) -> Mapping[str, tuple[int, ...]]:
    """Return the keysyms of a keyboard by XKB key name."""
    keys = {**_table("common")["keys"], **_table(name)["keys"]}
    placed = spots_of(FULL, media=True)  # the X keyboard data has keys that no keyboard of today has
    return {key: tuple(_keysym(text) for text in row) for key, row in keys.items() if key in placed or key == "RALT"}


def _keysym(text: str) -> int:
    """Return the number of a keysym as xkbcomp writes it: `eacute`, `U2022`, `XF86AudioMute`."""
    if not text:
        return 0
    small = text.lower()
    found = KEYSYMS.get(small) or KEYSYMS.get(small.removeprefix("xf86"))
    if found is None and small[0] == "u":
        return keysym_of_letter(chr(int(small[1:], 16)))
    return found if found is not None else int(small, 16)


def codes() -> Mapping[str, int]:
    """Return the keycodes of the evdev driver by XKB key name."""
    found: dict[str, int] = _table("common")["codes"]
    return found


@cache
def keyboard(name: KeyboardName) -> Keyboard:
    """Return a keyboard that ships with Jaklet."""
    return Keyboard(name, rows_of(name.name))
