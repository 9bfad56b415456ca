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

    def part(self, start: int, end: int) -> "Spot":
        """Return the stretch from offset `start` to `end` (exclusive) within this one."""
        return self._replace(column=self.column + start, end=self.column + max(end, start + 1))
