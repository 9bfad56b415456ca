"""Suggested keys, as text, as data, and the curve of effort against changed keys as a picture."""

from collections.abc import Sequence
from typing import Any, Final

from jaklet.core.values.words import counted, printable
from jaklet.drawing.figure_files import new_figure, write_figures
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.tables import table_text
from jaklet.suggesting.suggest import KeySuggestion, MovedBlock

HEADS: Final = ("key", "better", "what it does", "presses", "effort", "saves")
BAR: Final = 40
MOST: Final = 10  # points of the curve that are written
SIZE: Final = (9.0, 5.0)  # inches
INK, LINE, TAKEN = "#1a2329", "#0b5561", "#b3541e"


def suggestion_text(told: KeySuggestion, columns: int | None, ink: Ink = PLAIN) -> str:
    """Return the changes, their gain, the gain of fewer changes, and the keys that stay."""
    by = "nothing was counted yet: all keys alike"
    if told.counted:
        by = f"weighed by {counted(told.counted, 'press', 'presses')}"
    if not told.moves:
        parts = [f"the keys are good as they are: no change gains enough ({by})"]
    else:
        before, after = told.effort
        saved = sum(one.gain for one in told.moves)  # as the curve counts: what a key recalls is worth something too
        parts = [
            f"{counted(len(told.moves), 'change')} would save {_share(saved)} of the effort to press and remember; "
            f"a press takes {after:.2f} instead of {before:.2f} ({by})",
            "",
            table_text(HEADS, [_row(one) for one in told.moves], columns, ink),
        ]
        parts += ["", _curve_text(told, columns, ink)]
    if told.stay:
        reasons: dict[str, list[str]] = {}
        for block in told.stay:
            reasons.setdefault(block.stays, []).append(f"{block.written}{_in(block.layer)}")
        parts.append("")
        parts += [ink(f"not moved ({why}): {printable(', '.join(keys))}", "faint") for why, keys in reasons.items()]
    if not told.proven:
        parts.append("there may be something a little better: too much of it moves together to go through it all")
    return "\n".join(parts)


def _row(one: MovedBlock) -> tuple[str, ...]:
    before, after = one.effort
    return (
        f"{one.block.written}{_in(one.block.layer)}", one.written, one.block.does, f"{one.uses}",
        f"{before:.1f} → {after:.1f}", _share(one.gain) if one.gain > 0 else "makes room",
    )  # fmt: skip


def _in(layer: str) -> str:
    return f" ({layer})" if layer else ""


def _share(part: float) -> str:
    return f"{part * 100:.1f} %"


def _curve_text(told: KeySuggestion, columns: int | None, ink: Ink) -> str:
    most = 1 - told.points[-1][1] or 1.0
    rows = [(str(changes), _share(1 - left), "█" * round((1 - left) / most * BAR)) for changes, left in _shown(told)]
    return table_text(("changes", "save", ""), rows, columns, ink)


def _shown(told: KeySuggestion) -> list[tuple[int, float]]:
    """Return the first points of the curve, up to those that are suggested, and the last one."""
    most = max(len(told.moves), MOST)
    near = [one for one in told.points if one[0] <= most]
    last = told.points[-1:]
    return near if last and last[0] in near else [*near[: MOST + 1], *last]


def suggestion_data(told: KeySuggestion) -> dict[str, Any]:
    """Return the same as plain data."""
    return {
        "effort": {"before": round(told.effort[0], 4), "after": round(told.effort[1], 4)},
        "presses": told.counted,
        "proven": told.proven,
        "changes": [
            {
                "keys": one.block.written, "better": one.written, "layer": one.block.layer, "does": one.block.does,
                "presses": one.uses, "effort": [round(cost, 4) for cost in one.effort], "saves": round(one.gain, 6),
            }
            for one in told.moves
        ],
        "curve": [{"changes": changes, "left": round(left, 6)} for changes, left in told.points],
        "not_moved": [{"keys": block.written, "layer": block.layer, "why": block.stays} for block in told.stay],
    }  # fmt: skip


def draw_curve(told: KeySuggestion, out: str) -> None:
    """Write the curve as a picture; raises `JakletError`."""
    figure = new_figure(*SIZE, "constrained")
    axes = figure.subplots()
    xs, ys = [one[0] for one in told.points], [one[1] * 100 for one in told.points]
    axes.plot(xs, ys, color=LINE, marker="o", markersize=5, linewidth=1.6)
    taken = len(told.moves)
    near: Sequence[float] = [left for changes, left in zip(xs, ys, strict=True) if changes == taken]
    if taken and near:
        axes.plot([taken], near, marker="o", markersize=11, markerfacecolor="none", markeredgecolor=TAKEN)
        axes.annotate(
            "suggested", (taken, near[0]), (8, 10), textcoords="offset points", color=TAKEN, fontweight="bold"
        )
    axes.set_xlabel("keys changed", color=INK)
    axes.set_ylabel("effort left, % of today's", color=INK)
    axes.set_title("what fewer changes are worth", loc="left", fontsize=12, fontweight="bold", color=INK)
    axes.spines[["top", "right"]].set_visible(False)
    axes.grid(axis="y", color="#dfe4e6", linewidth=0.8)
    axes.set_axisbelow(True)
    write_figures([figure], out)
