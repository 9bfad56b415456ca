"""Families of bindings: `super+<n>: recall <n>` stands for nine.

`<n>` is a digit from 1 to 9; `<side>` is an arrow key in the chord, and its side in the action.
"""

import re
from collections.abc import Iterator, Mapping
from typing import Final

from jaklet.core.values.regexes import regex
from jaklet.core.values.spans import Spot
from jaklet.yaml_files.reader import Value

MEMBERS: Final[Mapping[str, tuple[str, ...]]] = {
    "<n>": tuple(str(n) for n in range(1, 10)),
    "<side>": ("left", "right", "up", "down"),
}
_MARK: Final = regex("|".join(map(re.escape, MEMBERS)))


def family_marks(text: str) -> list[str]:
    """Return the marks of families that a text has, each once."""
    return list(dict.fromkeys(_MARK.findall(text)))


class FamilyValue(Value):
    """A value in which a mark stands for one of its members; positions are those of the text as it is written."""

    __slots__ = ("_mark", "_member", "_plain")

    def __init__(self, value: Value, mark: str, member: str) -> None:
        super().__init__(value.source, value.node)
        self._mark, self._member = mark, member
        self._plain = self.text or ""
        self.text = self.text.replace(mark, member) if self.text is not None else None

    def part(self, start: int, end: int) -> Spot:
        """Return the spot of some characters of the filled text, in the text as it is written."""
        return Value(self.source, self.node).part(self._written(start, ends=False), self._written(end, ends=True))

    def _written(self, offset: int, ends: bool) -> int:
        """Return the offset in the written text; from within a member the mark's end, if something ends there."""
        at = written = 0
        for piece in self._plain.split(self._mark):
            if offset <= at + len(piece):
                break
            at += len(piece) + len(self._member)
            written += len(piece) + len(self._mark)
            if offset < at:
                return written if ends else written - len(self._mark)
        return written + max(0, offset - at)

    def pairs(self) -> list[tuple[Value, Value]]:
        """Return keys as they are, and values filled."""
        return [(key, FamilyValue(item, self._mark, self._member)) for key, item in super().pairs()]


def members(key: Value, item: Value) -> Iterator[tuple[Value, Value]]:
    """Yield each pair that a pair of a mapping stands for: itself, if its key has no mark."""
    found = family_marks(key.text or "")
    if not found:
        yield key, item
        return
    mark = found[0]
    for member in MEMBERS[mark]:
        yield FamilyValue(key, mark, member), FamilyValue(item, mark, member)
