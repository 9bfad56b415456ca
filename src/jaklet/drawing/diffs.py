"""What differs between layouts, or between a desk and a layout: in words, drawn, and as data."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Final

from jaklet.core.actions.change_words import change_told, window_name
from jaklet.core.actions.layouts.comparing import Difference, Drift, HeadDifference, how_it_moves
from jaklet.core.actions.layouts.imagining import imagine_desk, saved_displays
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display
from jaklet.core.values.layout_fields import ENTRY_FIELDS, state_of
from jaklet.core.values.layouts import LAUNCH, SKIP, Layout, LayoutEntry, OtherWindows, names_of
from jaklet.core.values.words import counted, listed, printable
from jaklet.drawing.desks import ScreenLabel, draw_desk
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.layout_tables import entries_data

APPEARS, GOES, CHANGES, STAYS = "+", "-", "~", " "
ROLES: Final = {APPEARS: "good", GOES: "error", CHANGES: "warning"}


def difference_text(
    difference: Difference, names: tuple[str, str], config: Config, columns: int, ink: Ink = PLAIN,
    present: Sequence[Display] = (),
) -> str:  # fmt: skip
    """Return the differences from one layout to another, in words and drawn; `present`: the displays that are there."""
    one, other = names
    if not difference:
        return f"{printable(one)} and {printable(other)} are the same"
    heads = [head for head in difference.heads if head.name != "name"]
    lines = [f"from {printable(one)} to {printable(other)}:", *_lines(difference, heads, config, ink)]
    drawing = _drawn(difference, config, columns, ink, present)
    return "\n".join([*lines, *drawing])


def drift_text(drift: Drift, desk: Desk, config: Config, columns: int, ink: Ink = PLAIN) -> str:
    """Return the differences between a layout and the desk, and the changes that a recall would make."""
    layout, difference = drift.plan.layout, drift.difference
    total, standing = len(layout.entries), len(layout.entries) - len(difference.changed) - len(difference.appear)
    lines = [f"{standing} of {counted(total, 'window')} of {printable(layout.name)} as saved"]
    heads = [head for head in difference.heads if head.name in ("workspace", "displays")]
    lines += _lines(difference, heads, config, ink)
    left = [printable(window_name(window, desk, config)) for window in drift.plan.left_over(desk)]
    if left:
        lines.append(f"  not in it: {listed(left)}")
    changes = [printable(change_told(change, desk, config)) for change in drift.changes]
    changes += _launches(difference.appear, config)
    lines.append("a recall would:" if changes else "a recall would change nothing")
    lines += [f"  {line}" for line in changes]
    return "\n".join(lines + (_drawn(difference, config, columns, ink, desk.displays) if difference else []))


def _launches(entries: Iterable[LayoutEntry], config: Config) -> list[str]:
    lines = []
    for entry in entries:
        app = config.apps.get(entry.app or "")
        if entry.missing == LAUNCH and app and app.command:
            lines.append(f"launch {printable(entry.label)}")
        elif entry.missing != SKIP:
            lines.append(f"{'wait for' if entry.missing != LAUNCH else 'miss'} {printable(entry.label)}")
    return lines


def _lines(difference: Difference, heads: Iterable[HeadDifference], config: Config, ink: Ink) -> list[str]:
    """Return the lines of a difference: first the whole, then window by window."""
    earlier, later = difference.earlier, difference.later
    lines = [f"  {head.name.replace('_', ' ')}: {_told(head.was)} -> {_told(head.now)}" for head in heads]
    for entry in difference.appear:
        lines.append(ink(f"  {APPEARS} {printable(entry.label)} appears: {_where(entry)}", ROLES[APPEARS]))
    for i in difference.gone:
        lines.append(ink(f"  {GOES} {printable(names_of(earlier.entries)[i])} goes", ROLES[GOES]))
    for was, now in difference.changed:
        told = "; ".join(_changes(was, now, earlier, later, config))
        lines.append(ink(f"  {CHANGES} {printable(now.label)} {told}", ROLES[CHANGES]))
    if difference.restacked:
        lines.append(f"  {CHANGES} order from the front: {printable(', '.join(names_of(later.entries)))}")
    if difference.refocused:
        lines.append(f"  {CHANGES} focus: {_focus(earlier)} -> {_focus(later)}")
    return lines


def _told(value: Any) -> str:
    if isinstance(value, Mapping):
        return printable(", ".join(f"{name} {size}" for name, size in value.items())) or "any"
    if isinstance(value, (tuple, frozenset)) and not isinstance(value, OtherWindows):
        return printable(", ".join(sorted(value))) or "none"
    return "none" if value in (None, "") else printable(str(value))


def _focus(layout: Layout) -> str:
    return "none" if layout.focus is None else printable(names_of(layout.entries)[layout.focus])


def _where(entry: LayoutEntry) -> str:
    return printable(", ".join(filter(None, (str(entry.place or ""), state_of(entry)))))


def _changes(was: LayoutEntry, now: LayoutEntry, earlier: Layout, later: Layout, config: Config) -> Iterable[str]:
    """Yield in words what changes of a window."""
    if was.place != now.place:
        how = how_it_moves(was, now, earlier, later, config)
        yield f"{how}: {was.place or 'as it is'} -> {now.place or 'as it is'}"
    for field in ENTRY_FIELDS:
        before, after = field.told(was), field.told(now)
        if field.change and before != after:
            yield field.change.format(key=field.key, was=printable(before), now=printable(after))


def _drawn(
    difference: Difference, config: Config, columns: int, ink: Ink, present: Sequence[Display] = ()
) -> list[str]:
    """Return the later layout, its windows marked, and faintly where others were."""
    earlier, later = difference.earlier, difference.later
    displays = saved_displays(later, config, present)
    after = imagine_desk(later._replace(variants=()), displays, config)
    before = imagine_desk(earlier._replace(variants=()), displays, config)
    if not after.windows and not before.windows:
        return []
    signs = {}
    for j, row in enumerate(difference.rows):
        same = row.was is not None and earlier.entries[row.was] == row.entry
        signs[j + 1] = APPEARS if row.was is None else STAYS if same else CHANGES
    names = {
        window.id: f"{signs[window.id]} {printable(later.entries[window.id - 1].label)}".strip()
        for window in after.windows
    }
    left = {i: earlier.entries[i].label for i in difference.gone}
    marks = [ScreenLabel(w.frame, f"{GOES} {printable(left[w.id - 1])}") for w in before.windows if w.id - 1 in left]
    key = f"{APPEARS} appears  {CHANGES} changes  {GOES} goes"
    return [draw_desk(after, config, columns, ink, marks, names), ink(key, "faint")]


def difference_data(difference: Difference, config: Config) -> dict[str, Any]:
    """Return a difference as plain data."""
    earlier, later = difference.earlier, difference.later
    return {
        "same": not difference,
        "heads": {head.name: {"was": _plain(head.was), "now": _plain(head.now)} for head in difference.heads},
        "appear": entries_data(difference.appear),
        "go": entries_data(earlier.entries[i] for i in difference.gone),
        "change": [
            {
                "was": entries_data([was])[0],
                "now": entries_data([now])[0],
                "how": how_it_moves(was, now, earlier, later, config) if was.place != now.place else None,
            }
            for was, now in difference.changed
        ],
        "restacked": difference.restacked,
        "focus": {"was": _focus(earlier), "now": _focus(later)},
    }


def _plain(value: Any) -> Any:
    if isinstance(value, Mapping):
        return dict(value)
    if isinstance(value, (tuple, frozenset)) and not isinstance(value, OtherWindows):
        return sorted(value)
    return value if isinstance(value, (str, int, bool, type(None))) else str(value)


def drift_data(drift: Drift, desk: Desk, config: Config) -> dict[str, Any]:
    """Return as plain data what of a layout is not so on a desk."""
    return difference_data(drift.difference, config) | {
        "changes": [change_told(change, desk, config) for change in drift.changes],
        "launch": [entry.label for entry in drift.difference.appear if entry.missing == LAUNCH],
        "left_over": [window.id for window in drift.plan.left_over(desk)],
        "unclear": list(drift.unclear),
    }
