"""The sheet of keys as one page for a browser: searched as one types, and printed on a sheet or two."""

from collections.abc import Callable, Iterable, Sequence
from html import escape
from importlib.resources import files
from itertools import groupby
from string import Template
from typing import Final

from jaklet.core.keys.keycaps import Keycap
from jaklet.core.keys.sheet import SheetLine
from jaklet.core.values.chords import keys_written
from jaklet.core.values.words import counted
from jaklet.drawing.keycaps import short_label

PAPERS: Final = {"a4": "A4 landscape", "letter": "Letter landscape"}
UNIT, GAP = 4.2, 0.25  # em: how wide a letter key is, and what is between two
COLUMN: Final = 3 * 540.0  # points of height that the three columns of a printed sheet have
ROW: Final = 1.95  # times the size of the letters that a line takes, those that are broken included
ONE_SHEET: Final = 8.0  # points; where letters would be smaller, there are two sheets
LEAST, MOST = 5.0, 10.5  # points


def sheet_page(
    lines: Sequence[SheetLine],
    title: str,
    more: Callable[[SheetLine], str],
    paper: str = "a4",
    drawings: Sequence[tuple[str, Sequence[Keycap]]] = (),
) -> str:
    """Return the page. `more`: other words by which a line is found; `paper`: one of `PAPERS`.

    `drawings`: keyboards with their titles, on which what is looked for stands out.
    """
    text = (files("jaklet.drawing") / "page.html").read_text(encoding="utf-8")
    return Template(text).substitute(
        title=escape(title),
        paper=PAPERS[paper],
        print=f"{printed_size(lines):.1f}",
        sections="\n".join(_sections(lines, more)),
        keyboards="\n".join(_keyboard(title, caps) for title, caps in drawings),
        foot=f"{counted(len(lines), 'line')}; made by jaklet keys --out",
    )


def printed_size(lines: Sequence[SheetLine]) -> float:
    """Return how large letters are on paper, in points, so that all lines are on one sheet, or on two."""
    rows = len(lines) + 3 * sum(1 for _ in groupby(lines, lambda line: line.heading))
    size = COLUMN / (ROW * max(1, rows))
    return max(LEAST, min(MOST, size if size >= ONE_SHEET else min(ONE_SHEET, 2 * size)))


def _sections(lines: Iterable[SheetLine], more: Callable[[SheetLine], str]) -> Iterable[str]:
    for heading, group in groupby(lines, lambda line: line.heading):
        rows = "\n".join(_row(line, more) for line in group)
        yield f"<section><h2>{escape(heading or 'keys')}</h2><dl>\n{rows}\n</dl></section>"


def _keyboard(title: str, caps: Sequence[Keycap]) -> str:
    left, top = min(cap.box.x for cap in caps), min(cap.box.y for cap in caps)
    wide = max(cap.box.x + cap.box.width for cap in caps) - left
    high = max(cap.box.y + cap.box.height for cap in caps) - top
    keys = "\n".join(_key(cap, left, top) for cap in caps)
    style = f"width:{wide * UNIT:g}em;height:{high * UNIT:g}em"
    return (
        f'<figure><figcaption>{escape(title)}</figcaption><div class="board" style="{style}">\n{keys}\n</div></figure>'
    )


def _key(cap: Keycap, left: float, top: float) -> str:
    box = cap.box
    place = f"left:{(box.x - left) * UNIT:g}em;top:{(box.y - top) * UNIT:g}em;"
    size = f"width:{box.width * UNIT - GAP:g}em;height:{box.height * UNIT - GAP:g}em"
    kind = f"{cap.state}{' hard' if cap.is_hard else ''}{' taken' if cap.owner else ''}"
    actions = " ".join(f"{one.action.text} {one.note}" for one in cap.bindings)
    find = f"{cap.chord} {cap.text} {cap.owner} {actions}" if cap.bindings else ""
    told = ", ".join(part for part in (cap.chord, cap.text, f"also {cap.owner}" if cap.owner else "") if part)
    return (
        f'<div class="cap {kind}" style="{place}{size}" title="{escape(told)}" data-find="{escape(find.lower())}">'
        f"<b>{escape(cap.label)}</b><span>{escape(short_label(cap))}</span></div>"
    )


def _row(line: SheetLine, more: Callable[[SheetLine], str]) -> str:
    chords = " ".join(keys_written(keys) for keys in line.chords)
    find = f"{line.keys} {chords} {line.action} {line.note} {line.heading} {line.scope} {line.dead} {more(line)}"
    small = f" <small>{escape(', '.join(line.beside))}</small>" if line.beside else ""
    dead = " dead" if line.dead else ""
    return (
        f'<div class="line{dead}" data-find="{escape(find.lower())}">'
        f"<dt>{escape(line.keys)}</dt><dd>{escape(line.what)}{small}</dd></div>"
    )
