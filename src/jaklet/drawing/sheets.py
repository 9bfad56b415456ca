"""The sheet of keys as text and as data."""

from collections.abc import Sequence
from typing import Any, Final

from jaklet.core.keys.sheet import Line
from jaklet.core.values.chords import keys_written
from jaklet.core.values.words import printable
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.tables import table_text

HEADS: Final = ("keys", "action", "where", "note", "state")


def sheet_text(lines: Sequence[Line], columns: int | None, ink: Ink = PLAIN) -> str:
    """Return the lines under their headings, in one table, so that all columns stand below each other."""
    rows: list[tuple[str, ...]] = []
    headings: dict[int, str] = {}  # by row; they are longer than the chords below them, and no cell of the table
    heading = ""
    for line in lines:
        if line.heading != heading:
            heading = line.heading
            rows += [("",) * len(HEADS)] * 2
            headings[len(rows)] = heading
        indent = "  " if heading else ""
        rows.append((indent + line.keys, line.action, line.scope, line.note, line.dead))
    drawn = table_text(HEADS, rows, columns, ink).splitlines()
    return "\n".join(printable(headings.get(number, "")) or text for number, text in enumerate(drawn))


def sheet_data(lines: Sequence[Line]) -> list[dict[str, Any]]:
    """Return the same as plain data; `chords` are all that a family stands for."""
    return [
        {
            "keys": line.keys,
            "action": line.action,
            "note": line.note,
            "heading": line.heading,
            "layer": line.layer,
            "where": line.scope,
            "dead": line.dead,
            "live": not line.dead,
            "chords": [keys_written(keys) for keys in line.chords],
        }
        for line in lines
    ]
