"""The steps of a macro, once their sentences are read and its parameters have values."""

from collections.abc import Callable, Iterator, Mapping
from functools import lru_cache
from typing import Final, NamedTuple

from jaklet.core.language.conditions import parse_condition
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.macros import DO, WHEN, Macro, WrittenStep
from jaklet.core.values.regexes import regex
from jaklet.core.values.sentences import Action, Condition
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import did_you_mean, listed

MOST_TIMES: Final = 1000
_MARK: Final = regex(r"<([^\W\d_][\w-]*)>")
_TIMES: Final = regex(r"\s*(\d{1,6})(?:\s+times?)?\s*")


class DoStep(NamedTuple):
    """Do an action; where it fails and something is to be done instead, that."""

    action: Action
    spot: Spot
    otherwise: "tuple[Step, ...] | None" = None


class WhenStep(NamedTuple):
    """Do one thing or another."""

    condition: Condition
    spot: Spot
    then: "tuple[Step, ...]"
    otherwise: "tuple[Step, ...]" = ()


class RepeatStep(NamedTuple):
    """Do steps several times."""

    times: int
    spot: Spot
    steps: "tuple[Step, ...]"


Step = DoStep | WhenStep | RepeatStep
Report = Callable[[WrittenStep, SentenceError], None]
Parse = Callable[[str], Action]


def values_of(macro: Macro, arguments: tuple[tuple[str, str], ...]) -> dict[str, str]:
    """Return the values of a macro's parameters; raises `SentenceError`, without a position, where one has none."""
    own = dict(macro.parameters)
    given = dict(arguments)
    for name in given:
        if name not in own:
            remedy = did_you_mean(name, own, f"it has {listed([*own])}" if own else "it takes nothing")
            raise SentenceError(f"macro {macro.name} has no parameter {name!r}", 0, 1, remedy)
    missing = [name for name, value in own.items() if value is None and name not in given]
    if missing:
        example = f"run {macro.name} with {', '.join(f'{name}=…' for name in missing)}"
        raise SentenceError(f"macro {macro.name} is not told {listed(missing)}", 0, 1, f"write it like: {example}")
    return {name: given.get(name, value or "") for name, value in own.items()}


def fill_parameters(text: str, values: Mapping[str, str]) -> str:
    """Return a text in which each `<parameter>` is its value; raises `SentenceError` for one that is unknown."""
    for mark in _MARK.finditer(text):
        if mark[1] not in values:
            remedy = did_you_mean(mark[1], values, f"name it under `with`: [{mark[1]}]")
            raise SentenceError(f"the macro has no parameter {mark[1]!r}", mark.start(), mark.end(), remedy)
    return _MARK.sub(lambda mark: values[mark[1]], text)


def read_steps(
    written: tuple[WrittenStep, ...], values: Mapping[str, str], parse: Parse, report: Report
) -> tuple[Step, ...]:
    """Return steps with their sentences read; one that does not parse is reported and left out.

    `parse`: reads an action.
    """
    steps: list[Step] = []
    for one in written:
        then = read_steps(one.then, values, parse, report)
        otherwise = None if one.otherwise is None else read_steps(one.otherwise, values, parse, report)
        try:
            text = fill_parameters(one.text, values)
            if one.kind == DO:
                steps.append(DoStep(parse(text), one.spot, otherwise))
            elif one.kind == WHEN:
                steps.append(WhenStep(parse_condition(text), one.spot, then, otherwise or ()))
            else:
                steps.append(RepeatStep(parse_times(text), one.spot, then))
        except SentenceError as fault:
            report(one, fault)
    return tuple(steps)


def parse_times(text: str) -> int:
    """times := NUMBER ["times"]"""
    found = _TIMES.fullmatch(text)
    if not found or not 1 <= int(found[1]) <= MOST_TIMES:
        raise SentenceError(f"how often? {text!r} is no number", 0, len(text), f"write 1 to {MOST_TIMES} times")
    return int(found[1])


@lru_cache(256)
def steps_of(macro: Macro, arguments: tuple[tuple[str, str], ...], parse: Parse) -> tuple[Step, ...]:
    """Return the steps of a macro with these arguments; raises `SentenceError`."""

    def refuse(_written: WrittenStep, fault: SentenceError) -> None:
        raise fault

    return read_steps(macro.steps, values_of(macro, arguments), parse, refuse)


def actions_in(steps: tuple[Step, ...]) -> Iterator[Action]:
    """Yield every action of some steps, as deep as it may stand."""
    for step in steps:
        match step:
            case DoStep():
                yield step.action
                yield from actions_in(step.otherwise or ())
            case WhenStep():
                yield from actions_in(step.then)
                yield from actions_in(step.otherwise)
            case RepeatStep():
                yield from actions_in(step.steps)
