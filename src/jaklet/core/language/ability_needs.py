"""What actions, events and bindings need of a desktop: it is held against its abilities before anything is done."""

from collections.abc import Iterable, Iterator
from contextlib import suppress
from functools import lru_cache
from itertools import chain
from typing import Final, NamedTuple

from jaklet.core.language.actions import parse_action
from jaklet.core.language.conditions import TESTS
from jaklet.core.language.event_kinds import EVENTS
from jaklet.core.language.steps import DoStep, RepeatStep, Step, WhenStep, steps_of
from jaklet.core.language.verbs import RUN, VERBS, Need, traits_of
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.desk_abilities import Abilities, Ability, is_lacking
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.event_bindings import EventBinding
from jaklet.core.values.sentences import Action, Condition, tests_of

# What a key does without: it is done once, where it would be done again and again.
CAN_BE_WITHOUT: Final = frozenset({Ability.REPEAT})
_OF_BINDINGS: Final = frozenset(
    {
        Ability.HEAR, Ability.SEE, Ability.PASS_ON, Ability.WHOLE_KEYBOARD, Ability.AT_ONCE, Ability.RELEASE,
        Ability.REPEAT, Ability.ROLE, Ability.HAND_OVER, Ability.HOLD,
    }
)  # fmt: skip
_OTHERS: Final = (*(test.needs for test in TESTS.values()), *(event.needs for event in EVENTS.values()))
# All that anything here can need: of a desk that can do it, no config has to be looked through.
NEEDED: Final[Abilities] = _OF_BINDINGS.union(
    (need.ability for verb in VERBS.values() for need in verb.traits.needs), filter(None, _OTHERS)
)


@lru_cache(256)
def _abilities_in(needs: tuple[Need, ...]) -> Abilities:
    return frozenset(need.ability for need in needs)


@lru_cache(16)
def lacking_of(abilities: Abilities) -> Abilities:
    """Return the abilities that anything here can need and a desktop lacks."""
    return frozenset(one for one in NEEDED if is_lacking(one, abilities))


def needs_of(action: Action) -> Iterator[Ability]:
    """Yield the needs of an action, without those of the apps and macros that it names."""
    words = None
    for need in traits_of(action).needs:
        if need.where and words is None:
            words = action.text.lower().split()
        if not need.where or need.where in (words or ()):
            yield need.ability
    for ref in action.refs:
        if ref.condition:
            yield from needs_of_condition(ref.condition)


def needs_of_condition(condition: Condition) -> Iterator[Ability]:
    """Yield the needs of a condition's answer."""
    for test in tests_of(condition):
        needed = TESTS[test.kind].needs
        if needed:
            yield needed


def needs_of_all(action: Action, config: Config) -> Iterator[Ability]:
    """Yield the needs of an action, of those that it names, and of the steps of the macro that it runs."""
    for one in action.every():
        yield from needs_of(one)
        macro = config.macros.get(one.refs[0].name) if one.verb == RUN else None
        if macro:
            with suppress(SentenceError):  # running it will say so
                steps = steps_of(macro, one.refs[0].arguments, parse_action)
                yield from (needed for _, needed in needs_in(steps))


def needs_in(steps: tuple[Step, ...]) -> Iterator[tuple[str, Ability]]:
    """Yield the needs of a macro's steps, each with the sentence that has the need."""
    for step in steps:
        match step:
            case DoStep(action):
                yield from ((str(one), needed) for one in action.every() for needed in needs_of(one))
                yield from needs_in(step.otherwise or ())
            case WhenStep(condition):
                yield from (("a condition", needed) for needed in needs_of_condition(condition))
                yield from needs_in((*step.then, *step.otherwise))
            case RepeatStep():
                yield from needs_in(step.steps)


def needs_of_event(on: EventBinding) -> Iterator[Ability]:
    """Yield the needs of an event: to be heard of it, and to know whether its scope is in front."""
    needed = EVENTS[on.kind].needs
    if needed:
        yield needed
    if on.scope.apps:
        yield Ability.SEE


def needs_of_keys(binding: Binding) -> Iterator[Ability]:
    """Yield the needs of a binding's keys, without those of its action."""
    yield Ability.HEAR
    if binding.scope.apps:
        yield from (Ability.SEE, Ability.PASS_ON)
    if binding.layer:
        yield from (Ability.WHOLE_KEYBOARD, Ability.AT_ONCE)
    elif len(binding.keys) > 1:
        yield Ability.AT_ONCE
    if binding.on_release:
        yield Ability.RELEASE
    if binding.repeat:
        yield Ability.REPEAT


def first_lacking(action: Action, abilities: Abilities) -> Ability | None:
    """Return the first ability that an action needs and a desktop lacks; None where the action can begin."""
    can_need = _abilities_in(traits_of(action).needs)
    if can_need.isdisjoint(lacking_of(abilities)) and not any(ref.condition for ref in action.refs):
        return None
    return next((one for one in needs_of(action) if is_lacking(one, abilities)), None)


def dead_keys(binding: Binding, abilities: Abilities) -> Ability | None:
    """Return why the keys of a binding cannot work on a desktop; None where they can."""
    needed = [one for one in needs_of_keys(binding) if one not in CAN_BE_WITHOUT]
    if traits_of(binding.action).by_key:  # it is about what keys mean
        needed += needs_of(binding.action)
    return next((one for one in needed if is_lacking(one, abilities)), None)


class MissingAbility(NamedTuple):
    """What a config needs and a desktop cannot do, and for what: the texts of keys, words and events."""

    ability: Ability
    needed_for: tuple[str, ...]


def missing_abilities(config: Config, abilities: Abilities) -> list[MissingAbility]:
    """Return the needs of a config that a desktop cannot meet."""
    if abilities >= NEEDED:
        return []
    found: dict[Ability, dict[str, None]] = {}

    def hold(text: str, needs: Iterable[Ability]) -> None:
        for one in needs:
            if is_lacking(one, abilities):
                found.setdefault(one, {})[text] = None

    for binding in config.live:
        hold(binding.written, chain(needs_of_keys(binding), needs_of_all(binding.action, config)))
    for name, word in config.words.items():
        hold(name, needs_of_all(word.action, config))
    for on in config.events:
        hold(on.text, chain(needs_of_event(on), needs_of_all(on.action, config)))
    for app in config.apps.values():
        for action in app.opens:
            hold(app.name, needs_of_all(action, config))
    return [MissingAbility(one, tuple(found[one])) for one in Ability if one in found]
