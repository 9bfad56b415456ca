"""Layouts as text and as data."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Final, NamedTuple, TypeVar

from jaklet.core.actions.layouts.displays import (
    ADAPTED,
    FITS,
    arrangement_fit,
    best_arrangement,
    display_set,
    display_sizes,
)
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.layout_fields import (
    ARRANGEMENT_FIELDS,
    ENTRY_FIELDS,
    LAYOUT_FIELDS,
    VARIANTS,
    WINDOWS,
    LayoutField,
    state_of,
)
from jaklet.core.values.layouts import HOME, LAST, LAUNCH, Arrangement, Layout, LayoutEntry, SharedDisplay, names_of
from jaklet.core.values.words import counted, listed, printable, shortened
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.tables import table_text
from jaklet.drawing.times import time_text

T = TypeVar("T")
HEADS: Final = ("", "app", "title", "display", "place", "workspace", "state", "if not open", "then")
LIST_HEADS: Final = ("number", "name", "windows", "recall", "save", "fits", "used", "note")


def layout_text(layout: Layout, columns: int | None, ink: Ink = PLAIN) -> str:
    """Return a layout: its head in one line, what it says of the desk, and its windows from front to back."""
    number = "" if layout.number is None else f"number {layout.number} · "
    focus = "none" if layout.focus is None else names_of(layout.entries)[layout.focus]
    lines = [
        f"{ink(printable(layout.name), 'strong')} · {number}{counted(len(layout.entries), 'window')}"
        f" · focus: {printable(focus)}"
    ]
    if layout.note:
        lines.append(printable(layout.note))
    lines += [printable(line) for field in LAYOUT_FIELDS if field.rule and (line := field.rule(layout))]
    for one in layout.arrangements:
        lines += [f"stays arranged: {printable(_shared_told(its, one))}" for its in one.arranged]
        if one.displays:
            lines.append(ink(f"{'saved on' if one == layout.arrangement else 'and on'} {_displays(one)}", "faint"))
        if one.entries:
            rows = [_row(i, entry, one) for i, entry in enumerate(one.entries)]
            lines += ["", table_text(HEADS, rows, columns, ink)]
        lines += [""] if layout.variants and one is not layout.arrangements[-1] else []
    return "\n".join(lines)


def _displays(one: Arrangement) -> str:
    return printable(" · ".join(f"{name} {size}" for name, size in display_sizes(one.displays).items()))


def _shared_told(its: SharedDisplay, one: Arrangement) -> str:
    """Return in words how windows share a display: `columns on main: berths, radio`."""
    names = names_of(one.entries)
    shares = [f" {share}" for share in its.shares] or [""] * len(its.order)
    order = ", ".join(f"{names[i]}{share}" for i, share in zip(its.order, shares, strict=False))
    where = f", workspace {its.workspace}" if its.workspace != one.workspace else ""
    return f"{its}{where}: {order}"


def _row(i: int, entry: LayoutEntry, one: Arrangement) -> tuple[str, ...]:
    front = "focus" if i == one.focus else ""
    nth = f"no. {entry.nth} " if entry.nth else ""
    return (
        str(i + 1),
        entry.app or f"({entry.cls})",
        shortened(f"{nth}{entry.title or ''}".strip(), 32),
        entry.display or "",
        str(entry.place.form) if entry.place else "as it is",
        "all" if entry.workspace is None else str(entry.workspace),
        ", ".join(filter(None, (state_of(entry), front))),
        "" if entry.missing == LAUNCH else entry.missing,
        "; ".join(action.text for action in entry.after),
    )


class ListRow(NamedTuple):
    """A layout in the list: the keys to it, how it goes with the displays that are there, and when it was used.

    `fits`: empty where no desk was looked at; `used`: seconds since the epoch, None for never.
    """

    layout: Layout
    recall: str
    save: str
    fits: str
    used: float | None

    def data(self) -> dict[str, Any]:
        """Return the values of a row beside the layout's own, as plain data."""
        keys = {"key": self.recall or None, "save": self.save or None}
        return keys | {"fits": self.fits or None, "used": None if self.used is None else round(self.used)}


def listing(layouts: Sequence[Layout], config: Config, desk: Desk | None, used: Mapping[str, float]) -> list[ListRow]:
    """Return the layouts with all that the list says of them."""
    recalls, saves = _keys(config, "recall", "LAYOUT"), _keys(config, "save", "NAME")
    rows = []
    for layout in layouts:
        words = (layout.name, str(layout.number), *((HOME,) if layout.home else ()))
        key = next((recalls[word].written for word in words if word in recalls), "")
        save = next((saves[word].written for word in words if word in saves), "")
        rows.append(ListRow(layout, key, save, _fits(layout, desk, config) if desk else "", used.get(layout.name)))
    return rows


def _keys(config: Config, verb: str, kind: str) -> dict[str, Binding]:
    """Return by name or number the first binding that recalls or saves a layout."""
    found: dict[str, Binding] = {}
    for binding in config.live:
        ref = binding.action.named(kind) if binding.action.verb == verb else None
        if ref:
            found.setdefault(ref.name, binding)
    return found


def _fits(layout: Layout, desk: Desk, config: Config) -> str:
    there = display_set(desk, config)
    one = best_arrangement(layout, there)
    how = arrangement_fit(one, there)
    missing = [name for name in one.displays if name not in there]
    return f"no {listed(missing)}" if how == ADAPTED and missing else FITS[how]


def layouts_text(rows: Sequence[ListRow], config: Config, columns: int | None, ink: Ink = PLAIN) -> str:
    """Return the table of all layouts, and the keys that have none."""
    cells = []
    for layout, recall, save, fits, used in rows:
        more = f" +{len(layout.variants)}" if layout.variants else ""
        cells.append(
            (
                "" if layout.number is None else str(layout.number),
                f"{layout.name} (home)" if layout.home else layout.name,
                f"{len(layout.entries)}{more}",
                recall or "no key",
                save,
                fits,
                time_text(used),
                layout.note,
            )
        )
    lines = [table_text(LIST_HEADS, cells, columns, ink)]
    known = {LAST, *(row.layout.name for row in rows), *(str(row.layout.number) for row in rows)}
    known |= {HOME for row in rows if row.layout.home}
    idle = [binding for word, binding in _keys(config, "recall", "LAYOUT").items() if word not in known]
    if idle:
        lines.append(ink(f"keys without a layout: {printable(_gathered(idle))}", "faint"))
    return "\n".join(lines)


def _gathered(idle: Sequence[Binding]) -> str:
    """Return keys with what they recall; of many the first ones."""
    told = [f"{binding.written} ({binding.action})" for binding in idle]
    return listed(told) if len(told) <= 3 else f"{told[0]}, {told[1]} and {len(told) - 2} more"


def layout_data(layout: Layout) -> dict[str, Any]:
    """Return a layout as plain data; windows from front to back, `focus` an index into them."""
    return {
        **_data(LAYOUT_FIELDS, layout),
        **_arrangement_data(layout.arrangement),
        VARIANTS: [_arrangement_data(one) for one in layout.variants],
    }


def _data(fields: Sequence[LayoutField[T]], one: T) -> dict[str, Any]:
    return {field.name: field.value(one) for field in fields if field.attribute or field.of}


def _arrangement_data(one: Arrangement) -> dict[str, Any]:
    return {**_data(ARRANGEMENT_FIELDS, one), WINDOWS: entries_data(one.entries)}


def entries_data(entries: Iterable[LayoutEntry]) -> list[dict[str, Any]]:
    """Return entries as plain data."""
    return [_data(ENTRY_FIELDS, entry) for entry in entries]
