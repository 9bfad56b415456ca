"""The one family of errors.

    JakletError             anything that Jaklet says "no" to; exit status 1
    |- UsageError           the command line asks for something that cannot be (exit status 2)
    |- SentenceError        a chord, place or action does not parse; knows where in the text
    |- DeskError            the desk cannot be reached, or has gone away
    `- StoreError           a file could not be read or kept

Foreign errors (X, OS, YAML, SQLite) are turned into these where they arise, with the cause kept.
"""


class JakletError(Exception):
    """Something went wrong that the user can act on: what happened, and a remedy."""

    exit_status = 1

    def __init__(self, message: str, remedy: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.remedy = remedy


class UsageError(JakletError):
    """The command was given something it cannot take."""

    exit_status = 2


class SentenceError(JakletError):
    """A sentence does not parse. `start` and `end` are offsets into the sentence, `end` exclusive."""

    def __init__(
        self, message: str, start: int, end: int, remedy: str = "", unknown: str = "", quote: str = ""
    ) -> None:
        super().__init__(message, remedy)
        self.quote = quote  # the one that is open, where a text has no end
        self.start = start
        self.end = max(end, start + 1)
        self.unknown = unknown  # the word that names nothing, when that is the whole fault


class DeskError(JakletError):
    """The desk cannot be reached, or went away."""


class StoreError(JakletError):
    """A file could not be read, or what should be kept could not be kept."""
