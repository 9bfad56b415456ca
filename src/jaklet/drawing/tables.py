"""Tables as text: aligned columns, cut to the terminal's width, whole in pipes."""

from collections.abc import Iterable, Sequence
from io import StringIO
from typing import Final

from jaklet.core.values.words import printable
from jaklet.drawing.ink import PLAIN, Ink

GAP: Final = 2  # blanks between columns


def table_text(heads: Sequence[str], rows: Iterable[Sequence[str]], width: int | None = None, ink: Ink = PLAIN) -> str:
    """Return a table, without the columns in which nothing stands. `width` None: as wide as it needs to be."""
    from rich.cells import cell_len
    from rich.console import Console
    from rich.table import Table
    from rich.text import Text

    table = Table(box=None, padding=(0, GAP, 0, 0), header_style="bold" if ink.coloured else "", pad_edge=False)
    cells = [*rows]
    used = [i for i in range(len(heads)) if any(row[i] for row in cells)]
    columns = ([heads[i], *(row[i] for row in cells)] for i in used)
    widths = _widths([max(cell_len(printable(text)) for text in column) for column in columns], width)
    for i, wide in zip(used, widths, strict=True):
        table.add_column(Text(heads[i]), no_wrap=True, overflow="ellipsis", width=wide)
    for row in cells:
        table.add_row(*(Text(printable(row[i])) for i in used))
    out = StringIO()
    Console(
        file=out, width=width or 10_000, force_terminal=ink.coloured, color_system="standard" if ink.coloured else None
    ).print(table)
    return "\n".join(line.rstrip() for line in out.getvalue().splitlines())


def _widths(natural: list[int], room: int | None) -> list[int]:
    """Return how wide columns are: where there is too little room, the widest give way first."""
    widths = [*natural]
    while room and sum(widths) + GAP * (len(widths) - 1) > room and max(widths) > 1:
        widths[widths.index(max(widths))] -= 1
    return widths
