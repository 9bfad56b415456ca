"""The rules about macros: circles, what is never reached, waits without end, typing into nowhere, an order in vain."""

from collections.abc import Iterator, Mapping
from typing import Final

from jaklet.checks.inputs import CheckInputs
from jaklet.core.actions.possible_events import circle_of
from jaklet.core.keys.keyboards import writes
from jaklet.core.language.actions import parse_action
from jaklet.core.language.steps import DoStep, RepeatStep, Step, WhenStep, actions_in
from jaklet.core.language.verbs import RUN, STOP, WAIT, FocusAfter, TypedInput, WindowNeed, traits_of
from jaklet.core.values.event_bindings import EventBinding
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.sentences import Action, Condition, ConditionTest, JoinedConditions, Ref
from jaklet.core.values.spans import Spot

ONE_AT_A_TIME: Final = frozenset({"front", "layout", "layer", "workspace"})  # tests of what has one value only
Known = dict[tuple[str, str], bool]  # what is known to be so or not, by test and what it names


def circles(case: CheckInputs) -> Iterator[Finding]:
    """JK602: macros that run themselves, by whatever way."""
    calls: dict[str, dict[str, None]] = {}
    for (name, _), steps in case.reading.instances.items():
        ran = (ref.name for action in actions_in(steps) for one in action.every() for ref in _macros(one))
        calls.setdefault(name, {}).update(dict.fromkeys(ran))
    told: set[str] = set()
    for name in calls:
        trail = _way_back(name, calls)
        if trail and not told & {*trail}:
            told |= {*trail}
            yield finding("JK602", case.reading.spots["macro", name], name=name, circle=" -> ".join((*trail, name)))


def _macros(action: Action) -> list[Ref]:
    return [ref for ref in action.refs if ref.kind == "MACRO" and action.verb == RUN]


def _way_back(start: str, calls: Mapping[str, Mapping[str, None]]) -> list[str]:
    """Return the shortest way from a macro to itself; empty if there is none."""
    ways, seen = [[start]], {start}
    while ways:
        way = ways.pop(0)
        for name in calls.get(way[-1], ()):
            if name == start:
                return way
            if name not in seen:
                seen.add(name)
                ways.append([*way, name])
    return []


def unreached(case: CheckInputs) -> Iterator[Finding]:
    """JK603: steps behind a `stop`, and branches whose condition is known to be so, or not."""
    for steps in case.reading.instances.values():
        yield from _unreached(steps, {})


def _unreached(steps: tuple[Step, ...], known: Known) -> Iterator[Finding]:
    for i, step in enumerate(steps):
        match step:
            case DoStep():
                known = {}  # an action may change anything
                yield from _unreached(step.otherwise or (), {})
                if step.action.verb == STOP and not step.action.refs and i + 1 < len(steps):
                    yield finding("JK603", steps[i + 1].spot, problem="the macro stops just before it")
                    return
            case RepeatStep():
                yield from _unreached(step.steps, {})
                known = {}
            case WhenStep():
                so = _judged(step.condition, known)
                if so is not None:
                    branch = step.otherwise if so else step.then
                    if branch:
                        problem = "the condition always holds here" if so else "the condition can never hold here"
                        yield finding("JK603", branch[0].spot, problem=problem)
                yield from _unreached(step.then, known | _learned(step.condition, True))
                yield from _unreached(step.otherwise, known | _learned(step.condition, False))
                known = {}


def _key(test: ConditionTest) -> tuple[str, str]:
    return test.kind, " ".join(ref.name for ref in test.refs)


def _judged(condition: Condition, known: Known) -> bool | None:
    """Return whether a condition is known to hold; None if it is not known."""
    if isinstance(condition, ConditionTest):
        return _judged_test(condition, known)
    parts = [_judged(part, known) for part in condition.parts]
    if condition.every:
        return False if False in parts or _contrary(condition) else True if all(parts) else None
    return True if True in parts else False if not any(part is None for part in parts) else None


def _judged_test(test: ConditionTest, known: Known) -> bool | None:
    key = _key(test)
    if key in known:
        return known[key] != test.negated
    others = (name for (kind, name), so in known.items() if so and kind == test.kind and kind in ONE_AT_A_TIME)
    return test.negated if next(others, None) is not None else None


def _contrary(condition: JoinedConditions) -> bool:
    """True if parts of an `and` exclude each other."""
    known: Known = {}
    for part in condition.parts:
        if _judged(part, known) is False:
            return True
        known |= _learned(part, True)
    return False


def _learned(condition: Condition, so: bool) -> Known:
    """Return the truth of each test that follows from a condition that holds, or does not."""
    if isinstance(condition, ConditionTest):
        return {_key(condition): so != condition.negated}
    if condition.every is not so:
        return {}
    return {key: known for part in condition.parts for key, known in _learned(part, so).items()}


def endless_waits(case: CheckInputs) -> Iterator[Finding]:
    """JK604: waits for something, without saying how long."""
    for steps in case.reading.instances.values():
        for step in _dos(steps):
            condition = step.action.named("CONDITION")
            if step.action.verb == WAIT and condition and step.action.seconds is None:
                yield finding("JK604", step.spot, condition=condition.name, action=step.action.text)


