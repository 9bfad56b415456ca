"""Conditions: what can be asked of a desk, as sentences.

    condition := both {"or" both}
    both := one {"and" one}
    one := ["not"] test

A test is one entry in `TESTS`, and one in `core.actions.condition_answers.HOLDS` that answers it.
"""

from collections.abc import Callable, Mapping
from typing import Final, NamedTuple

from jaklet.core.language.cursor import Cursor
from jaklet.core.language.grammar import Slots, faults_of, first_fit, most_telling, written_form
from jaklet.core.language.sharings import read_sharing
from jaklet.core.language.slots import PLAIN_SLOTS
from jaklet.core.values.desk_abilities import Ability
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.sentences import Condition, ConditionTest, JoinedConditions
from jaklet.core.values.words import either

MOST_NESTED: Final = 20  # `not` before `not`


class ConditionKind(NamedTuple):
    """One test: its grammar, as that of a verb, where `[not]` turns it round; help and example.

    `needs`: what a desktop has to be able to do, so that it can be answered; None for nothing.
    """

    grammar: str
    needs: Ability | None
    help: str
    example: str


# A new test is one entry here. The more words of its own a grammar has, the earlier it stands.
TESTS: Final[Mapping[str, ConditionKind]] = {
    "front": ConditionKind("front is [not] APP", Ability.SEE, "the app of the window in front", "front is ledger"),
    "layout": ConditionKind("layout is [not] NONE|STANDING", None, "the layout that stands", "layout is departures"),
    "layer": ConditionKind("layer is [not] NONE|LAYER", None, "the layer that is on", "layer is arrange"),
    "arranged": ConditionKind(
        "workspace N is [not] arranged as FORM; workspace N is [not] arranged",
        Ability.WORKSPACES,
        "it stays arranged, and its windows have their shares",
        "workspace 2 is arranged as columns",
    ),
    "workspace": ConditionKind(
        "workspace is [not] N", Ability.WORKSPACES, "the workspace that is shown", "workspace is 2"
    ),
    "display": ConditionKind(
        "display DISPLAY is [not] there", None, "a display that is connected", "display quay is there"
    ),
    "on": ConditionKind(
        "APP is [not] on workspace N", Ability.WORKSPACES, "a window of it", "letters is on workspace 2"
    ),
    "exists": ConditionKind("window of APP exists", Ability.SEE, "an app with a window", "window of berths exists"),
    "windows": ConditionKind("windows [of APP] COMPARED", Ability.SEE, "how many windows", "windows of charts > 1"),
    "displays": ConditionKind("displays COMPARED", None, "how many displays", "displays = 2"),
    "running": ConditionKind("APP is [not] running", Ability.SEE, "open, or being launched", "radio is running"),
    "minimised": ConditionKind("APP is [not] minimised", Ability.SEE, "out of view", "radio is minimised"),
    "maximised": ConditionKind("APP is [not] maximised", Ability.SEE, "filling", "charts is maximised"),
    "at": ConditionKind("APP at PLACE", Ability.SEE, "a window stands there", "radio at right 1/3 on main"),
    "app": ConditionKind("APP", Ability.SEE, "the same as: window of APP exists", "berths"),
}


def read_condition(cursor: Cursor) -> Condition:
    """condition := both {"or" both}; raises `SentenceError`"""
    return _joined(cursor, "or", lambda: _joined(cursor, "and", lambda: _one(cursor)))


def _joined(cursor: Cursor, joint: str, read: Callable[[], Condition]) -> Condition:
    parts = [read()]
    while cursor.keyword(joint):
        parts.append(read())
    return parts[0] if len(parts) == 1 else JoinedConditions(joint == "and", tuple(parts))


def _one(cursor: Cursor) -> Condition:
    negated = False
    for _ in range(MOST_NESTED):
        if not cursor.keyword("not"):
            break
        negated = not negated
    if cursor.done:
        raise cursor.fault("a condition is missing here", f"write one such as {TESTS['front'].example}")
    at = cursor.at
    for kind, test in TESTS.items():
        found = first_fit(test.grammar, cursor, SLOTS, ENDS)
        if found:
            form, refs = found
            text = " ".join(cursor.text[at : cursor.at].split())
            return ConditionTest(kind, refs, negated != ("not" in form), text)
    worst = most_telling(
        fault
        for test in TESTS.values()
        for fault in faults_of(test.grammar, cursor, SLOTS, f"write it like: {condition_usage(test)}", ENDS)
    )
    if worst.remedy:
        raise worst
    text = cursor.text[at:].strip()
    raise SentenceError(f"{text!r} is no condition", at, at + len(text), f"conditions are {either(USAGES)}")


def condition_usage(test: ConditionKind) -> str:
    """Return how a test is written."""
    return " or ".join(written_form(form) for form in test.grammar.split(";"))


ENDS: Final = frozenset({"and", "or", "up"})
SLOTS: Final[Slots] = {**PLAIN_SLOTS, "FORM": lambda cursor: read_sharing(cursor, ENDS)}
USAGES: Final = tuple(condition_usage(test) for test in TESTS.values())


def parse_condition(text: str) -> Condition:
    """Return the condition of a whole sentence; raises `SentenceError`."""
    cursor = Cursor(text)
    condition = read_condition(cursor)
    if not cursor.done:
        raise cursor.fault(f"{cursor.peek()!r} is too much here", "join conditions with `and` or `or`")
    return condition
