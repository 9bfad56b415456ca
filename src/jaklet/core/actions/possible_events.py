"""What actions make happen, and whether an event of the config leads back to itself."""

from typing import Final, NamedTuple

from jaklet.core.actions.desk_events import DeskEvent, answers
from jaklet.core.language.steps import Parse, actions_in, steps_of
from jaklet.core.language.verbs import RUN, traits_of
from jaklet.core.values.config import Config
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.event_bindings import EventBinding
from jaklet.core.values.sentences import Action

DEEPEST: Final = 20  # macros within macros, when their effects are looked for


class PossibleEvent(NamedTuple):
    """What an action can make happen; a name of None stands for any."""

    kind: str
    name: str | None = None


def effects(action: Action, config: Config, parse: Parse, depth: int = 0) -> frozenset[PossibleEvent]:
    """Return the events that an action, and those in it, can bring about. `parse`: reads an action."""
    found: set[PossibleEvent] = set()
    for one in action.every():
        found |= {PossibleEvent(cause.event, _named(one, cause.of)) for cause in traits_of(one).causes}
        macro = config.macros.get(one.refs[0].name) if one.verb == RUN else None
        if macro and depth < DEEPEST:
            try:
                steps = steps_of(macro, one.refs[0].arguments, parse)
            except SentenceError:
                continue
            for inner in actions_in(steps):
                found |= effects(inner, config, parse, depth + 1)
    return frozenset(found)


def _named(action: Action, slot: str) -> str | None:
    """Return the names that an action can mean, None for any. A layout can be given by number, or as the last one."""
    ref = action.named(slot)
    by_name = ref is not None and (slot != "LAYOUT" or not (ref.name.isdigit() or ref.name in ("last", "home")))
    return ref.name if ref and by_name else None


def leads_to(made: frozenset[PossibleEvent], on: EventBinding, config: Config) -> bool:
    """Return whether what an action makes happen is what an entry waits for."""
    return any(answers(on, DeskEvent(one.kind, one.name or ""), config) or _any(one, on) for one in made)


def _any(effect: PossibleEvent, on: EventBinding) -> bool:
    return effect.name is None and effect.kind == on.kind


def circle_of(start: EventBinding, config: Config, parse: Parse) -> tuple[EventBinding, ...]:
    """Return the shortest way on which an entry leads back to itself; empty if there is none."""
    made = {on: effects(on.action, config, parse) for on in config.events}
    ways: list[tuple[EventBinding, ...]] = [(start,)]
    seen = {start}
    while ways:
        way = ways.pop(0)
        for on in config.events:
            if not leads_to(made[way[-1]], on, config):
                continue
            if on == start:
                return way
            if on not in seen:
                seen.add(on)
                ways.append((*way, on))
    return ()
