"""The one family of errors.

    JakletError             anything that Jaklet says "no" to; exit status 1
    |- UsageError           the command line asks for something that cannot be (exit status 2)
    |- SentenceError        a chord, place or action does not parse; knows where in the text
    |- DeskError            the desk cannot be reached, or has gone away
    |  `- GoneError         it was there, and is not any more
    `- StoreError           a file could not be read or kept

Foreign errors (X, OS, YAML, SQLite) are turned into these where they arise, with the cause kept.
"""

TYPE_CHECKING = False
if TYPE_CHECKING:  # this is loaded by the quickest commands
    from collections.abc import Callable

    Remedy = str | Callable[[], str]


class JakletError(Exception):
    """Something went wrong that the user can act on: what happened, and a remedy.

    A remedy that takes long to find can be a function: readers try what may stand there; most faults are never told.
    """

    exit_status = 1

    def __init__(self, message: str, remedy: "Remedy" = "") -> None:
        super().__init__(message)
        self.message = message
        self._remedy = remedy

    @property
    def remedy(self) -> str:
        """What can be done about it; empty if nothing."""
        if not isinstance(self._remedy, str):
            self._remedy = self._remedy()
        return self._remedy


class UsageError(JakletError):
    """The command was given something it cannot take."""

    exit_status = 2


class SentenceError(JakletError):
    """A sentence does not parse. `start` and `end` are offsets into the sentence, `end` exclusive."""

    def __init__(
        self, message: str, start: int, end: int, remedy: "Remedy" = "", unknown: str = "", quote: str = ""
    ) -> None:
        super().__init__(message, remedy)
        self.quote = quote  # the one that is open, where a text has no end
        self.start = start
        self.end = max(end, start + 1)
        self.unknown = unknown  # the word that names nothing, when that is the whole fault

    def pointed_at(self, text: str, remedy: str = "") -> str:
        """Return a remedy, this one's by default, and below the sentence with a mark under what is at fault."""
        from jaklet.core.values.words import printable  # of faults alone

        pointer = " " * self.start + "^" * (self.end - self.start)
        return f"{remedy or self.remedy}\n  {printable(text)}\n  {pointer}"

    def moved(self, by: int) -> "SentenceError":
        """Return the same fault of a longer text, in which this one begins there."""
        return SentenceError(self.message, self.start + by, self.end + by, self._remedy, self.unknown, self.quote)


class DeskError(JakletError):
    """The desk cannot be reached, or went away."""


class GoneError(DeskError):
    """The desk was there, and has gone away."""


class StoreError(JakletError):
    """A file could not be read, or what should be kept could not be kept."""
