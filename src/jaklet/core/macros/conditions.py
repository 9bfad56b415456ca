"""Conditions: what can be asked of a desk, as sentences.

    condition := both {"or" both}
    both := one {"and" one}
    one := ["not"] test

A test is one entry in `TESTS`.
"""

import operator
from collections.abc import Callable, Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.config import Config
from jaklet.core.cursor import Cursor
from jaklet.core.desk import Desk, Shape, Window
from jaklet.core.errors import SentenceError
from jaklet.core.grammar import first_fit, most_telling, written
from jaklet.core.placing.windows import goal_frame
from jaklet.core.sentences import Condition, Joined, Ref, Test
from jaklet.core.slots import PLAIN_SLOTS
from jaklet.core.words import either

MOST_NESTED: Final = 20  # `not` before `not`


def _empty() -> str:
    return ""


class Facts(NamedTuple):
    """What a condition is asked of. `layer`, `layout`: the one that is on, or stands; empty for none."""

    desk: Desk
    config: Config
    layer: Callable[[], str] = _empty
    layout: Callable[[], str] = _empty
    launching: frozenset[str] = frozenset()


class Kind(NamedTuple):
    """One test: its grammar, as that of a verb, where `[not]` turns it round; whether it holds; help and example."""

    grammar: str
    holds: Callable[[tuple[Ref, ...], Facts], bool]
    help: str
    example: str


def _windows(app: str, facts: Facts) -> Sequence[Window]:
    return facts.config.claims.windows_of(app, facts.desk)


def _front(refs: tuple[Ref, ...], facts: Facts) -> bool:
    return facts.config.front_app(facts.desk) == refs[0].name


def _running(refs: tuple[Ref, ...], facts: Facts) -> bool:
    return refs[0].name in facts.launching or bool(_windows(refs[0].name, facts))


def _exists(refs: tuple[Ref, ...], facts: Facts) -> bool:
    return bool(_windows(refs[0].name, facts))


def _there(refs: tuple[Ref, ...], facts: Facts) -> bool:
    return facts.config.display(refs[0].name, facts.desk) is not None


def _layout(refs: tuple[Ref, ...], facts: Facts) -> bool:
    return facts.layout() == ("" if refs[0].kind == "NONE" else refs[0].name)


def _layer(refs: tuple[Ref, ...], facts: Facts) -> bool:
    return facts.layer() == ("" if refs[0].kind == "NONE" else refs[0].name)


def _workspace(refs: tuple[Ref, ...], facts: Facts) -> bool:
    return facts.desk.workspace == int(refs[0].name)


def _number_of_windows(refs: tuple[Ref, ...], facts: Facts) -> bool:
    app = next((ref.name for ref in refs if ref.kind == "APP"), None)
    return _compare(refs[-1], len(facts.desk.windows if app is None else _windows(app, facts)))


def _number_of_displays(refs: tuple[Ref, ...], facts: Facts) -> bool:
    return _compare(refs[0], len(facts.desk.displays))


def _compare(ref: Ref, number: int) -> bool:
    return COMPARISONS[ref.name](number, ref.amount)


def _at(refs: tuple[Ref, ...], facts: Facts) -> bool:
    """True if a window of the app stands at the place, in view."""
    place = refs[1].place
    assert place is not None
    for window in _windows(refs[0].name, facts):
        if window.minimised:
            continue
        for one in place.alternatives:
            frame = goal_frame(window, one, facts.config, facts.desk)
            if frame is not None and facts.desk.frame_of(window) == frame:
                return True
    return False


def _in_state(state: Callable[[Window], bool]) -> Callable[[tuple[Ref, ...], Facts], bool]:
    return lambda refs, facts: any(state(window) for window in _windows(refs[0].name, facts))


