"""The sheet of keys as a picture: PDF, PNG or SVG, on one sheet of paper or two.

Where each word stands is worked out first, without Matplotlib: letters of one width make that exact.
"""

import textwrap
from collections.abc import Sequence
from itertools import groupby, zip_longest
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from jaklet.core.keys.sheet import SheetLine
from jaklet.core.values.words import printable
from jaklet.drawing.figure_files import format_of, new_figure, write_figures

if TYPE_CHECKING:
    from matplotlib.figure import Figure

PAPERS: Final = {"a4": (11.69, 8.27), "letter": (11.0, 8.5)}  # inches, across
MARGIN: Final = 0.4  # inches
TITLE: Final = 0.45
GUTTER: Final = 0.3  # between two columns
COLUMNS: Final = 3
SIZES: Final = tuple(size / 2 for size in range(20, 8, -1))  # points, the largest first
ONE_SHEET: Final = 7.0  # points; smaller letters go on two sheets
ADVANCE: Final = 0.602  # of the size: how wide each letter of DejaVu Sans Mono is
LEADING: Final = 1.32
MOST_KEY: Final = 0.4  # of a column
POINTS: Final = 72.0
DOTS: Final = 110
INK, FAINT, KEY = "#1a2329", "#5c676d", "#00505c"


class PosterText(NamedTuple):
    """A piece of text: on which sheet, where its baseline begins (inches from the top left), and how it looks."""

    sheet: int
    x: float
    y: float
    text: str
    role: str  # "title", "heading", "key", "action", "dead"


class Poster(NamedTuple):
    """All marks, the size of the letters in points, and how many sheets there are."""

    marks: tuple[PosterText, ...]
    size: float
    sheets: int


class _Row(NamedTuple):
    """A row of a column: what stands in it, and whether the next one is not to be parted from it."""

    key: str = ""
    text: str = ""
    role: str = ""
    stays: bool = False


def laid_out(lines: Sequence[SheetLine], title: str, paper: str = "a4") -> Poster:
    """Return where everything stands: the largest letters with which it is on one sheet, else on two, else on more."""
    tried = [(size, sheets) for sheets in (1, 2) for size in SIZES if sheets > 1 or size >= ONE_SHEET]
    for size, sheets in (*tried, (SIZES[-1], 1 << 20)):
        poster = _at(lines, title, paper, size)
        if poster.sheets <= sheets:
            return poster
    raise AssertionError("there is no end to sheets")


def _at(lines: Sequence[SheetLine], title: str, paper: str, size: float) -> Poster:
    wide, high = PAPERS[paper]
    column = (wide - 2 * MARGIN - (COLUMNS - 1) * GUTTER) / COLUMNS
    letters = max(12, int(column * POINTS / (ADVANCE * size)))
    longest = max((len(line.keys) for line in lines), default=0)
    key = min(longest, int(letters * MOST_KEY)) + 2
    rows = _rows(lines, key - 2, letters - key)
    step = size * LEADING / POINTS
    room = max(3, int((high - 2 * MARGIN - TITLE) / step))
    marks, at, sheet, across = [PosterText(0, MARGIN, MARGIN + 0.2, title, "title")], 0, 0, 0
    for number, row in enumerate(rows):
        kept = next((n for n, one in enumerate(rows[number:], 1) if not one.stays), 1)
        if at and at + min(kept, room) > room:
            at, across = 0, across + 1
            if across == COLUMNS:
                sheet, across = sheet + 1, 0
        if not row.role and not at:
            continue  # no gap at the top of a column
        x, y = MARGIN + across * (column + GUTTER), MARGIN + TITLE + (at + 1) * step
        if row.key:
            marks.append(PosterText(sheet, x, y, row.key, "dead" if row.role == "dead" else "key"))
        if row.text:
            begins = x if row.role == "heading" else x + key * ADVANCE * size / POINTS
            marks.append(PosterText(sheet, begins, y, row.text, row.role))
        at += 1
    return Poster(tuple(marks), size, sheet + 1)


def _rows(lines: Sequence[SheetLine], key: int, room: int) -> list[_Row]:
    """Return all rows: keys of so many letters at most, and text of so many; longer ones are broken."""
    rows: list[_Row] = []
    for heading, group in groupby(lines, lambda line: line.heading):
        rows.append(_Row())
        rows += [_Row("", part, "heading", True) for part in _broken(heading or "keys", key + room)]
        for line in group:
            beside = f" ({', '.join(line.beside)})" if line.beside else ""
            pieces = [*zip_longest(_broken(line.keys, key), _broken(f"{line.what}{beside}", room), fillvalue="")]
            role = "dead" if line.dead else "action"
            rows += [_Row(keys, text, role, at < len(pieces)) for at, (keys, text) in enumerate(pieces, 1)]
    return rows


def _broken(text: str, room: int) -> list[str]:
    return textwrap.wrap(printable(text), max(1, room), break_on_hyphens=False) or [""]


def draw_poster(lines: Sequence[SheetLine], title: str, out: str, paper: str = "a4") -> int:
    """Write the picture in the format that the file's name ends in; return how many sheets it has.

    A PDF has a page for each; other formats have them below one another. Raises `JakletError`.
    """
    poster = laid_out(lines, title, paper)
    wide, high = PAPERS[paper]
    every = [*range(poster.sheets)]

    def drawn(sheets: Sequence[int]) -> "Figure":
        figure = new_figure(wide, high * len(sheets), dots=DOTS)
        for mark in poster.marks:
            if mark.sheet in sheets:
                down = mark.y + high * sheets.index(mark.sheet)
                figure.text(mark.x / wide, 1 - down / (high * len(sheets)), mark.text, **_look(mark.role, poster.size))
        return figure

    write_figures([drawn([sheet]) for sheet in every] if format_of(out) == ".pdf" else [drawn(every)], out, title)
    return poster.sheets


def _look(role: str, size: float) -> dict[str, Any]:
    bold = role in ("title", "heading", "key")
    colour = {"key": KEY, "dead": FAINT}.get(role, INK)
    return {
        "family": "DejaVu Sans" if role == "title" else "DejaVu Sans Mono",
        "size": 13.0 if role == "title" else size,
        "weight": "bold" if bold else "normal",
        "color": colour,
        "parse_math": False,
    }
