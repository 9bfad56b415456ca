"""The rules about chords that are somebody else's."""

from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Final

from jaklet.checks.case import Case
from jaklet.config.reader import documents, read_source
from jaklet.config.reading import Bound, Reading
from jaklet.config.reserved import read_reserved
from jaklet.core.keys.reserved import EVERYWHERE, Reserved
from jaklet.core.values.findings import Finding, finding

FOLDER: Final = Path(__file__).parent / "reserved"


@cache
def shipped() -> tuple[Reserved, ...]:
    """Return what the tables that ship with Jaklet reserve. They have the format of the section `reserved`."""
    reading = Reading(programs=None)  # type: ignore[arg-type]  # no table launches anything
    for path in sorted(FOLDER.glob("*.yaml")):
        source = read_source(path, path.name, reading.found)
        for root in documents(source, reading.found, reading.broken) if source else ():
            for _, value in root.pairs():
                read_reserved(value, reading)
    assert not reading.found, reading.found
    return tuple(reading.reserved)


def owned(case: Case) -> Iterator[Finding]:
    """JK211 and JK212: chords of the system, of kinds of programs, and of the user's own programs."""
    lost: dict[tuple[str, int], tuple[Bound, list[Reserved]]] = {}
    for reserved in case.reserved:
        for bound in case.first_chords.get(reserved.keys[0], ()):
            if reserved.lost_to(bound.scope) and bound.keys[: len(reserved.keys)] == reserved.keys[: len(bound.keys)]:
                code = "JK211" if reserved.where == EVERYWHERE and not reserved.app else "JK212"
                lost.setdefault((code, id(bound)), (bound, []))[1].append(reserved)
    for (code, _), (bound, owners) in lost.items():
        does = "; ".join(f"{one.told} ({one.owner})" for one in owners)
        yield finding(code, bound.spot, (), chord=str(bound.keys[0]), does=does)._replace(cures=case.cures(bound, 0))
