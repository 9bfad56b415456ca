"""The rules about what is used, what is missing, and what is dangerous to have beside each other."""

from collections.abc import Iterable, Iterator, Mapping
from typing import Final

from jaklet.checks.inputs import CheckInputs
from jaklet.config.reading import BoundKeys
from jaklet.core.keys.keyboards import Keyboard
from jaklet.core.keys.strokes import Stroke
from jaklet.core.language.verbs import VerbLoss, is_harsh, traits_of
from jaklet.core.values.chords import Chord, Modifier
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.layouts import HOME
from jaklet.core.values.regexes import regex
from jaklet.core.values.sentences import Action
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import listed

AWAY, BESIDE = "one modifier away from", "next to"
_LEAST: Final = 3  # members that make a family
_NUMBER: Final = regex("[1-9][0-9]{0,2}")  # of a layout


def unused(case: CheckInputs) -> Iterator[Finding]:
    """JK308: apps and places that nothing names."""
    named = {(mention.kind, mention.name) for mention in case.reading.mentions}
    named |= {(name.kind, name.name) for action in case.actions for name in action.names()}
    unknown = [name for kind, name in named if (kind, name) not in case.reading.spots]
    config = case.config
    for kind, names in (("app", config.apps), ("place", config.places)):
        if f"{kind}s" in case.reading.broken or "bindings" in case.reading.broken:
            continue
        for name in names:
            if (kind, name) in named or (kind, name) not in case.reading.spots:
                continue
            if not (unknown and case.nearest(name, unknown)):  # a misspelt use of it is told of where it stands
                yield finding("JK308", case.reading.spots[kind, name], kind=kind, name=name)


def without_key(case: CheckInputs) -> Iterator[Finding]:
    """JK503: layouts that no key or word recalls."""
    recalled = {
        ref.name for action in case.actions for one in action.every() for ref in one.refs if ref.kind == "LAYOUT"
    }
    homes = {laid.layout.name for laid in case.reading.laid if laid.layout.home and HOME in recalled}
    bases = {laid.layout.base for laid in case.reading.laid}
    for name, number in case.reading.layouts.items():
        if name not in recalled and str(number) not in recalled and name not in homes | bases:
            spot = case.reading.spots.get(("layout", name))
            if spot:
                yield finding("JK503", spot, name=name)


def gaps(case: CheckInputs) -> Iterator[Finding]:
    """JK221: rows of keys, such as those that recall 1 to 5, of which one is missing; and pairs of such rows."""
    numbers, sides = _rows(case)
    for (layer, verb), row in numbers.items():
        others = [one for (its, name), one in numbers.items() if name != verb and its == layer and len(one) >= _LEAST]
        missing = _missing(row, others) if len(row) >= _LEAST else []
        if missing:
            yield _gap(row, verb, [str(number) for number in missing])
    for (_, verb), found in sides.items():
        missing_sides = [side for side in ("left", "right", "up", "down") if side not in found]
        if len(found) == _LEAST and missing_sides:
            yield _gap(found, verb, missing_sides)


Numbers = dict[tuple[str, str], dict[int, BoundKeys]]  # by layer and verb
Sides = dict[tuple[str, str], dict[str, BoundKeys]]


def _rows(case: CheckInputs) -> tuple[Numbers, Sides]:
    """Return the keys of one verb that differ by a number, and those that differ by a side."""
    numbers: Numbers = {}
    sides: Sides = {}
    telling = {id(action) for action in case.actions if len(action.refs) == 1 and _counts(action)}
    for bound in case.live if telling else ():
        action = bound.binding.action if bound.binding and id(bound.binding.action) in telling else None
        if action and action.refs[0].kind == "SIDE":
            sides.setdefault((bound.layer, action.verb), {})[action.refs[0].name] = bound
        elif action:
            numbers.setdefault((bound.layer, action.verb), {})[int(action.refs[0].name)] = bound
    return numbers, sides


