"""The rules about chords that are somebody else's."""

import json
from collections.abc import Iterator
from functools import cache
from pathlib import Path

from jaklet.checks.inputs import CheckInputs
from jaklet.config.reading import BoundKeys
from jaklet.core.keys.reserved import EVERYWHERE, ReservedChord
from jaklet.core.values.chords import Chord
from jaklet.core.values.findings import Finding, finding


@cache
def shipped_reservations() -> tuple[ReservedChord, ...]:
    """Return the chords that the shipped tables reserve.

    They are `reserved/*.yaml`, in the format of the section `reserved`. `make docs` makes one of them that is read at
    once; a test holds it against them.
    """
    rows = json.loads(Path(__file__).with_name("reserved.json").read_bytes())
    return tuple(ReservedChord(tuple(Chord(*chord) for chord in keys), *rest) for keys, *rest in rows)


def owned(case: CheckInputs) -> Iterator[Finding]:
    """JK211 and JK212: chords of the system, of kinds of programs, and of the user's own programs."""
    lost: dict[tuple[str, int], tuple[BoundKeys, list[ReservedChord]]] = {}
    for reserved in case.reserved:
        for bound in case.first_chords.get(reserved.keys[0], ()):
            if reserved.lost_to(bound.scope) and bound.keys[: len(reserved.keys)] == reserved.keys[: len(bound.keys)]:
                code = "JK211" if reserved.where == EVERYWHERE and not reserved.app else "JK212"
                lost.setdefault((code, id(bound)), (bound, []))[1].append(reserved)
    for (code, _), (bound, owners) in lost.items():
        does = "; ".join(f"{one.told} ({one.owner})" for one in owners)
        yield finding(code, bound.spot, (), chord=str(bound.keys[0]), does=does)._replace(cures=case.cures(bound, 0))
