"""Where in the user's files something stands."""

from typing import NamedTuple


class Spot(NamedTuple):
    """A stretch of one line. Line and columns count from 1; `end` is the column after the last character."""

    path: str
    line: int
    column: int
    end: int

    def __str__(self) -> str:
        return f"{self.path}:{self.line}:{self.column}"

    def within(self, other: "Spot") -> bool:
        """Return whether this stretch lies in another one."""
        return self[:2] == other[:2] and other.column <= self.column and self.end <= other.end

    def part(self, start: int, end: int) -> "Spot":
        """Return the stretch from offset `start` to `end` (exclusive) within this one."""
        return self._replace(column=self.column + start, end=self.column + max(end, start + 1))
