"""What is used, as text, as data, and as a picture: presses by week, and a keyboard with the keys that are pressed."""

import csv
import io
from collections.abc import Mapping, Sequence
from typing import Any, Final

from jaklet.core.keys.keycaps import Keycap
from jaklet.core.values.use_counts import counted_as
from jaklet.core.values.words import counted, listed, printable
from jaklet.counters.use_report import UseReport
from jaklet.drawing.figure_files import new_figure, write_figures
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.plain import csv_cell
from jaklet.drawing.tables import table_text

COLUMNS: Final = ("keys", "action", "layer", "times", "last")
HEADS: Final = ("keys", "action", "times", "last")
MOST: Final = 20  # lines of the table, and names of keys that are never used
SIZE: Final = (12.8, 8.0)  # inches
HEAT: Final = ("#f2f6f6", "#0b5561")  # of the least and the most used key
INK, LINE = "#1a2329", "#9aa4a9"


def use_text(told: UseReport, days: int, columns: int | None, ink: Ink = PLAIN) -> str:
    """Return the most used keys, those that are never used, and the apps that are reached without one."""
    used = [one for one in told.used if one.times]
    rows = [(one.line.keys, one.line.action, str(one.times), one.last) for one in used[:MOST]]
    parts = [f"{counted(told.total, 'key')} pressed in {counted(days, 'day')}"]
    if rows:
        parts += ["", table_text(HEADS, rows, columns, ink).rstrip()]
    if len(used) > MOST:
        parts.append(ink(f"and {counted(len(used) - MOST, 'key')} more", "faint"))
    never = [one.line.keys for one in told.used if not one.times]
    if never:
        more = f" and {len(never) - MOST} more" if len(never) > MOST else ""
        parts += ["", ink(f"never: {', '.join(map(printable, never[:MOST]))}{more}", "faint")]
    for one in told.reached:
        if one.otherwise > one.by_key:
            keys = f"its keys: {listed(one.keys)}" if one.keys else f"it has none: bind `go {one.app}`"
            parts.append(
                f"{one.app} came to the front {counted(one.otherwise, 'time')} by no key, {one.by_key} by one; {keys}"
            )
    for what, times in told.put_right:
        saves = what.replace("recall", "save", 1)
        parts.append(f"after `{what}` windows were put right by hand {counted(times, 'time')}: `{saves}` keeps them so")
    parts += [f"{keys} was given up half way {counted(times, 'time')}" for keys, times in told.given_up]
    return "\n".join(parts)


def use_data(told: UseReport) -> dict[str, Any]:
    """Return the same as plain data."""
    return {
        "pressed": told.total,
        "keys": [
            {
                "keys": one.line.keys,
                "action": one.line.action,
                "layer": one.line.layer,
                "times": one.times,
                "last": one.last,
            }
            for one in told.used
        ],
        "apps": [
            {"app": one.app, "by_key": one.by_key, "otherwise": one.otherwise, "keys": list(one.keys)}
            for one in told.reached
        ],
        "put_right": [{"what": what, "times": times} for what, times in told.put_right],
        "given_up": [{"keys": keys, "times": times} for keys, times in told.given_up],
        "gone": [{"what": what, "times": times} for what, times in told.gone],
    }


def use_csv(told: UseReport) -> str:
    """Return the keys as CSV (RFC 4180)."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    rows = ((one.line.keys, one.line.action, one.line.layer, one.times, one.last) for one in told.used)
    writer.writerows(map(csv_cell, row) for row in rows)
    return out.getvalue()


def groups_csv(title: str, groups: Mapping[str, int]) -> str:
    """Return sums as CSV (RFC 4180)."""
    out = io.StringIO()
    csv.writer(out).writerows(map(csv_cell, row) for row in ((title, "times"), *groups.items()))
    return out.getvalue()


def groups_text(title: str, groups: Mapping[str, int], columns: int | None, ink: Ink = PLAIN) -> str:
    """Return sums as a table with bars."""
    most = max(groups.values(), default=1)
    rows = [(name, str(times), "█" * round(times / max(1, most) * 40)) for name, times in groups.items()]
    return table_text((title, "times", ""), rows, columns, ink)


def heat_of(caps: Sequence[Keycap], fired: Mapping[str, int]) -> dict[str, int]:
    """Return how often each drawn key was pressed. `fired`: by what a binding is counted as."""
    return {
        cap.name: sum(fired.get(counted_as(one.keys, one.layer, one.action.text), 0) for one in cap.bindings)
        for cap in caps
    }


def draw_use(
    weeks: Mapping[str, int], drawings: Sequence[tuple[str, Sequence[Keycap]]], fired: Mapping[str, int], out: str
) -> None:
    """Write the picture; raises `JakletError`."""
    figure = new_figure(*SIZE, "constrained")
    from matplotlib.colors import LinearSegmentedColormap
    from matplotlib.patches import Rectangle

    above, below = figure.subplots(2, 1, height_ratios=(1, 1.6))
    above.bar(range(len(weeks)), list(weeks.values()), color=HEAT[1])
    step = max(1, len(weeks) // 12)
    above.set_xticks(range(0, len(weeks), step), list(weeks)[::step], fontsize=8)
    above.set_title("keys pressed, by week", loc="left", fontsize=11, fontweight="bold")
    above.spines[["top", "right"]].set_visible(False)
    heat: dict[str, int] = {}
    for _, caps in drawings:
        for name, times in heat_of(caps, fired).items():
            heat[name] = heat.get(name, 0) + times
    shades = LinearSegmentedColormap.from_list("use", HEAT)
    most = max([*heat.values(), 1])
    boxes = {cap.name: cap for _, caps in drawings for cap in caps}
    for name, cap in boxes.items():
        box, times = cap.box, heat.get(name, 0)
        share = (times / most) ** 0.5
        below.add_patch(
            Rectangle(
                (box.x + 0.05, box.y + 0.05), box.width - 0.1, box.height - 0.1, facecolor=shades(share), edgecolor=LINE
            )
        )
        ink = "#ffffff" if share > 0.55 else INK
        below.text(
            box.x + 0.14,
            box.y + 0.36,
            printable(cap.label)[:6],
            fontsize=8,
            fontweight="bold",
            color=ink,
            parse_math=False,
        )
        if times:
            below.text(box.x + 0.14, box.y + 0.78, str(times), fontsize=7.5, color=ink)
    if boxes:
        places = [cap.box for cap in boxes.values()]
        below.set_xlim(min(box.x for box in places) - 0.2, max(box.x + box.width for box in places) + 0.2)
        below.set_ylim(max(box.y + box.height for box in places) + 0.2, min(box.y for box in places) - 0.2)
    below.set_aspect("equal")
    below.set_axis_off()
    below.set_title("how often each key was pressed, with all modifiers", loc="left", fontsize=11, fontweight="bold")
    write_figures([figure], out)
