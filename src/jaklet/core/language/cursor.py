"""A reading position in a sentence: what every grammar rule takes.

Rules either take what is theirs and move on, or raise `SentenceError` with the offsets of the word at fault.
"""

import re
from typing import Final

from jaklet.core.values.errors import SentenceError
from jaklet.core.values.regexes import regex
from jaklet.core.values.words import did_you_mean

_SPACE: Final = regex(r"\s*")
_WORD: Final = regex(r"[^\s,]+|,")
NAME: Final = regex(r"[^\W_][\w.-]*")


MISSING: Final = "is missing here"


class MissingError(SentenceError):
    """Another word stands where one of a few has to. Most are of forms that were not meant, and nobody is told of them.

    So whether it is a slip of one of them is looked into last: that takes longer than all the reading.
    """

    def __init__(self, shown: str, start: int, end: int, stands: str, words: tuple[str, ...], likeness: float) -> None:
        super().__init__(f"{shown} {MISSING}", start, end)
        self._stands, self._words, self._likeness = stands, words, likeness

    def looked_into(self) -> SentenceError:
        """Return the same, or the slip that it is, with its remedy."""
        near = did_you_mean(self._stands, self._words, "", self._likeness)
        return SentenceError(f"{self._stands!r} means nothing here", self.start, self.end, near) if near else self


class Cursor:
    """A sentence and how far it has been read."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.at = 0
        self.depth = 0  # of actions within actions
        self.named: list[tuple[str, str, int, int]] = []  # kind, name, start and end of what has been named so far
        self._skip()

    def _skip(self) -> None:
        found = _SPACE.match(self.text, self.at)
        self.at = found.end() if found else self.at

    @property
    def done(self) -> bool:
        """True when nothing but space is left."""
        return self.at >= len(self.text)

    def peek(self) -> str:
        """Return the next word in lower case without taking it; empty at the end."""
        found = _WORD.match(self.text, self.at)
        return found.group().lower() if found else ""

    def sees(self, pattern: re.Pattern[str]) -> bool:
        """Return whether the pattern matches here."""
        return pattern.match(self.text, self.at) is not None

    def take(self, pattern: re.Pattern[str]) -> re.Match[str] | None:
        """Take what the pattern matches here, and the space after it; None if it does not match."""
        found = pattern.match(self.text, self.at)
        if found:
            self.at = found.end()
            self._skip()
        return found

    def word(self) -> tuple[str, int, int]:
        """Take the next word: its text in lower case, start and end."""
        start = self.at
        found = self.take(_WORD)
        return (found.group().lower(), start, found.end()) if found else ("", start, start)

    def rest(self) -> tuple[str, int, int]:
        """Take all that is left, trimmed, inner space folded."""
        start, text = self.at, self.text[self.at :].rstrip()
        self.at = len(self.text)
        return " ".join(text.split()), start, start + len(text)

    def keyword(self, *words: str) -> bool:
        """Take the next word if it is one of these."""
        if self.peek() in words:
            self.word()
            return True
        return False

    def fault(self, message: str, remedy: str = "") -> SentenceError:
        """Return an error at the next word, or just behind the sentence where it ends too soon."""
        return SentenceError(message, *self._next(), remedy)

    def missing(self, shown: str, words: tuple[str, ...], likeness: float) -> MissingError:
        """Return the same for where one of these words has to stand. `shown`: what they are called."""
        return MissingError(shown, *self._next(), self.peek(), words, likeness)

    def _next(self) -> tuple[int, int]:
        found = _WORD.match(self.text, self.at)
        if found:
            return found.span()
        end = len(self.text.rstrip())
        return end, end + 1
