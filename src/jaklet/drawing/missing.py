"""What a machine lacks, as text."""

from collections.abc import Sequence
from typing import Protocol

from jaklet.core.words import printable
from jaklet.drawing.ink import PLAIN, Ink


class Lack(Protocol):
    """Something that is missing: what kind of thing, what of it, where it is named, and what to do."""

    @property
    def kind(self) -> str:
        """The kind of thing."""
        ...

    @property
    def what(self) -> str:
        """What of it is missing."""
        ...

    @property
    def where(self) -> str:
        """Where it is named, empty where nowhere."""
        ...

    @property
    def remedy(self) -> str:
        """What to do."""
        ...


def lacks_text(found: Sequence[Lack], ink: Ink = PLAIN) -> str:
    """Return all that is missing, kind by kind."""
    lines: list[str] = []
    kind = ""
    for one in found:
        if one.kind != kind:
            kind = one.kind
            lines.append(ink(kind, "strong"))
        where = f" ({one.where})" if one.where else ""
        lines.append(f"  {printable(one.what)}{ink(printable(where), 'faint')}")
        lines.append(f"    {ink('remedy:', 'good')} {printable(one.remedy)}")
    return "\n".join(lines)
