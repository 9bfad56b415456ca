"""Drawings and texts for terminals that can show no more than ASCII, cell for cell, so that all stays in line."""

from typing import Final
from unicodedata import decomposition, name

_LIKE: Final = dict(zip("…·•–—“”‘’×→", ".,*--\"\"''x>", strict=True)) | {"·": "."}
_BLOCK: Final = range(0x2580, 0x25A0)


def plain_text(text: str, coding: str) -> str:
    """Return text in which what a coding lacks is replaced by something plain of one cell."""
    return "".join(c if c.isascii() or _can(c, coding) else _plain(c) for c in text)


def _can(character: str, coding: str) -> bool:
    try:
        character.encode(coding)
    except UnicodeEncodeError:
        return False
    return True


def _plain(character: str) -> str:
    if character in _LIKE:
        return _LIKE[character]
    if ord(character) in _BLOCK:
        return "#"
    called = name(character, "")
    if called.startswith("BOX DRAWINGS"):
        across, down = (
            any(w in called for w in ("HORIZONTAL", "LEFT", "RIGHT")),
            any(w in called for w in ("VERTICAL", "UP", "DOWN")),
        )
        return "+" if across and down else "-" if across else "|"
    base = decomposition(character).partition(" ")[0]  # a letter without its mark
    letter = chr(int(base, 16)) if base and not base.startswith("<") else "?"
    return letter if letter.isascii() else "?"


def csv_cell(value: object) -> object:
    """Return a value for a cell of CSV; a text that a spreadsheet would take for a formula gets an apostrophe."""
    return f"'{value}" if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r") else value
