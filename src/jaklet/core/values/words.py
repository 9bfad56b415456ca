"""Words in messages: nearest names, counts, and text that is safe to show."""

from collections.abc import Iterable, Iterator, Sequence

REPLACEMENT = "\N{REPLACEMENT CHARACTER}"


def printable(text: str) -> str:
    """Return text that cannot steer a terminal: control and formatting characters are replaced.

    Window titles and class names come from other programs and are not to be trusted.
    """
    return text if text.isprintable() else "".join(c if c.isprintable() else REPLACEMENT for c in text)


def shortened(text: str, width: int) -> str:
    """Return printable text of at most `width` characters."""
    text = printable(text)
    return text if len(text) <= width else text[: max(width - 1, 0)] + "…"


def cell_width(text: str) -> int:
    """Return how many cells of a terminal a printable text takes: wide letters two, marks upon letters none."""
    if text.isascii():
        return len(text)
    from unicodedata import combining, east_asian_width  # few texts need it, and every start-up would pay for it

    return sum(0 if combining(c) else 2 if east_asian_width(c) in "WF" else 1 for c in text)


def cut_to_cells(text: str, room: int) -> str:
    """Return printable text of at most so many cells."""
    if cell_width(text) <= room:
        return text
    while text and cell_width(text) >= room:
        text = text[: -max(1, (cell_width(text) - room) // 2)]
    return text + "…"


def nearest(word: str, choices: Iterable[str], most: int = 3, likeness: float = 0.6) -> list[str]:
    """Return the choices that look most like the word, best first."""
    from difflib import get_close_matches  # only ever needed for bad input

    small = word.lower()
    room = 1 + len(small) // 2  # a cheap sieve before a costly measure: PATH can hold thousands of names
    near = sorted({choice for choice in choices if abs(len(choice) - len(small)) <= room})
    return get_close_matches(small, near, n=most, cutoff=likeness)


def alike(word: str, choices: Iterable[str]) -> Iterator[str]:
    """Yield the choices that begin or end as a word does, or are as long: a few of thousands, which are to be measured.

    What is missed by that has slips at its beginning, at its end, and in its length.
    """
    small = word.lower()
    begin, end, length = small[:2], small[-3:], len(small)
    return (one for one in choices if len(one) == length or one.startswith(begin) or one.endswith(end))


def did_you_mean(word: str, choices: Iterable[str], otherwise: str, likeness: float = 0.6) -> str:
    """Return a remedy that names the nearest choices, or the given one where none is near."""
    near = nearest(word, choices, likeness=likeness)
    return f"did you mean {either(near)}?" if near else otherwise


def either(words: Sequence[str]) -> str:
    """Join words as alternatives: `a, b or c`."""
    return listed(words, "or")


def listed(words: Sequence[str], joint: str = "and") -> str:
    """Join words as a sentence does: `a, b and c`."""
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} {joint} {words[-1]}"


def counted(number: int, noun: str, plural: str = "") -> str:
    """Return `1 window`, `2 windows`."""
    return f"{number} {noun if number == 1 else plural or noun + 's'}"