COMPARISONS: Final[Mapping[str, Callable[[float, float], bool]]] = {
    ">": operator.gt,
    "<": operator.lt,
    ">=": operator.ge,
    "<=": operator.le,
    "=": operator.eq,
}
# A new test is one entry here. The more words of its own a grammar has, the earlier it stands.
TESTS: Final[Mapping[str, Kind]] = {
    "front": Kind("front is [not] APP", _front, "the app of the window in front", "front is ledger"),
    "layout": Kind("layout is [not] NONE|STANDING", _layout, "the layout that stands", "layout is departures"),
    "layer": Kind("layer is [not] NONE|LAYER", _layer, "the layer that is on", "layer is arrange"),
    "workspace": Kind("workspace is [not] N", _workspace, "the workspace that is shown", "workspace is 2"),
    "display": Kind("display DISPLAY is [not] there", _there, "a display that is connected", "display quay is there"),
    "exists": Kind("window of APP exists", _exists, "an app with a window", "window of berths exists"),
    "windows": Kind("windows [of APP] COMPARED", _number_of_windows, "how many windows", "windows of charts > 1"),
    "displays": Kind("displays COMPARED", _number_of_displays, "how many displays", "displays = 2"),
    "running": Kind("APP is [not] running", _running, "open, or being launched", "radio is running"),
    "minimised": Kind(
        "APP is [not] minimised", _in_state(lambda window: window.minimised), "out of view", "radio is minimised"
    ),
    "maximised": Kind(
        "APP is [not] maximised", _in_state(lambda one: one.shape is Shape.MAXIMISED), "filling", "charts is maximised"
    ),
    "at": Kind("APP at PLACE", _at, "a window stands there", "radio at right 1/3 on main"),
    "app": Kind("APP", _exists, "the same as: window of APP exists", "berths"),
}


def read_condition(cursor: Cursor) -> Condition:
    """condition := both {"or" both}; raises `SentenceError`"""
    return _joined(cursor, "or", lambda: _joined(cursor, "and", lambda: _one(cursor)))


def _joined(cursor: Cursor, joint: str, read: Callable[[], Condition]) -> Condition:
    parts = [read()]
    while cursor.keyword(joint):
        parts.append(read())
    return parts[0] if len(parts) == 1 else Joined(joint == "and", tuple(parts))


def _one(cursor: Cursor) -> Condition:
    negated = False
    for _ in range(MOST_NESTED):
        if not cursor.keyword("not"):
            break
        negated = not negated
    if cursor.done:
        raise cursor.fault("a condition is missing here", f"write one such as {TESTS['front'].example}")
    at, faults = cursor.at, list[SentenceError]()
    for kind, test in TESTS.items():
        found = first_fit(test.grammar, cursor, PLAIN_SLOTS, faults, f"write it like: {usage(test)}", ENDS)
        if found:
            form, refs = found
            text = " ".join(cursor.text[at : cursor.at].split())
            return Test(kind, refs, negated != ("not" in form), text)
    worst = most_telling(faults)
    if worst.remedy:
        raise worst
    text = cursor.text[at:].strip()
    raise SentenceError(f"{text!r} is no condition", at, at + len(text), f"conditions are {either(USAGES)}")


def usage(test: Kind) -> str:
    """Return how a test is written."""
    return " or ".join(written(form) for form in test.grammar.split(";"))


ENDS: Final = frozenset({"and", "or", "up"})
USAGES: Final = tuple(usage(test) for test in TESTS.values())


def parse_condition(text: str) -> Condition:
    """Return the condition of a whole sentence; raises `SentenceError`."""
    cursor = Cursor(text)
    condition = read_condition(cursor)
    if not cursor.done:
        raise cursor.fault(f"{cursor.peek()!r} is too much here", "join conditions with `and` or `or`")
    return condition


def holds(condition: Condition, facts: Facts) -> bool:
    """Return whether a condition is so."""
    if isinstance(condition, Joined):
        each = (holds(part, facts) for part in condition.parts)
        return all(each) if condition.every else any(each)
    return TESTS[condition.kind].holds(condition.refs, facts) != condition.negated
