"""Finding by a few letters: which candidates fit what was typed, in which order, and what of them is marked.

What is typed is split into words, which may stand in any order. Each has to be found in the candidate, the better the
sooner: at the beginning of a word, inside of one, or with its letters scattered in their order over the
name. Of equally good ones what is used comes first, then the one with the shorter name, then the one that stood first.
"""

import re
from collections.abc import Iterable, Sequence
from typing import Final, NamedTuple

SCATTERED, INSIDE, BEGINS = 1, 2, 3
WORST: Final = 1 << 12  # above every score: a terminal's line has fewer words
MOST_SCATTERED: Final = 12  # letters; nobody types more of them and means them scattered


class Text(NamedTuple):
    """A candidate's text, made ready: in small letters, and the same with a blank for all that parts words.

    `label`: how many of its characters are its name, and no detail. `rank`: of equally good ones the least comes first;
    the length of the name, but for what is used.
    """

    small: str
    parted: str
    label: int
    rank: int


def ready(text: str, label: int | None = None, rank: int | None = None) -> Text:
    """Return a text made ready; every character keeps its position."""
    small = text.lower()
    if len(small) != len(text):  # a few capitals become two letters
        small = "".join(low if len(low := c.lower()) == 1 else c for c in text)
    label = len(small) if label is None else label
    return Text(small, " " + re.sub(r"[^\w]", " ", small), label, label if rank is None else rank)


class Query(NamedTuple):
    """What was typed: its words, each as it begins a word, and with the pattern of its letters scattered."""

    words: tuple[tuple[str, str, re.Pattern[str] | None], ...]

    @classmethod
    def of(cls, typed: str) -> "Query":
        """Return what was typed, made ready."""
        return cls(tuple((word, " " + word, _scattered(word)) for word in dict.fromkeys(typed.lower().split())))

    def score(self, text: Text) -> int:
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

    def marks(self, text: Text) -> frozenset[int]:
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


def ranked(texts: Sequence[Text], typed: str, among: Iterable[int] | None = None) -> list[int]:
    """Return the indices of the texts that fit, best first. `among`: those to look at, all where None."""
    query = Query.of(typed)
    indices = range(len(texts)) if among is None else among
    if not query.words:
        return sorted(indices)
    score = query.score
    # One whole number each sorts several times as fast as a tuple: score, rank, index.
    keys = [((WORST - fit) << 48) + (texts[i].rank << 24) + i for i in indices if (fit := score(texts[i]))]
    keys.sort()
    return [key & 0xFFFFFF for key in keys]
