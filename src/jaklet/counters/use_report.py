"""What can be told from counts: which keys are used, which are not, and which apps are reached without one."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from typing import NamedTuple

from jaklet.core.keys.sheet import SheetLine
from jaklet.core.values.config import Config
from jaklet.core.values.use_counts import FIRED, GIVEN_UP, PUT_RIGHT, REACHED, Count, counted_as


class LineUse(NamedTuple):
    """A line of the sheet: how often its keys have fired, and on which day the last time; empty for never."""

    line: SheetLine
    times: int
    last: str


class AppUse(NamedTuple):
    """An app: how often its keys have fired, and how often it came to the front otherwise. `keys`: those to it."""

    app: str
    by_key: int
    otherwise: int
    keys: tuple[str, ...]


class UseReport(NamedTuple):
    """All that is told. `gone`: what has fired and is bound no more, each with how often.

    `given_up`: sequences; `put_right`: recalls after which windows were moved by hand.
    """

    used: tuple[LineUse, ...]
    reached: tuple[AppUse, ...]
    gone: tuple[tuple[str, int], ...]
    given_up: tuple[tuple[str, int], ...]
    put_right: tuple[tuple[str, int], ...]
    total: int


def use_report(counts: Sequence[Count], lines: Iterable[SheetLine], config: Config) -> UseReport:
    """Return the report on the use of a config's keys; the most used first."""
    fired = sum_counts(counts, FIRED)
    last = {one.what: one.day for one in sorted(counts) if one.kind == FIRED}
    others = sum_counts(counts, REACHED)
    used, seen = [], set[str]()
    by_key: dict[str, int] = {}
    keys_to: dict[str, list[str]] = {}
    for line in lines:
        names = [counted_as(keys, line.layer, its.text) for keys, its in zip(line.chords, line.actions, strict=False)]
        if line.dead or not names:
            continue
        seen.update(names)
        times = sum(fired.get(name, 0) for name in names)
        used.append(LineUse(line, times, max((last.get(name, "") for name in names), default="")))
        for app in {name.name for action in line.actions for name in action.names() if name.kind == "app"}:
            by_key[app] = by_key.get(app, 0) + times
            keys_to.setdefault(app, []).append(line.keys)
    apps = [app for app in config.apps if others.get(app) or by_key.get(app)]
    reached = [AppUse(app, by_key.get(app, 0), others.get(app, 0), tuple(keys_to.get(app, ()))) for app in apps]
    gone = [(name, times) for name, times in fired.items() if name not in seen]
    return UseReport(
        tuple(sorted(used, key=lambda one: -one.times)),
        tuple(sorted(reached, key=lambda one: (one.by_key - one.otherwise, one.app))),
        tuple(sorted(gone, key=lambda one: -one[1])),
        _most_first(sum_counts(counts, GIVEN_UP)),
        _most_first(sum_counts(counts, PUT_RIGHT)),
        sum(fired.values()),
    )


def _most_first(sums: Mapping[str, int]) -> tuple[tuple[str, int], ...]:
    return tuple(sorted(sums.items(), key=lambda one: -one[1]))


def sum_counts(counts: Iterable[Count], kind: str) -> dict[str, int]:
    """Return how often each thing of a kind was counted."""
    found: dict[str, int] = {}
    for one in counts:
        if one.kind == kind:
            found[one.what] = found.get(one.what, 0) + one.times
    return found


def by_week(counts: Iterable[Count]) -> dict[str, int]:
    """Return how often keys have fired in each week (ISO 8601: 2026-W48), without weeks in which none has."""
    found: dict[str, int] = {}
    for one in counts:
        if one.kind == FIRED:
            year, week, _ = date.fromisoformat(one.day).isocalendar()
            name = f"{year}-W{week:02}"
            found[name] = found.get(name, 0) + one.times
    return found
