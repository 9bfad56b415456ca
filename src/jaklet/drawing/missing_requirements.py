"""What a machine lacks, as text."""

from collections.abc import Sequence

from jaklet.core.values.findings import MissingRequirement
from jaklet.core.values.words import printable
from jaklet.drawing.ink import PLAIN, Ink


def lacks_text(found: Sequence[MissingRequirement], ink: Ink = PLAIN) -> str:
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
