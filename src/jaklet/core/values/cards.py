"""Cards: what is shown over the windows, before it is pixels: text in runs, in cells, in lines, in blocks."""

from typing import Final, NamedTuple

# What a run of text is; how each looks is in `overlay.looks`.
PLAIN, STRONG, FAINT, KEY, MARK, FAILED = "", "strong", "faint", "key", "mark", "failed"
ROLES: Final = (PLAIN, STRONG, FAINT, KEY, MARK, FAILED)


class TextRun(NamedTuple):
    """A stretch of text in one role."""

    text: str
    role: str = PLAIN


Cell = tuple[TextRun, ...]


class CardLine(NamedTuple):
    """One line; its cells stand under those of the other lines of its block. `chosen`: it is what Enter does."""

    cells: tuple[Cell, ...]
    chosen: bool = False


class CardBlock(NamedTuple):
    """Lines under a heading, which may be empty. Where a card has columns, a block that is too high is parted."""

    lines: tuple[CardLine, ...]
    heading: str = ""


class Card(NamedTuple):
    """One card. `typed`: what has been typed into it, None where nothing can be; `foot`: the line below all others.

    `columns`: how many blocks may stand beside one another at most. `failed`: it tells of something that went wrong.
    """

    blocks: tuple[CardBlock, ...] = ()
    title: Cell = ()
    typed: str | None = None
    foot: Cell = ()
    columns: int = 1
    failed: bool = False


def plain_cell(text: str, role: str = PLAIN) -> Cell:
    """Return a cell of one run; an empty one for no text."""
    return (TextRun(text, role),) if text else ()
