"""Finding by a few letters: which candidates fit what was typed, in which order, and what of them is marked.

What is typed is split into words, which may stand in any order. Each has to be found in the candidate, the better the
sooner: at the beginning of a word, inside of one, or with its letters scattered in their order over the
name. Of equally good ones what is used comes first, then the one with the shorter name, then the one that stood first.
"""

import re
from collections.abc import Sequence
from typing import Final, NamedTuple

SCATTERED, INSIDE, BEGINS = 1, 2, 3
MOST_SCATTERED: Final = 12  # letters; nobody types more of them and means them scattered


class SearchText(NamedTuple):
    """A candidate's text, made ready: in small letters, and the same with a blank for all that parts words.

    `label`: how many of its characters are its name, and no detail. `rank`: of equally good ones the least comes first;
    the length of the name, but for what is used.
    """

    small: str
    parted: str
    label: int
    rank: int


def ready_text(text: str, label: int | None = None, rank: int | None = None) -> SearchText:
    """Return a text made ready; every character keeps its position."""
    small = text.lower()
    if len(small) != len(text):  # a few capitals become two letters
        small = "".join(low if len(low := c.lower()) == 1 else c for c in text)
    label = len(small) if label is None else label
    return SearchText(small, " " + re.sub(r"[^\w]", " ", small), label, label if rank is None else rank)


class Query(NamedTuple):
    """What was typed: its words, each as it begins a word, and with the pattern of its letters scattered."""

    words: tuple[tuple[str, str, re.Pattern[str] | None], ...]

    @classmethod
    def of(cls, typed: str) -> "Query":
        """Return the query of a typed text."""
        return cls(tuple((word, " " + word, _scattered(word)) for word in dict.fromkeys(typed.lower().split())))

    def score(self, text: SearchText) -> int:
        """Return how well a text fits, 0 where it does not. An empty query fits all."""
        total = 1
        small, parted, label, _ = text
        for word, begins, scattered in self.words:
            if word in small:
                total += BEGINS if begins in parted else INSIDE
            elif scattered and scattered.search(small, 0, label):
                total += SCATTERED
            else:
                return 0
        return total

    def marks(self, text: SearchText) -> frozenset[int]:
        """Return the positions of the letters that fit."""
        found: set[int] = set()
        for word, begins, scattered in self.words:
            at = text.parted.find(begins)  # the blank before it makes up for the one at the front
            at = at if at >= 0 else text.small.find(word)
            if at >= 0:
                found.update(range(at, at + len(word)))
            elif scattered and (match := scattered.search(text.small, 0, text.label)):
                found.update(match.start(i) for i in range(1, len(word) + 1))
        return frozenset(found)


def _scattered(word: str) -> re.Pattern[str] | None:
    if not 2 <= len(word) <= MOST_SCATTERED:
        return None
    # Each letter is looked for up to its first appearance only, so that this takes linear time.
    return re.compile("".join(f"[^{re.escape(c)}]*+({re.escape(c)})" for c in word), re.DOTALL)


class Ranking:
    """Texts that are looked through again and again, as somebody types: what is known of a word is not looked up."""

    def __init__(self, texts: Sequence[SearchText]) -> None:
        self._count = len(texts)
        self._smalls, self._parted = [text.small for text in texts], [text.parted for text in texts]
        self._labels, self._ranks = [text.label for text in texts], [text.rank for text in texts]
        self._fits: dict[str, dict[int, int]] = {}  # by word: which texts it fits, and how well
        self._known: dict[str, list[int]] = {}  # by what was typed

    def ranked(self, typed: str) -> list[int]:
        """Return the indices of the texts that fit, best first."""
        if typed not in self._known:
            self._known[typed] = self._ranked(typed)
        return self._known[typed]

    def _ranked(self, typed: str) -> list[int]:
        query = Query.of(typed)
        if not query.words:
            return [*range(self._count)]
        first, *others = sorted((self._fit(*word) for word in query.words), key=len)
        fits = first
        for other in others:
            fits = {i: fit + other[i] for i, fit in fits.items() if i in other}
        by_fit: dict[int, list[int]] = {}
        for i, fit in fits.items():
            by_fit.setdefault(fit, []).append(i)
        found = []
        for fit in sorted(by_fit, reverse=True):
            found += sorted(sorted(by_fit[fit]), key=self._ranks.__getitem__)
        return found

    def _fit(self, word: str, begins: str, scattered: re.Pattern[str] | None) -> dict[int, int]:
        """Return which texts a word fits, and how well: as `Query.score`, for all of them at once, and so faster."""
        known = self._fits.get(word)
        if known is None:
            smalls, parted, labels = self._smalls, self._parted, self._labels
            search = scattered.search if scattered else _never
            # What its beginning does not fit, it does not fit either.
            shorter = next((one for end in range(len(word) - 1, 0, -1) if (one := self._fits.get(word[:end]))), None)
            known = self._fits[word] = {
                i: how for i in (range(self._count) if shorter is None else shorter)
                if (how := (BEGINS if begins in parted[i] else INSIDE) if word in smalls[i]
                    else SCATTERED if search(smalls[i], 0, labels[i]) else 0)
            }  # fmt: skip
        return known


def rank_texts(texts: Sequence[SearchText], typed: str) -> list[int]:
    """Return the indices of the texts that fit, best first."""
    return Ranking(texts).ranked(typed)


def _never(_text: str, _start: int, _end: int) -> None:
    return None
