"""Whether a condition holds on a desk. Each test of `core.language.conditions.TESTS` has its answer in `HOLDS`."""

import operator
from collections.abc import Callable, Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.actions.placing.window_stands import stand_of
from jaklet.core.actions.tasks import none_arranged
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window, WindowShape
from jaklet.core.values.sentences import Condition, JoinedConditions, Ref
from jaklet.core.values.sharings import ArrangedSpot, Sharing

Holds = Callable[[tuple[Ref, ...], "ConditionFacts"], bool]


def _empty() -> str:
    return ""


class ConditionFacts(NamedTuple):
    """What a condition is asked of. `layer`, `layout`: the one that is on, or stands; empty for none.

    `arranged`: the spots that stay arranged and stand so, with their forms.
    """

    desk: Desk
    config: Config
    layer: Callable[[], str] = _empty
    layout: Callable[[], str] = _empty
    launching: frozenset[str] = frozenset()
    arranged: Callable[[Desk], Mapping[ArrangedSpot, Sharing]] = none_arranged


def _windows(app: str, facts: ConditionFacts) -> Sequence[Window]:
    return facts.config.claims.windows_of(app, facts.desk)


def _front(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    return facts.config.front_app(facts.desk) == refs[0].name


def _running(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    return refs[0].name in facts.launching or bool(_windows(refs[0].name, facts))


def _exists(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    return bool(_windows(refs[0].name, facts))


def _there(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    return facts.config.display(refs[0].name, facts.desk) is not None


def _layout(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    return facts.layout() == ("" if refs[0].kind == "NONE" else refs[0].name)


def _layer(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    return facts.layer() == ("" if refs[0].kind == "NONE" else refs[0].name)


def _workspace(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    return facts.desk.workspace == facts.config.workspace_of(refs[0])


def _arranged(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    """True if a workspace stands arranged on any display; as a form, in that one."""
    number, asked = facts.config.workspace_of(refs[0]), refs[1].sharing if len(refs) > 1 else None
    return any(spot.workspace == number and asked in (None, form) for spot, form in facts.arranged(facts.desk).items())


def _on(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    number = facts.config.workspace_of(refs[1])
    return any(window.workspace in (None, number) for window in _windows(refs[0].name, facts))


def _number_of_windows(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    app = next((ref.name for ref in refs if ref.kind == "APP"), None)
    return _compare(refs[-1], len(facts.desk.windows if app is None else _windows(app, facts)))


def _number_of_displays(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    return _compare(refs[0], len(facts.desk.displays))


def _compare(ref: Ref, number: int) -> bool:
    return COMPARISONS[ref.name](number, ref.amount)


def _at(refs: tuple[Ref, ...], facts: ConditionFacts) -> bool:
    """True if a window of the app stands at the place, in view."""
    place = refs[1].place
    assert place is not None
    for window in _windows(refs[0].name, facts):
        if window.minimised:
            continue
        for one in place.alternatives:
            stand = stand_of(one, window, facts.desk, facts.config)
            if stand and facts.desk.frame_of(window) == stand.frame(window):
                return True
    return False


def _in_state(state: Callable[[Window], bool]) -> Callable[[tuple[Ref, ...], ConditionFacts], bool]:
    return lambda refs, facts: any(state(window) for window in _windows(refs[0].name, facts))


COMPARISONS: Final[Mapping[str, Callable[[float, float], bool]]] = {
    ">": operator.gt,
    "<": operator.lt,
    ">=": operator.ge,
    "<=": operator.le,
    "=": operator.eq,
}
HOLDS: Final[Mapping[str, Holds]] = {
    "front": _front,
    "layout": _layout,
    "layer": _layer,
    "arranged": _arranged,
    "workspace": _workspace,
    "on": _on,
    "display": _there,
    "exists": _exists,
    "windows": _number_of_windows,
    "displays": _number_of_displays,
    "running": _running,
    "minimised": _in_state(lambda window: window.minimised),
    "maximised": _in_state(lambda window: window.shape is WindowShape.MAXIMISED),
    "at": _at,
    "app": _exists,
}


def holds(condition: Condition, facts: ConditionFacts) -> bool:
    """Return whether a condition is so."""
    if isinstance(condition, JoinedConditions):
        each = (holds(part, facts) for part in condition.parts)
        return all(each) if condition.every else any(each)
    return HOLDS[condition.kind](condition.refs, facts) != condition.negated
