"""Tables as text: aligned columns, cut to the terminal's width, whole in pipes."""

from collections.abc import Iterable, Sequence
from io import StringIO

from jaklet.core.words import printable
from jaklet.drawing.ink import PLAIN, Ink


def table_text(heads: Sequence[str], rows: Iterable[Sequence[str]], width: int | None = None, ink: Ink = PLAIN) -> str:
    """Return a table, without the columns in which nothing stands. `width` None: as wide as it needs to be."""
    from rich.console import Console
    from rich.table import Table
    from rich.text import Text

    table = Table(box=None, padding=(0, 2, 0, 0), header_style="bold" if ink.coloured else "", pad_edge=False)
    cells = [*rows]
    used = [i for i in range(len(heads)) if any(row[i] for row in cells)]
    for i in used:
        table.add_column(Text(heads[i]), no_wrap=True, overflow="ellipsis")
    for row in cells:
        table.add_row(*(Text(printable(row[i])) for i in used))
    out = StringIO()
    Console(
        file=out, width=width or 10_000, force_terminal=ink.coloured, color_system="standard" if ink.coloured else None
    ).print(table)
    return "\n".join(line.rstrip() for line in out.getvalue().splitlines())
