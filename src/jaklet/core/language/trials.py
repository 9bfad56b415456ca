"""Trials: from this desk, press these, expect that.

An expectation is a condition (`core.language.conditions`), or one of those of `OUTCOMES`, about all that happened.
"""

from collections.abc import Mapping
from typing import Final, NamedTuple

from jaklet.core.language.conditions import parse_condition
from jaklet.core.language.cursor import Cursor
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.sentences import Condition
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import either

CHANGED, LOST, FAILED = "nothing changed", "nothing lost", "nothing failed"
OUTCOMES: Final[Mapping[str, str]] = {
    CHANGED: "the desk is as it was before",
    LOST: "every window that was there is there still, and a pointer reaches it",
    FAILED: "every action came to a good end",
}


class Expectation(NamedTuple):
    """What is expected: a condition, or one of `OUTCOMES`; and where it is written."""

    text: str
    spot: Spot
    condition: Condition | None = None


class Trial(NamedTuple):
    """What is pressed, on which desk and displays, and what is expected then.

    `start`: a tabletop file, beside the file that the trial is in; empty for one that is made from the config.
    `displays`: the sets of displays to try it on, as names of the settings or as they are written.
    """

    name: str
    spot: Spot
    press: tuple[str, ...]
    expect: tuple[Expectation, ...]
    start: str = ""
    displays: tuple[str, ...] = ()
    note: str = ""


def parse_expectation(text: str) -> Condition | None:
    """expectation := condition | one of `OUTCOMES`, for which None is returned; raises `SentenceError`."""
    plain = " ".join(text.lower().split())
    if plain in OUTCOMES:
        return None
    if plain.startswith("nothing"):
        cursor = Cursor(text)
        cursor.word()
        raise cursor.fault(f"{plain!r} cannot be expected", f"write {either([*OUTCOMES])}")
    try:
        return parse_condition(text)
    except SentenceError as fault:
        if not fault.remedy.startswith("conditions are"):
            raise
        remedy = f"{fault.remedy}; or {either([*OUTCOMES])}"
        raise SentenceError(fault.message, fault.start, fault.end, remedy, fault.unknown) from fault
