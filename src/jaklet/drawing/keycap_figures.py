"""The keyboard as a picture: PNG, SVG or PDF, one drawing for each set of modifiers, drawn by Matplotlib."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Final

from jaklet.core.keys.keycaps import BEGINS, BOUND, FREE, HELD, MODIFIER, OWNED, Keycap
from jaklet.core.values.words import cut_to_cells, printable, shortened
from jaklet.drawing.figure_files import PAPER, format_of, new_figure, write_figures
from jaklet.drawing.keycaps import short_label

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

SCALE: Final = 0.56  # inches that a letter key is wide
LETTERS: Final = 8.4  # of the small size, on a letter key
LABEL: Final = 6.0  # of the large size
INK, FAINT, LINE = "#1a2329", "#5c676d", "#7c878d"
# Paper and pattern of a key: never the colour alone.
LOOKS: Final = {
    BOUND: ("#d7ebea", ""), BEGINS: ("#d7ebea", ""), OWNED: ("#f8eee4", "//"), FREE: (PAPER, ""),
    HELD: ("#31525f", ""), MODIFIER: ("#eceeef", ""),
}  # fmt: skip
HARD, CONTORTED = "#dcdfe1", "#c3c8cb"  # free keys that the hand reaches badly
TELLING: Final = "hatched: somebody else's · grey: hard to reach, the darker the harder · dark: held · white: free"


def draw_keyboards(drawings: Sequence[tuple[str, Sequence[Keycap]]], out: str) -> None:
    """Write keyboards below one another, each under its title; a PDF has a page for each. Raises `JakletError`."""

    def figure_of(some: Sequence[tuple[str, Sequence[Keycap]]]) -> "Figure":
        boxes = [cap.box for _, caps in some for cap in caps]
        wide = max(box.x + box.width for box in boxes) - min(box.x for box in boxes) + 0.6
        high = max(box.y + box.height for box in boxes) - min(box.y for box in boxes) + 1.5
        figure = new_figure(wide * SCALE, high * SCALE * len(some))
        axes = figure.subplots(len(some), 1, squeeze=False)
        figure.subplots_adjust(0, 0, 1, 1, 0, 0)
        for (title, caps), (one,) in zip(some, axes, strict=True):
            _draw(one, title, caps, wide, high)
        return figure

    paged = format_of(out) == ".pdf"
    write_figures([figure_of([one]) for one in drawings] if paged else [figure_of(drawings)], out)


def _draw(axes: "Axes", title: str, caps: Sequence[Keycap], wide: float, high: float) -> None:
    from matplotlib.patches import FancyBboxPatch

    left, top = min(cap.box.x for cap in caps), min(cap.box.y for cap in caps)
    axes.set_xlim(left - 0.3, left - 0.3 + wide)
    axes.set_ylim(top - 0.9 + high, top - 0.9)
    axes.set_axis_off()
    text: dict[str, Any] = {"parse_math": False, "family": "DejaVu Sans", "clip_on": True}
    axes.text(left, top - 0.4, title, size=12, weight="bold", color=INK, **text)
    axes.text(left, top - 0.9 + high - 0.25, TELLING, size=8, color=FAINT, **text)
    for cap in caps:
        box = cap.box
        paper, pattern = LOOKS[cap.state]
        if cap.state == FREE and cap.is_hard:
            paper = CONTORTED if cap.is_contortion else HARD
        pattern = pattern or ("//" if cap.owner else "")
        place = FancyBboxPatch(
            (box.x + 0.06, box.y + 0.06), box.width - 0.12, box.height - 0.12, boxstyle="round,pad=0,rounding_size=0.1",
            facecolor=paper, edgecolor=LINE, hatch=pattern, linewidth=0.8,
        )  # fmt: skip
        place.set_hatch_linewidth(0.4)
        axes.add_patch(place)
        ink = PAPER if cap.state == HELD else INK
        axes.text(
            box.x + 0.14,
            box.y + 0.34,
            cut_to_cells(printable(cap.label), int(LABEL * box.width)),
            size=8.5,
            weight="bold",
            color=ink,
            clip_path=place,
            **text,
        )
        for at, line in enumerate(_lines(short_label(cap), box.width)):
            axes.text(box.x + 0.14, box.y + 0.6 + 0.22 * at, line, size=6, color=ink, clip_path=place, **text)


def _lines(text: str, wide: float) -> list[str]:
    """Return the first two lines of a text, broken to the width of a key."""
    import textwrap

    room = max(4, int(LETTERS * wide))
    lines = textwrap.wrap(text, room, max_lines=2, placeholder="…", break_long_words=False)
    return [shortened(line, room) for line in lines]  # a word that is too long is cut, and not broken in two
