"""Figures as files: Matplotlib's, which is loaded nowhere before it is needed, as PNG, SVG or PDF."""

import warnings
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Final, Literal

from jaklet.core.values.errors import JakletError, UsageError
from jaklet.core.values.words import either

if TYPE_CHECKING:
    from matplotlib.figure import Figure

FORMATS: Final = (".png", ".svg", ".pdf")
DOTS: Final = 100  # to the inch
PAPER: Final = "#ffffff"


def format_of(out: str) -> str:
    """Return in which format a file is to be, by its name; raises `UsageError`."""
    suffix = Path(out).suffix.lower()
    if suffix not in FORMATS:
        raise UsageError(f"{out} names no format", f"let the name end in {either(FORMATS)}")
    return suffix


def new_figure(width: float, height: float, layout: Literal["constrained"] | None = None, dots: int = DOTS) -> "Figure":
    """Return an empty figure of a size in inches; raises `JakletError` where Matplotlib is not installed."""
    try:
        from matplotlib.backends.backend_agg import FigureCanvasAgg
        from matplotlib.figure import Figure
    except ImportError as fault:
        from jaklet.extras import install

        raise JakletError("pictures of this kind need Matplotlib", install("matplotlib")) from fault
    # What it remarks on, such as letters that a font lacks, has the text in it, which could steer a terminal.
    warnings.filterwarnings("ignore", category=UserWarning, module="matplotlib")
    figure = Figure(figsize=(width, height), dpi=dots, facecolor=PAPER, layout=layout)
    FigureCanvasAgg(figure)
    return figure


def write_figures(figures: Sequence["Figure"], out: str, title: str = "") -> None:
    """Write figures into a file, the same each time; a PDF has a page for each, others have the first alone.

    Raises `JakletError` where that cannot be.
    """
    from matplotlib.backends.backend_pdf import PdfPages

    suffix = format_of(out)
    try:
        if suffix == ".pdf":
            with PdfPages(out, metadata={"Title": title or None, "CreationDate": None}) as pages:
                for figure in figures:
                    pages.savefig(figure)
        else:
            figures[0].savefig(out, metadata={"Date": None} if suffix == ".svg" else None)
    except OSError as fault:
        raise JakletError(f"{out} cannot be written: {fault.strerror}", "choose another file") from fault
