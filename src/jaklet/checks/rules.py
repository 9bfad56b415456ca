"""The rules that need the whole configuration. Each takes it and yields findings; a new one is one entry in `RULES`."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Set
from itertools import combinations, islice
from typing import Final

from jaklet.checks import (
    ability_rules,
    arrangement_rules,
    key_rules,
    layer_rules,
    layout_rules,
    macro_rules,
    owners,
    use_rules,
)
from jaklet.checks.inputs import CheckInputs
from jaklet.config.reading import Mention
from jaklet.core.language.place_grammar import unknown_place
from jaklet.core.language.verbs import is_harsh
from jaklet.core.values.apps import App, WindowRule
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.globs import is_pattern
from jaklet.core.values.layouts import HOME, LAST, no_such_layout
from jaklet.core.values.sentences import Action, Ref
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import alike, either

MOST_NAMED: Final = 12  # in a remedy
MOST_PAIRS: Final = 20_000  # rules of one shape that are compared


def unknown_names(case: CheckInputs) -> Iterator[Finding]:
    """JK302 to JK305 and JK310: apps, places, displays, layouts and layers that are named and not defined."""
    reading, there = case.reading, _layouts_there(case)
    known = reading.spots.keys() | {("layout", name) for name in there}
    mentions = [*reading.mentions, *_unknown(case, known)]
    # A family of keys for nine layouts is no mistake while there are fewer; one for none may be.
    families = {
        deed.value.spot for deed in reading.deeds if deed.family and _names_one_of(deed.action, there - {LAST, HOME})
    }
    told: set[Spot] = set()
    for mention in mentions:
        kind, name, spot, family = mention
        if (kind, name) in known or f"{kind}s" in reading.broken:
            continue  # a section that does not parse may well define it
        if kind == "layout":
            if family and (spot in told or any(spot.within(one) for one in families)):
                continue
            told.add(spot)
        yield _unknown_name(mention, case)


def _layouts_there(case: CheckInputs) -> set[str]:
    """Return the names that layouts have, or can come to have."""
    reading = case.reading
    there = {*reading.layouts, *(str(number) for number in reading.layouts.values() if number is not None), LAST}
    there |= {HOME for laid in reading.laid if laid.layout.home}
    # A layout that a key saves can come to be at any time, so that the key to recall it is no mistake.
    saving = (one.named("NAME") for action in case.actions for one in action.every())
    return there | {ref.name for ref in saving if ref}


def _unknown_name(mention: Mention, case: CheckInputs) -> Finding:
    """Return the finding about a name that is not known."""
    kind, name, spot, _ = mention
    config = case.config
    if kind == "place":
        remedy = unknown_place(name, config.places)
        return finding("JK303", spot, problem=f"no place is called {name!r}", remedy=remedy)
    if kind == "layout":
        problem, remedy = no_such_layout(name, case.reading.layouts)
        return finding("JK305", spot, problem=problem, remedy=remedy)
    sections: Mapping[str, tuple[str, Iterable[str]]] = {
        "app": ("JK302", config.apps),
        "macro": ("JK601", config.macros),
        "layer": ("JK310", config.layers),
        "display": ("JK304", config.displays),
        "workspace": ("JK318", config.workspaces),
    }
    code, there = sections[kind]
    return finding(code, spot, name=name, remedy=_remedy(case, name, there, f"{kind}s"))


def _unknown(case: CheckInputs, known: Set[tuple[str, str]]) -> Iterator[Mention]:
    """Yield a finding for each unknown name in an action. Many keys do the same, so each action is looked at once."""
    unknown = {
        id(action): names
        for action in case.actions
        if (names := [name for name in action.names() if (name.kind, name.name) not in known])
    }
    for deed in case.reading.deeds if unknown else ():
        for name in unknown.get(id(deed.action), ()):
            yield Mention(name.kind, name.name, deed.value.part(name.start, name.end), deed.family)


def _names_one_of(action: Action, there: Set[str]) -> bool:
    return any(name.kind == "layout" and name.name in there for name in action.names())


def _remedy(case: CheckInputs, name: str, known: Iterable[str], section: str) -> str:
    near = case.nearest(name, known)
    if near:
        return f"did you mean {either(near)}?"
    names = sorted(known)
    some = names if len(names) <= MOST_NAMED else [*names[:MOST_NAMED], f"{len(names) - MOST_NAMED} more"]
    return f"add it to `{section}`, or use {either(some)}" if names else f"add it to `{section}`"


def program_not_found(case: CheckInputs) -> Iterator[Finding]:
    """JK401 and JK406: a launch command that is not on PATH: not installed, or misspelt."""
    for program, spot in case.reading.commands:
        if case.programs.has(program):
            continue
        # PATH holds thousands of names, so that something is always a little alike.
        near = case.nearest(program, alike(program, case.programs.names()), likeness=0.75)
        if near:
            yield finding("JK406", spot, program=program, remedy=f"did you mean {either(near)}?")
        else:
            yield finding("JK401", spot, program=program, remedy="install it, or write its whole path")


def same_windows(case: CheckInputs) -> Iterator[Finding]:
    """JK402 and JK405: two apps whose rules are the same, or can match the same window and say equally much."""
    spots, told = case.reading.spots, set[tuple[str, str]]()
    # Only rules that agree in all that they name in full can match the same window: few are ever compared.
    alike: dict[object, list[tuple[App, WindowRule]]] = {}
    for app in case.reading.config.apps.values():
        for rule in app.rules:
            if rule.score:
                full = tuple(part for part in rule.parts if not is_pattern(part[1]))
                alike.setdefault((rule.score, full), []).append((app, rule))
    for group in alike.values():
        for (one, mine), (other, its) in islice(combinations(group, 2), MOST_PAIRS):
            # Apps of one desktop entry can be alike in several rules; one word on the two is enough.
            if one is other or (one.name, other.name) in told or not mine.rivals(its):
                continue
            told.add((one.name, other.name))
            spot, also = spots["app", other.name], ((spots["app", one.name], f"{one.name} is here"),)
            # Apps with usual rules can be told apart as long as Jaklet launches them.
            if mine.parts == its.parts and not (one.guessed or other.guessed):
                yield finding("JK402", spot, also, app=other.name, other=one.name, rule=str(its))
            else:
                names = {"app": other.name, "other": one.name, "first": one.name}
                yield finding("JK405", spot, also, rule=str(its), its=str(mine), **names)


def harsh_without_sure(case: CheckInputs) -> Iterator[Finding]:
    """JK306: a key or word that kills, and nobody is asked."""
    harsh = {id(action) for action in case.actions if is_harsh(action)}
    for deed in case.reading.deeds if harsh else ():
        if id(deed.action) in harsh and not deed.sure and not deed.off:
            yield finding("JK306", deed.value.spot, action=str(deed.action))


def word_begins_word(case: CheckInputs) -> Iterator[Finding]:
    """JK307: where words are done at once, one that is the start of another leaves no way to type the other."""
    reading = case.reading
    if not reading.config.settings.at_once:
        return
    words = sorted(reading.config.words)
    for shorter in words:
        for word in words:
            if word != shorter and word.lower().startswith(shorter.lower()):
                also = ((reading.spots["word", shorter], f"{shorter} is here"),)
                yield finding("JK307", reading.spots["word", word], also, word=word, shorter=shorter)


def missing_workspaces(case: CheckInputs) -> Iterator[Finding]:
    """JK309: a workspace that is named, and more than there are, as far as that is known."""
    count = case.config.settings.workspaces or case.reading.here.workspaces
    return beyond_workspaces(case, count) if count is not None else iter(())


def beyond_workspaces(case: CheckInputs, count: int) -> Iterator[Finding]:
    """Yield a finding for each workspace number above `count`, unless missing workspaces are made."""
    if case.config.settings.make_workspaces:
        return
    beyond = {id(action) for action in case.actions if any(_beyond(one, count) for one in action.every())}
    for deed in case.reading.deeds if beyond else ():
        if id(deed.action) in beyond and not deed.off:
            for ref in (ref for one in deed.action.every() for ref in _beyond(one, count)):
                spot = deed.value.part(ref.start, ref.end)
                yield finding("JK309", spot, number=ref.name, count=count)


def _beyond(action: Action, count: int) -> list[Ref]:
    return [ref for ref in action.refs if ref.kind == "N" and int(ref.name) > count]


RULES: Final[tuple[Callable[[CheckInputs], Iterator[Finding]], ...]] = (
    key_rules.in_the_way,
    key_rules.one_key,
    key_rules.out_of_reach,
    key_rules.typing_keys,
    key_rules.presses_itself,
    key_rules.nothing_to_let_go_of,
    owners.owned,
    layer_rules.way_in,
    layer_rules.way_out,
    layer_rules.hidden,
    use_rules.dangerous,
    use_rules.gaps,
    use_rules.unused,
    use_rules.without_key,
    unknown_names,
    program_not_found,
    same_windows,
    harsh_without_sure,
    word_begins_word,
    missing_workspaces,
    macro_rules.circles,
    macro_rules.unreached,
    macro_rules.endless_waits,
    macro_rules.typing_anywhere,
    macro_rules.in_vain,
    macro_rules.events_in_circles,
    macro_rules.idle,
    layout_rules.out_of_sight,
    layout_rules.covered,
    layout_rules.focus_lost,
    layout_rules.alike,
    layout_rules.no_such_display,
    layout_rules.contrary,
    layout_rules.twice,
    layout_rules.presses_too_much,
    arrangement_rules.contrary,
    ability_rules.beyond_the_desk,
)
