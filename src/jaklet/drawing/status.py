"""How a listener does, as text. Small: `jaklet status` is asked by scripts and bars all day."""

import time

from jaklet.core.keys.listener_status import STATUS
from jaklet.core.keys.refused import some_of
from jaklet.core.values.words import counted, cut_to_cells, printable
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.times import time_text

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping
    from typing import Any

ONCE = ("not reloaded",)  # labels that stand before the first of several lines
SHOWN = 8  # last actions
MOST_CHANGES = 12  # of a config that is not in use yet
MOST_LISTED = 3  # bindings that the same keeps from working, each on a line of its own


def status_text(told: "Mapping[str, Any]", lines: "Iterable[str]", columns: int, ink: Ink = PLAIN) -> str:
    """Return the status of a listener as text. `lines`: the parts of its config that are not in use yet."""
    state = ink("paused", "warning") if told.get("paused") else ink("listening", "good")
    found = [f"{state} on {told.get('desk')} since {time_text(told.get('since'))} (process {told.get('pid')})"]
    rows = [
        (field.label if i == 0 or field.label not in ONCE else "", line)
        for field in STATUS.values()
        for i, line in enumerate(field.lines(told) if field.lines else ())
    ]
    for label, text in rows:
        plain = printable(str(text))
        lines_of = _wrapped(plain, columns - 15) if label == "refused" else [cut_to_cells(plain, columns - 15)]
        found += [f"  {label if i == 0 else '':<12} {line}" for i, line in enumerate(lines_of)]
    found += [f"  {printable(line)}" for line in lines]
    actions = told.get("actions", [])[-SHOWN:]
    return "\n".join([*found, *(["last actions"] if actions else []), *(_action_told(one, ink) for one in actions)])


def _wrapped(text: str, columns: int) -> list[str]:
    from textwrap import wrap  # where something is refused: a status is asked for all day

    return wrap(text, max(20, columns))


def _action_told(one: "Mapping[str, Any]", ink: Ink) -> str:
    clock = time.strftime("%H:%M:%S", time.localtime(one["at"]))
    mark = "" if one["done"] else ink("failed: ", "error")
    head = cut_to_cells(printable(f"{one['keys'] or '-':<16} {one['action']}"), 46)
    took = f"{one['seconds'] * 1000:.0f} ms" if one["seconds"] < 10 else f"{one['seconds']:.0f} s"
    return f"  {clock} {took:>8}  {head:<46}  {mark}{cut_to_cells(printable(one['line']), 60)}"


def pending_lines(
    pid: int, added: "Iterable[str]", gone: "Iterable[str]", refused: "Iterable[str]", current: bool = True
) -> list[str]:
    """Return the changes of a usable config that a listener does not use yet, in words.

    `current`: its files are as they were when the listener read them.
    """
    who, lines = f"the listener (process {pid})", []
    new, old, kept = list(added), list(gone), list(refused)
    if new or old:
        lines = [f"{who} does not go by {counted(len(new) + len(old), 'change')} yet: run `jaklet reload`"]
        changes = [f"  new: {text}" for text in new] + [f"  gone: {text}" for text in old]
        more = len(changes) - MOST_CHANGES
        lines += [*changes[:MOST_CHANGES], f"  and {more} more"] if more > 1 else changes
    elif current:
        lines = [f"{who} goes by all of this"]
    else:
        lines = [f"{who} has not read its files since they changed, though no binding has: run `jaklet reload`"]
    if kept:
        needs = "needs" if len(kept) == 1 else "need"
        lines.append(f"{counted(len(kept), 'binding')} {needs} more than a reload:")
        lines += [f"  {text}" for text in _by_reason(kept)]
    return lines


def _by_reason(texts: "Iterable[str]") -> "Iterator[str]":
    """Yield bindings with what keeps them from working; many that the same keeps from it are one line."""
    found: dict[str, list[str]] = {}
    for text in texts:
        found.setdefault(text.rpartition(": ")[2], []).append(text)
    for reason, those in found.items():
        if len(those) <= MOST_LISTED:
            yield from those
        else:
            yield f"{some_of(list(dict.fromkeys(text.partition(' ')[0] for text in those)))}: {reason}"
