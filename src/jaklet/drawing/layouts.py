"""Layouts as text and as data."""

from collections.abc import Sequence
from typing import Any, Final

from jaklet.core.config import Config
from jaklet.core.layouts import Entry, Layout
from jaklet.core.words import counted, printable, shortened
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.tables import table_text

HEADS: Final = ("", "app", "title", "display", "place", "workspace", "state")


def layout_text(layout: Layout, columns: int | None, ink: Ink = PLAIN) -> str:
    """Return a layout: its head in one line, its note, and its windows from front to back."""
    number = "" if layout.number is None else f"number {layout.number} · "
    focus = "none" if layout.focus is None else layout.entries[layout.focus].label
    saved_on = " · ".join(f"{name} {size.split('+')[0]}" for name, size in layout.displays.items())
    lines = [
        f"{ink(layout.name, 'strong')} · {number}{counted(len(layout.entries), 'window')} · focus: {printable(focus)}"
    ]
    if layout.note:
        lines.append(printable(layout.note))
    if saved_on:
        lines.append(ink(f"saved on {printable(saved_on)}", "faint"))
    if layout.entries:
        rows = [_row(i, entry, layout) for i, entry in enumerate(layout.entries)]
        lines += ["", table_text(HEADS, rows, columns, ink)]
    return "\n".join(lines)


def _row(i: int, entry: Entry, layout: Layout) -> tuple[str, ...]:
    front = "focus" if i == layout.focus else ""
    return (
        str(i + 1),
        entry.app or f"({entry.cls})",
        shortened(entry.title or "", 32),
        entry.place.display or "",
        str(entry.place.form),
        "all" if entry.workspace is None else str(entry.workspace),
        ", ".join(filter(None, (_state(entry), front))),
    )


def _state(entry: Entry) -> str:
    shape = "" if entry.shape == "normal" else entry.shape.value
    return ", ".join(filter(None, (shape, "minimised" if entry.minimised else "")))


def layouts_text(layouts: Sequence[Layout], keys: dict[str, str], columns: int | None, ink: Ink = PLAIN) -> str:
    """Return the table of all layouts. `keys`: name to the chord that recalls it."""
    rows = [
        (
            "" if layout.number is None else str(layout.number),
            layout.name,
            keys.get(layout.name, "no key"),
            str(len(layout.entries)),
            layout.note,
        )
        for layout in layouts
    ]
    return table_text(("number", "name", "key", "windows", "note"), rows, columns, ink)


def layout_keys(layouts: Sequence[Layout], config: Config) -> dict[str, str]:
    """Return the chord that recalls each layout, by name or by number."""
    keys: dict[str, str] = {}
    for binding in config.live:
        ref = binding.action.named("LAYOUT")
        for layout in layouts if ref else ():
            if ref and ref.name in (layout.name, str(layout.number)):
                keys.setdefault(layout.name, binding.written)
    return keys


def layout_data(layout: Layout) -> dict[str, Any]:
    """Return a layout as plain data; windows from front to back, `focus` an index into them."""
    return {
        "layout": layout.name,
        "number": layout.number,
        "note": layout.note,
        "workspace": layout.workspace,
        "focus": layout.focus,
        "displays": dict(layout.displays),
        "windows": [
            {
                "app": entry.app,
                "class": entry.cls,
                "title": entry.title,
                "display": entry.place.display,
                "place": str(entry.place.form),
                "workspace": entry.workspace,
                "state": entry.shape.value,
                "minimised": entry.minimised,
            }
            for entry in layout.entries
        ],
    }