def _dos(steps: tuple[Step, ...]) -> Iterator[DoStep]:
    for step in steps:
        match step:
            case DoStep():
                yield step
                yield from _dos(step.otherwise or ())
            case WhenStep():
                yield from _dos(step.then)
                yield from _dos(step.otherwise)
            case RepeatStep():
                yield from _dos(step.steps)


def typing_anywhere(case: CheckInputs) -> Iterator[Finding]:
    """JK605: text that is typed where another window may have got the focus meanwhile."""
    evented = {ref.name for on in case.config.events for one in on.action.every() for ref in _macros(one)}
    for (name, _), steps in case.reading.instances.items():
        why = "an event can begin this macro at any time" if name in evented else ""
        yield from _typing(steps, why, case)[0]


def _typing(steps: tuple[Step, ...], why: str, case: CheckInputs) -> tuple[list[Finding], str]:
    """Return the findings, and why the focus is not known in the end; empty if it is."""
    found: list[Finding] = []
    for step in steps:
        match step:
            case DoStep():
                action = step.action
                if why and _types_anywhere(action):
                    is_text = traits_of(action).types is TypedInput.TEXT
                    cure = f"{action.text} into APP" if is_text else "when: front is APP"
                    found.append(finding("JK605", step.spot, action=action.text, problem=why, cure=cure))
                why = _focus_after(action, why, case)
                inner, _ = _typing(step.otherwise or (), why or f"`{action.text}` failed", case)
                found += inner
            case WhenStep():
                then, after = _typing(step.then, "" if _is_front(step.condition) else why, case)
                other, otherwise = _typing(step.otherwise, why, case)
                found += then + other
                why = after or otherwise if step.otherwise else after or why
            case RepeatStep():
                inner, why = _typing(step.steps, why, case)
                found += inner
    return found, why


def _types_anywhere(action: Action) -> bool:
    """True if an action types text into whichever window has the focus."""
    does = traits_of(action).types
    if does is TypedInput.TEXT:
        return action.named("APP") is None
    return does is TypedInput.CHORDS and any(writes(chord) for chord in action.presses)


def _is_front(condition: Condition) -> bool:
    """True if it holds only while a certain app is in front."""
    return any(kind == "front" and so for (kind, _), so in _learned(condition, True).items())


def _focus_after(action: Action, why: str, case: CheckInputs) -> str:
    """Return why the focus is not known after an action; empty if it is."""
    after, condition = traits_of(action).focus, action.named("CONDITION")
    if after is FocusAfter.GOES:
        return "" if action.named("APP") else f"after `{action.text}` any window can have it"
    if after is FocusAfter.BY_LAYOUT:
        laid = next((one for one in case.reading.laid if _names(action, one.layout.name, one.layout.number)), None)
        return "" if laid and laid.layout.focus is not None else f"`{action.text}` leaves it open"
    if action.verb == WAIT and condition and condition.condition:
        return "" if _is_front(condition.condition) else f"`{action.text}` takes time, in which a window may open"
    return f"`{action.text}` may give it to another window" if after is FocusAfter.MAY_GO else why


def _names(action: Action, name: str, number: int | None) -> bool:
    ref = action.named("LAYOUT")
    return ref is not None and ref.name in (name, str(number))


def in_vain(case: CheckInputs) -> Iterator[Finding]:
    """JK606: something is done with an app before the step that opens it."""
    for steps in case.reading.instances.values():
        yield from _in_vain(steps)


def _in_vain(steps: tuple[Step, ...]) -> Iterator[Finding]:
    needed: dict[str, tuple[Action, Spot]] = {}
    opened: set[str] = set()
    for step in steps:
        if not isinstance(step, DoStep):
            for block in (step.then, step.otherwise) if isinstance(step, WhenStep) else (step.steps,):
                yield from _in_vain(block)
            continue
        ref, opens = step.action.named("APP"), traits_of(step.action).opens
        if ref is None:
            if opens is WindowNeed.ANYTHING:
                return
            continue
        if opens is WindowNeed.ITS_APP:
            if ref.name in needed and ref.name not in opened:
                action, spot = needed[ref.name]
                problem = f"`{action.text}` stands before `{step.action.text}`, which opens it"
                yield finding("JK606", spot, problem=problem, remedy="let the two change places")
            opened.add(ref.name)
        elif opens is WindowNeed.NEEDS_IT and step.otherwise is None:
            needed.setdefault(ref.name, (step.action, step.spot))


def events_in_circles(case: CheckInputs) -> Iterator[Finding]:
    """JK608: events that lead back to themselves."""
    told: set[EventBinding] = set()
    for on in case.config.events:
        way = circle_of(on, case.config, parse_action)
        if way and not told & {*way}:
            told |= {*way}
            circle = " -> ".join([f"{one.text}: {one.action}" for one in way])
            yield finding("JK608", on.spot, event=on.text, circle=circle)


def idle(case: CheckInputs) -> Iterator[Finding]:
    """JK607: macros that nothing runs."""
    ran = {ref.name for action in case.actions for one in action.every() for ref in _macros(one)}
    for name in case.config.macros:
        spot = case.reading.spots.get(("macro", name))
        if name not in ran and spot:
            yield finding("JK607", spot, name=name)
