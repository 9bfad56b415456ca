"""From a card to pixels: pure but for the fonts, and the same for every surface."""

from collections.abc import Sequence
from itertools import accumulate
from typing import Final, NamedTuple

from PIL import Image, ImageDraw

from jaklet.core.values.cards import FAILED, KEY, MARK, STRONG, Card, CardBlock, CardLine, Cell, TextRun
from jaklet.core.values.geometry import Rect
from jaklet.overlay.fonts import Fonts
from jaklet.overlay.looks import Colour, Look, Sizes

BOLD: Final = (STRONG, KEY)
POINTER: Final = "▸ "  # before the chosen line, as its colours are not the only sign
CARET: Final = "▏"


class CardPicture(NamedTuple):
    """A card as a picture, and where its lines are on it, in the order of its blocks."""

    image: Image.Image
    lines: tuple[Rect, ...]


def draw_card(
    card: Card, look: Look, sizes: Sizes, fonts: Fonts, room: tuple[int, int], least: tuple[int, int] = (0, 0)
) -> CardPicture:
    """Draw a card, no larger than `room` and no smaller than `least`: width and height in pixels.

    What does not fit is cut, and never smaller.
    """
    return _CardPainter(card, look, sizes, fonts, room).draw(least)


class _CardPainter:
    """Measures a card, and draws it."""

    def __init__(self, card: Card, look: Look, sizes: Sizes, fonts: Fonts, room: tuple[int, int]) -> None:
        self._card, self._look, self._sizes, self._fonts, self._room = card, look, sizes, fonts, room
        self._indent = fonts.width(POINTER) if any(line.chosen for block in card.blocks for line in block.lines) else 0
        self._widest = room[0] - 2 * (sizes.margin + sizes.edge)

    def draw(self, least: tuple[int, int]) -> CardPicture:
        card, sizes = self._card, self._sizes
        tall = self._room[1] - 2 * (sizes.margin + sizes.edge) - self._around()
        columns = _flowed(card.blocks, max(1, tall // sizes.line), card.columns)
        share = (self._widest - (len(columns) - 1) * 2 * sizes.between) // max(1, len(columns))
        measured = [self._cells_of(blocks, share) for blocks in columns]
        widths = [
            min(share, max((self._width_of(one, each) for one, each in zip(blocks, cells, strict=True)), default=0))
            for blocks, cells in zip(columns, measured, strict=True)
        ]
        inner = max(
            sum(widths) + (len(widths) - 1) * 2 * sizes.between if widths else 0,
            self._cell_width(card.title), self._cell_width(card.foot),
            self._fonts.width((card.typed or "") + CARET), 8 * sizes.text if card.typed is not None else 0,
        )  # fmt: skip
        inner = min(inner, self._widest)
        rows = max((sum(map(_height, blocks)) for blocks in columns), default=0)
        rows = min(rows, max(1, tall // sizes.line))
        around = sizes.margin + sizes.edge
        size = max(least[0], inner + 2 * around), max(least[1], rows * sizes.line + self._around() + 2 * around)
        inner = size[0] - 2 * around
        image = Image.new("RGB", size, self._look.paper)
        brush = ImageDraw.Draw(image)
        edge = self._look.ink[FAILED] if card.failed else self._look.edge
        brush.rectangle((0, 0, size[0] - 1, size[1] - 1), outline=edge, width=sizes.edge * (2 if card.failed else 1))
        x, y = around, around
        if card.title:
            self._cell(image, card.title, x, y, inner)
            y += sizes.line + (0 if card.typed is not None else sizes.margin // 2)
        if card.typed is not None:
            self._run(image, TextRun(self._fonts.cut(card.typed, inner - sizes.text) + CARET, STRONG), x, y, None)
            y += sizes.line
        found: list[Rect] = []
        for blocks, cells, wide in zip(columns, measured, widths, strict=True):
            wide = inner if len(columns) == 1 else wide
            self._column(image, blocks, cells, (x, y, wide, rows), found)
            x += wide + 2 * sizes.between
        if card.foot:
            self._cell(image, card.foot, around, size[1] - around - sizes.line, inner)
        return CardPicture(image, tuple(found))

    def _around(self) -> int:
        """Return the height of what stands above and below the blocks."""
        card, sizes = self._card, self._sizes
        lines = bool(card.title) + (card.typed is not None) + bool(card.foot)
        apart = bool(card.title and card.typed is None) + bool(card.foot)
        return lines * sizes.line + apart * (sizes.margin // 2)

    def _cell_width(self, cell: Cell) -> int:
        return sum(self._fonts.width(run.text, run.role in BOLD) for run in cell)

    def _cells_of(self, blocks: Sequence[CardBlock], share: int) -> list[list[int]]:
        """Return the widths of the cells of each block, so that a line fits: the widest one gives way."""
        found = []
        for block in blocks:
            count = max((len(line.cells) for line in block.lines), default=0)
            widths = [
                max((self._cell_width(line.cells[i]) for line in block.lines if i < len(line.cells)), default=0)
                for i in range(count)
            ]
            room = share - self._indent - max(0, count - 1) * self._sizes.between
            while widths and sum(widths) > room and max(widths) > self._sizes.text:
                widest = widths.index(max(widths))
                widths[widest] = max(self._sizes.text, widths[widest] - (sum(widths) - room))
            found.append(widths)
        return found

    def _width_of(self, block: CardBlock, widths: Sequence[int]) -> int:
        lines = self._indent + sum(widths) + max(0, len(widths) - 1) * self._sizes.between
        return max(lines, min(self._fonts.width(block.heading, bold=True), self._widest))

    def _column(
        self, image: Image.Image, blocks: Sequence[CardBlock], cells: Sequence[Sequence[int]],
        place: tuple[int, int, int, int], found: list[Rect],
    ) -> None:  # fmt: skip
        x, y, wide, rows = place
        end = y + rows * self._sizes.line
        for number, (block, widths) in enumerate(zip(blocks, cells, strict=True)):
            y += self._sizes.line if number and block.heading else 0
            if block.heading and y < end:
                self._run(image, TextRun(self._fonts.cut(block.heading, wide, bold=True), STRONG), x, y, None)
                y += self._sizes.line
            for line in block.lines:
                if y + self._sizes.line > end:
                    break
                place_of = Rect(x, y, wide, self._sizes.line)
                self._line(image, line, place_of, widths)
                found.append(place_of)
                y += self._sizes.line

    def _line(self, image: Image.Image, line: CardLine, place: Rect, widths: Sequence[int]) -> None:
        ink = None
        if line.chosen:
            paper, ink = self._look.chosen
            half = self._sizes.margin // 2
            ImageDraw.Draw(image).rectangle(
                (place.x - half, place.y, place.right + half - 1, place.bottom - 1), fill=paper
            )
            self._run(image, TextRun(POINTER, STRONG), place.x, place.y, ink)
        starts = accumulate((wide + self._sizes.between for wide in widths), initial=place.x + self._indent)
        for cell, x, wide in zip(line.cells, starts, widths, strict=False):
            self._cell(image, cell, x, place.y, wide, ink)

    def _cell(self, image: Image.Image, cell: Cell, x: int, y: int, room: int, ink: Colour | None = None) -> None:
        for run in cell:
            wide = self._fonts.width(run.text, run.role in BOLD)
            if wide > room:
                run = run._replace(text=self._fonts.cut(run.text, room, run.role in BOLD))
                wide = room
            self._run(image, run, x, y, ink)
            x, room = x + wide, room - wide
            if room <= 0:
                return

    def _run(self, image: Image.Image, run: TextRun, x: int, y: int, ink: Colour | None) -> None:
        if not run.text:
            return
        colour = ink or self._look.ink[run.role]
        piece = self._fonts.piece(run.text, run.role in BOLD)
        down = y + (self._sizes.line - self._sizes.text) // 2 - self._sizes.text // 8
        image.paste(colour, (x + piece.left, down + piece.top), piece.mask)
        if run.role == MARK and piece.width:  # a letter can be of no width
            under = down + self._fonts.ascent + self._sizes.underline
            brush = ImageDraw.Draw(image)
            brush.rectangle((x, under, x + piece.width - 1, under + self._sizes.underline - 1), fill=colour)


def _height(block: CardBlock) -> int:
    """Return how many lines a block takes, with its heading and the space before it."""
    return len(block.lines) + (2 if block.heading else 0)


def _flowed(blocks: Sequence[CardBlock], rows: int, most: int) -> list[list[CardBlock]]:
    """Put blocks into columns, in their order: as few as it takes, at most so many; long blocks are parted.

    The columns are about as high as one another.
    """
    if most <= 1:
        return [list(blocks)] if blocks else []
    parts = [part for block in blocks for part in _parted(block, rows)]
    for count in range(1, most + 1):
        columns = _into(parts, count, rows)
        if columns is not None:
            return columns
    return _into(parts, most, 1 << 30) or []


def _parted(block: CardBlock, rows: int) -> list[CardBlock]:
    room = max(1, rows - 2)
    if len(block.lines) <= room:
        return [block]
    pieces = [block.lines[i : i + room] for i in range(0, len(block.lines), room)]
    return [CardBlock(piece, block.heading if i == 0 else f"{block.heading} …") for i, piece in enumerate(pieces)]


def _into(parts: Sequence[CardBlock], count: int, rows: int) -> list[list[CardBlock]] | None:
    """Fill columns up to the least height with which so many are enough; None where that is more than there is."""
    heights = [_height(part) for part in parts]
    low, high = max(heights, default=1), max(sum(heights), 1)
    while low < high:
        middle = (low + high) // 2
        if len(_filled(parts, middle)) <= count:
            high = middle
        else:
            low = middle + 1
    return _filled(parts, low) if low <= rows else None


def _filled(parts: Sequence[CardBlock], height: int) -> list[list[CardBlock]]:
    columns: list[list[CardBlock]] = []
    left = 0
    for part in parts:
        if not columns or _height(part) > left:
            columns.append([])
            left = height
        columns[-1].append(part)
        left -= _height(part)
    return columns
