"""The sheet of keys as text and as data."""

import csv
import io
from collections.abc import Sequence
from itertools import groupby
from typing import Any, Final

from jaklet.core.keys.sheet import SheetLine
from jaklet.core.values.chords import keys_written
from jaklet.core.values.words import printable
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.plain import csv_cell
from jaklet.drawing.tables import table_text

HEADS: Final = ("keys", "action", "where", "note", "state")


def sheet_text(lines: Sequence[SheetLine], columns: int | None, ink: Ink = PLAIN) -> str:
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


def sheet_markdown(lines: Sequence[SheetLine], title: str) -> str:
    """Return the sheet as Markdown: a table under each heading."""
    parts = [f"# {_cell(title)}"]
    for heading, group in groupby(lines, lambda line: line.heading):
        rows = [f"| {_keys(line)} | {_cell(line.what)} | {_cell(', '.join(line.beside))} |" for line in group]
        parts += ["", f"## {_cell(heading or 'keys')}", "", "| keys | what | |", "|---|---|---|", *rows]
    return "\n".join(parts) + "\n"


def _keys(line: SheetLine) -> str:
    return " ".join(f"`{part}`" for part in printable(line.keys).split())


def _cell(text: str) -> str:
    return printable(text).translate(_MARKDOWN)


_MARKDOWN: Final = {ord(sign): f"\\{sign}" for sign in "\\|`*_<>[]"}


def sheet_csv(lines: Sequence[SheetLine]) -> str:
    """Return the sheet as CSV (RFC 4180), a row for each line."""
    out = io.StringIO()
    writer = csv.DictWriter(out, CSV_HEADS)
    writer.writeheader()
    for row in sheet_data(lines):
        cells = {name: " / ".join(row[name]) if name == "chords" else row[name] for name in CSV_HEADS}
        writer.writerow({name: csv_cell(value) for name, value in cells.items()})
    return out.getvalue()


CSV_HEADS: Final = ("keys", "action", "note", "heading", "layer", "where", "dead", "chords")


def sheet_data(lines: Sequence[SheetLine]) -> list[dict[str, Any]]:
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
