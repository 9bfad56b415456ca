"""Fonts: those of the desktop by fontconfig, with others for letters that the first one has not."""

import re
import subprocess
from functools import lru_cache
from itertools import groupby
from typing import Any, Final, NamedTuple

from PIL import Image, ImageFont

_MISSING: Final = "\uffff"  # a character that no font has
_PATIENCE: Final = 3.0  # seconds for an answer of fontconfig
MOST_MASKS: Final = 1000  # pieces of text, and words of them, that are kept as drawn
_WORDS: Final = re.compile(r"[^ ]+ *| +")
_LATIN_ETC: Final = "\u0590"  # below it, letters stand from left to right, and do not join


class Piece(NamedTuple):
    """A piece of text as drawn: how strong its ink is at each pixel, where that begins, and how wide it is."""

    mask: Image.Image
    left: int
    top: int
    width: int


class Fonts:
    """The fonts of one size. `family`: as fontconfig knows it."""

    def __init__(self, pixels: int, family: str = "sans-serif") -> None:
        self.pixels = pixels
        self._family = family
        self._faces: dict[bool, list[Any]] = {
            bold: [_face(_match(_pattern(family, bold)), pixels)] for bold in (False, True)
        }
        self._asked: dict[tuple[str, bool], int] = {}  # for which letters fontconfig was asked, and which face it gave
        self.piece = lru_cache(MOST_MASKS)(self._piece)
        self._word = lru_cache(MOST_MASKS)(self._draw)
        self.ascent: int = self._faces[False][0].getmetrics()[0]

    def width(self, text: str, bold: bool = False) -> int:
        """Return how wide a text is, in pixels."""
        return self.piece(text, bold).width

    def cut(self, text: str, room: int, bold: bool = False) -> str:
        """Return a text that fits, cut at its end where it is too long."""
        if self.width(text, bold) <= room:
            return text
        low, high = 0, len(text)
        while low < high:
            middle = (low + high + 1) // 2
            if self.width(f"{text[:middle]}…", bold) <= room:
                low = middle
            else:
                high = middle - 1
        return f"{text[:low]}…" if low else ""

    def _piece(self, text: str, bold: bool) -> Piece:
        """Draw a text, each letter in the first font that has it."""
        by_face = groupby(text, lambda letter: self._face_of(letter, bold))
        parts = [(text, 0)] if text.isascii() else [("".join(letters), face) for face, letters in by_face]
        drawn, left = [], 0.0
        for part, number in parts:
            # Words come again in other lines, and are drawn once; scripts that are written otherwise stay whole.
            for word in _WORDS.findall(part) if max(part, default="") < _LATIN_ETC else (part,):
                mask, x, y, wide = self._word(word, number, bold)
                drawn.append((mask, round(left) + x, y))
                left += wide
        if not drawn:
            return Piece(Image.new("L", (1, 1)), 0, 0, 0)
        if len(drawn) == 1:
            return Piece(*drawn[0], round(left))
        first, top = min(x for _, x, _ in drawn), min(y for *_, y in drawn)
        right = max(x + mask.width for mask, x, _ in drawn)
        bottom = max(y + mask.height for mask, _, y in drawn)
        image = Image.new("L", (max(1, right - first), max(1, bottom - top)))
        for mask, x, y in drawn:
            image.im.paste(mask.im, (x - first, y - top, x - first + mask.width, y - top + mask.height))
        return Piece(image, first, top, round(left))

    def _draw(self, word: str, number: int, bold: bool) -> tuple[Image.Image, int, int, float]:
        """Draw a word with one face: its ink, where that begins, and how wide it is."""
        face = self._faces[bold][number]
        mask, (x, y) = face.getmask2(word, mode="L")
        ink = Image.frombytes("L", mask.size, bytes(mask)) if all(mask.size) else Image.new("L", (1, 1))
        return ink, x, y, face.getlength(word)

    def _face_of(self, letter: str, bold: bool) -> int:
        """Return the number of the first face that has a letter; that of the first where none has."""
        if letter < "\u007f":
            return 0
        known = self._asked.get((letter, bold))
        if known is None:
            known = self._asked[letter, bold] = self._look_for(letter, bold)
        return known

    def _look_for(self, letter: str, bold: bool) -> int:
        faces = self._faces[bold]
        found = next((i for i, face in enumerate(faces) if _has(face, letter)), None)
        if found is not None:
            return found
        face = _face(_match(f"{_pattern(self._family, bold)}:charset={ord(letter):x}"), self.pixels)
        if not _has(face, letter):
            return 0
        faces.append(face)
        return len(faces) - 1


def _pattern(family: str, bold: bool) -> str:
    return f"{family}:bold" if bold else family


def _has(face: Any, letter: str) -> bool:
    """Return whether a font has a letter: what is drawn for it is not what is drawn for none."""
    return bytes(face.getmask(letter)) != bytes(face.getmask(_MISSING)) or letter.isspace()


@lru_cache(200)
def _match(pattern: str) -> tuple[str, int]:
    """Return the file and the number in it of the font that fits best; an empty name where there is no fontconfig."""
    command = ["fc-match", "-f", "%{file}\n%{index}", pattern]
    try:
        told = subprocess.run(command, capture_output=True, text=True, timeout=_PATIENCE, check=True).stdout
        file, _, index = told.partition("\n")
        return file, int(index or 0)
    except (OSError, ValueError, subprocess.SubprocessError):
        return "", 0


def _face(found: tuple[str, int], pixels: int) -> Any:
    """Return a font of a size; the library's own where there is no other."""
    file, index = found
    if file:
        try:
            return ImageFont.truetype(file, pixels, index & 0xFFFF)
        except (OSError, ValueError):
            pass  # a bitmap font, or a file that is broken
    return ImageFont.load_default(pixels)


@lru_cache(12)
def fonts_of(pixels: int) -> Fonts:
    """Return the fonts of a size; they are looked for once."""
    return Fonts(pixels)
