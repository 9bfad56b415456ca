"""The versions of layouts as text and as data."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any, Final

from jaklet.core.actions.layouts.comparing import compare_layouts
from jaklet.core.values.layouts import Layout, PastVersion, names_of
from jaklet.core.values.words import counted, printable
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.layout_tables import layout_data
from jaklet.drawing.tables import table_text

HEADS: Final = ("version", "until", "windows", "from the version before", "note")


def history_text(name: str, past: Sequence[PastVersion], columns: int | None, ink: Ink = PLAIN) -> str:
    """Return the versions of a layout, the one in use first, and what each changed."""
    rows = []
    for i, one in enumerate(past):
        before = past[i + 1].layout if i + 1 < len(past) else None
        rows.append(
            (
                "in use" if one.number is None else f"{name}@{one.number}",
                _local(one.saved),
                str(len(one.layout.entries)) if one.layout else "",
                _told(before, one.layout) if i + 1 < len(past) else "",
                one.layout.note if one.layout else "",
            )
        )
    text = table_text(HEADS, rows, columns, ink)
    former = next((one.number for one in past if one.number is not None), None)
    if former is None:
        return f"{text}\n{ink('it was never saved over', 'faint')}"
    return f"{text}\n{ink(f'jaklet layout restore {printable(name)}@{former} puts one in use again', 'faint')}"


def _local(saved: str) -> str:
    return datetime.fromisoformat(saved).astimezone().strftime("%Y-%m-%d %H:%M") if saved else ""


def _told(before: Layout | None, after: Layout | None) -> str:
    """Return in a few words what changed from a version to the next."""
    if before is None or after is None:
        return "cannot be read"
    found = compare_layouts(before, after)
    names = names_of(before.entries)
    parts = [f"+{entry.label}" for entry in found.appear]
    parts += [f"-{names[i]}" for i in found.gone]
    parts += [f"~{now.label}" for _, now in found.changed]
    parts += [head.name.replace("_", " ") for head in found.heads]
    parts += ["order"] if found.restacked else []
    parts += ["focus"] if found.refocused else []
    if len(after.variants) != len(before.variants):
        parts.append(counted(len(after.variants) + 1, "arrangement"))
    return ", ".join(parts) or "only words or comments"


def history_data(past: Sequence[PastVersion]) -> list[dict[str, Any]]:
    """Return the versions as plain data, the one in use first."""
    return [
        {"version": one.number, "until": one.saved or None, "layout": layout_data(one.layout) if one.layout else None}
        for one in past
    ]


def histories_text(counts: Sequence[tuple[str, int, bool]], columns: int | None, ink: Ink = PLAIN) -> str:
    """Return all layouts with how many former versions there are; those that were removed are marked."""
    if not counts:
        return "no layouts yet; arrange the desk, then: jaklet layout save NAME"
    rows = [(name, str(count), "" if there else "removed") for name, count, there in counts]
    return table_text(("name", "former versions", ""), rows, columns, ink)
