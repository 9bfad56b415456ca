"""Finding by a few letters: which candidates fit what was typed, in which order, and what of them is marked.

What is typed is split into words, which may stand in any order. Each has to be found in the candidate, the better the
sooner: at the beginning of a word, inside of one, or with its letters scattered in their order over the
name. Of equally good ones what is used comes first, then the one with the shorter name, then the one that stood first.
"""

import re
from collections.abc import Iterable, Mapping, Sequence
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


class _WordFits(NamedTuple):
    """The texts that a word fits, by index: how well, and where the last of its letters is if they are scattered."""

    how: dict[int, int]
    ends: dict[int, int]


class _Line(NamedTuple):
    """A line at one moment of its typing: what its words fit, what all of them fit, how well, and in which order."""

    words: Mapping[str, _WordFits]
    how: Mapping[int, int]
    ranked: list[int]


class Ranking:
    """Texts that are looked through again and again, as somebody types: each line goes on from the one before it.

    What is typed on finds no more. So a new word, and one that has got longer, is looked for in what the line before
    it has found alone, and scattered letters from where the last one of them was.
    """

    def __init__(self, texts: Sequence[SearchText]) -> None:
        # The texts are held in the order in which equally good ones are found.
        self._order = sorted(range(len(texts)), key=lambda i: texts[i].rank)
        self._smalls = [texts[i].small for i in self._order]
        self._parted = [texts[i].parted for i in self._order]
        self._labels = [texts[i].label for i in self._order]
        self._lines = {"": _Line({}, dict.fromkeys(range(len(texts)), 0), [*range(len(texts))])}

    def ranked(self, typed: str) -> list[int]:
        """Return the indices of the texts that fit, best first."""
        if typed not in self._lines:
            words = list(dict.fromkeys(typed.lower().split()))
            self._lines[typed] = self._narrowed(self._former(typed, words), words)
        return self._lines[typed].ranked

    def _former(self, typed: str, words: Sequence[str]) -> _Line:
        """Return the longest known line that a typed text goes on from."""
        for end in range(len(typed) - 1, 0, -1):
            line = self._lines.get(typed[:end])
            # A letter can change the small form of the one before it, as a sigma at the end of a word.
            if line and all(any(word.startswith(one) for word in words) for one in line.words):
                return line
        return self._lines[""]

    def _narrowed(self, former: _Line, words: Sequence[str]) -> _Line:
        """Return the line of these words, of what the former one has found."""
        if not words:
            return former
        found, how = {word: former.words[word] for word in words if word in former.words}, former.how
        for word in sorted({*words} - {*found}, key=len, reverse=True):
            fits = found[word] = self._fits(word, how, former.words.get(word[:-1]))
            how = {i: how[i] + fit for i, fit in fits.how.items()}
        for gone in former.words.keys() - found.keys():
            fits = former.words[gone]
            how = {i: fit - fits.how[i] for i, fit in how.items()}
        # In the order of the texts, as each was narrowed from all of them.
        order, ways = self._order, sorted({*how.values()}, reverse=True)
        return _Line(found, how, [order[i] for way in ways for i, fit in how.items() if fit == way])

    def _fits(self, word: str, those: Iterable[int], shorter: _WordFits | None) -> _WordFits:
        """Return which of those texts a word fits, as `Query.score`. `shorter`: the word without its last letter."""
        smalls, parted, labels, begins = self._smalls, self._parted, self._labels, " " + word
        if not 2 <= len(word) <= MOST_SCATTERED:
            fits = {i: BEGINS if begins in parted[i] else INSIDE for i in those if word in smalls[i]}
            return _WordFits(fits, {})
        how: dict[int, int] = {}
        ends: dict[int, int] = {}
        known, last, first = shorter.ends if shorter else {}, word[-1], word[0]
        is_pair = len(word) == 2
        for i in those:
            small = smalls[i]
            if word in small:
                how[i] = BEGINS if begins in parted[i] else INSIDE
                continue
            end = known.get(i, -1)
            if end < 0:
                end = small.find(first, 0, labels[i]) if is_pair else _last_letter(word[:-1], small, labels[i])
            if end >= 0 and (end := small.find(last, end + 1, labels[i])) >= 0:
                how[i], ends[i] = SCATTERED, end
        return _WordFits(how, ends)


def rank_texts(texts: Sequence[SearchText], typed: str) -> list[int]:
    """Return the indices of the texts that fit, best first."""
    return Ranking(texts).ranked(typed)


def _last_letter(word: str, small: str, label: int) -> int:
    """Return where the last of a word's letters is, if they follow each other in a text's name; -1 if they do not."""
    at = -1
    for letter in word:
        at = small.find(letter, at + 1, label)
        if at < 0:
            return -1
    return at