def _missing(row: Mapping[int, BoundKeys], others: Iterable[Mapping[int, BoundKeys]]) -> list[int]:
    """Return the numbers that a row leaves out, or that longer rows beside it have."""
    missing = set(range(min(row), max(row))) - row.keys()
    return sorted(missing.union(*(other.keys() - row.keys() for other in others if len(other) > len(row))))


def _counts(action: Action) -> bool:
    return action.refs[0].kind == "SIDE" or bool(_NUMBER.fullmatch(action.refs[0].name))


def _gap(row: Mapping[int, BoundKeys] | Mapping[str, BoundKeys], verb: str, missing: list[str]) -> Finding:
    there = f"keys {verb} {listed([str(name) for name in row])}"
    last = max(row.values(), key=lambda bound: bound.spot)
    return finding("JK221", last.spot, there=there, missing=f"{verb} {listed(missing, 'or')}")


def dangerous(case: CheckInputs) -> Iterator[Finding]:
    """JK219 and JK220: keys that kill, close all, or save over a layout, a slip away from a much used harmless one."""
    codes = {id(action): code for action in case.actions if (code := _danger(action, case))}
    plain = [bound for bound in case.live if len(bound.keys) == 1 and bound.binding] if codes else []
    perilous = [(bound, codes[id(_action(bound))]) for bound in plain if id(_action(bound)) in codes]
    if perilous:
        yield from _slips(perilous, plain, case)


def _slips(perilous: list[tuple[BoundKeys, str]], plain: list[BoundKeys], case: CheckInputs) -> Iterator[Finding]:
    """Yield a finding for each dangerous binding that is one slip away from a much used one, once for two families."""
    harsh = {id(bound) for bound, _ in perilous}
    harmless = (bound for bound in plain if id(bound) not in harsh and traits_of(_action(bound)).much_used)
    much = {(bound.layer, bound.keys[0]): bound for bound in harmless}
    on_keys = {(layer, case.keyboards[0].stroke(chord)): bound for (layer, chord), bound in much.items()}
    told: set[tuple[Spot, Spot]] = set()
    for bound, code in perilous:
        for other, near in _near(bound, much, on_keys, case.keyboards[0]):
            if (bound.spot, other.spot) in told:
                continue  # another pair of the same two families
            told.add((bound.spot, other.spot))
            names = {"chord": str(bound.keys[0]), "action": _action(bound).text, "other": str(other.keys[0])}
            also = ((other.spot, "the harmless one"),)
            yield finding(code, bound.spot, also, near=near, harmless=_action(other).text, **names)


def _action(bound: BoundKeys) -> Action:
    assert bound.binding
    return bound.binding.action


def _danger(action: Action, case: CheckInputs) -> str:
    """Return the code of what is dangerous about an action; empty if nothing is."""
    loses = traits_of(action).loses
    if is_harsh(action) or (loses is VerbLoss.WINDOWS and action.named("ALL")):
        return "JK219"
    ref = action.named("NAME")
    if loses is VerbLoss.LAYOUT and ref:
        layouts = case.reading.layouts
        over = ref.name in layouts or ref.name in {str(number) for number in layouts.values()}
        return "JK220" if over else ""
    return ""


def _near(
    bound: BoundKeys,
    much: Mapping[tuple[str, Chord], BoundKeys],
    on_keys: Mapping[tuple[str, Stroke[str] | None], BoundKeys],
    keyboard: Keyboard,
) -> Iterator[tuple[BoundKeys, str]]:
    """Yield the bindings a slip away from one: `much` by layer and chord, `on_keys` by layer and key."""
    chord = bound.keys[0]
    near = [(much.get((bound.layer, chord._replace(modifiers=chord.modifiers ^ bit))), AWAY) for bit in Modifier]
    stroke = keyboard.stroke(chord)
    if stroke:
        near += [(on_keys.get((bound.layer, stroke._replace(key=key))), BESIDE) for key in keyboard.beside(stroke.key)]
    for other, how in near:
        if other and other.scope.overlaps(bound.scope):
            yield other, how
