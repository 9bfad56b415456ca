"""The check of conflicts against brute force: a keyboard, on which every run of keys is tried, and what fires is noted."""

from collections import deque
from itertools import chain
from typing import NamedTuple

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from jaklet.core.keys.conflicts import conflicts, reachable
from jaklet.core.keys.keyboards import Keyboard, parse_keyboard
from jaklet.core.keys.keymap import REST, Keymap, Twins
from jaklet.core.keys.strokes import Stroke
from jaklet.core.language.actions import parse_action
from jaklet.core.values.chords import Chord, Keys, parse_chord
from jaklet.core.values.config import Binding, Config, Layer
from jaklet.core.values.scopes import EVERYWHERE, Scope
from jaklet.core.values.spans import Spot
from jaklet.keyboards.shipped import keyboard

NOWHERE = Spot("", 1, 1, 2)
APPS = ("radio", "ledger", None)
NAMES = ("", "one", "two")
# On fr, super+1 and super+shift+1 are one key, and so are ! and ampersand's neighbour; on us they are two. The others are
# symbols of the second level, with Shift written or not, and with what else is on their keys.
CHORDS = [
    parse_chord(text)
    for text in (
        "super+1", "super+shift+1", "super+exclam", "h", "escape", "alt+>", "alt+shift+>", "alt+shift+.", "alt+/", ">", "shift+>",
    )
]  # fmt: skip
KEYBOARDS = {name: keyboard(parse_keyboard(name)) for name in ("us", "fr")}


class Rule(NamedTuple):
    """A binding, and where it leads: `layer` after it is done, None for no change."""

    number: int
    keys: Keys
    layer: str
    scope: Scope
    on_release: bool
    leads: str | None


scopes = st.sampled_from([
    Scope(), Scope(), Scope(frozenset({"radio"}), True), Scope(frozenset({"ledger"}), True), Scope(frozenset({"radio"})),
    Scope(frozenset({"radio", "ledger"}), True), Scope(frozenset({"radio", "ledger"})),
])  # fmt: skip
rules = st.builds(
    Rule,
    st.just(0),
    st.lists(st.sampled_from(CHORDS), min_size=1, max_size=3).map(tuple),
    st.sampled_from(NAMES),
    scopes,
    st.booleans(),
    st.sampled_from([None, None, "", "one", "two"]),
)
configs = st.tuples(
    st.lists(rules, min_size=1, max_size=6).map(lambda some: [one._replace(number=i) for i, one in enumerate(some)]),
    st.tuples(*[st.builds(Layer, st.just(name), st.booleans(), st.none(), st.booleans()) for name in NAMES[1:]]),
    st.sampled_from(sorted(KEYBOARDS)),
)


class Machine:
    """Every key that the rules use, pressed in every order, with every app in front.

    It knows no conflict: all that a key can mean, it means at once.
    """

    def __init__(self, rules: list[Rule], layers: tuple[Layer, ...], name: str) -> None:
        self.rules = rules
        self.layers = {layer.name: layer for layer in layers}
        board = KEYBOARDS[name]
        self.ways = {chord: set(board.strokes(chord)) for chord in CHORDS}
        self.keys = sorted(set(chain.from_iterable(self.ways.values())))
        self.escape = next(iter(self.ways[parse_chord("escape")]))
        self.fired: set[tuple[int, str | None]] = set()
        self.together: set[tuple[int, int]] = set()
        self.reached: set[str] = set()

    def is_start(self, rule: Rule, strokes: tuple[Stroke[str], ...]) -> bool:
        return all(stroke in self.ways[chord] for chord, stroke in zip(rule.keys, strokes, strict=False))

    def explore(self) -> None:
        """Try every run of keys: breadth first over layer and strokes so far; the app may change while none is begun."""
        start: tuple[str, tuple[Stroke[str], ...], str | None] = ("", (), None)
        seen, ahead = {start}, deque([start])
        while ahead:
            layer, begun, app = ahead.popleft()
            self.reached.add(layer)
            following = [(layer, begun, other) for other in APPS if not begun]
            for stroke in self.keys:
                following += [(*after, app) for after in self.press(layer, begun, stroke, app)]
            for state in following:
                if state not in seen:
                    seen.add(state)
                    ahead.append(state)

    def press(
        self, layer: str, begun: tuple[Stroke[str], ...], stroke: Stroke[str], app: str | None
    ) -> list[tuple[str, tuple[Stroke[str], ...]]]:
        """Return the states that a key may lead to; note what fires."""
        live = [rule for rule in self.rules if rule.layer == layer and rule.scope.holds(app)]
        for strokes in ((*begun, stroke), (stroke,)) if begun else ((stroke,),):
            begins = [rule for rule in live if len(rule.keys) >= len(strokes) and self.is_start(rule, strokes)]
            done = [rule for rule in begins if len(rule.keys) == len(strokes)]
            if done:
                return self.fire(done, layer, app)
            if begins:
                return [(layer, strokes)]
        if stroke == self.escape:
            return [(layer if begun else "", ())]
        if layer and self.layers[layer].passes_on:
            return self.press("", (), stroke, app)
        return [(layer, ())]

    def fire(self, done: list[Rule], layer: str, app: str | None) -> list[tuple[str, tuple[Stroke[str], ...]]]:
        stays = layer if layer and self.layers[layer].stays else ""
        for rule in done:
            self.fired.add((rule.number, app))
            rivals = (other for other in done if other.number > rule.number and other.on_release is rule.on_release)
            self.together |= {(rule.number, other.number) for other in rivals}
        return [(rule.leads if rule.leads is not None else stays, ()) for rule in done]


def agreed(config: tuple[list[Rule], tuple[Layer, ...], str]) -> None:
    """Bindings conflict exactly when some run of keys fires both, or none can fire one."""
    rules, layers, name = config
    machine = Machine(rules, layers, name)
    machine.explore()
    board = KEYBOARDS[name]
    found = list(conflicts(rules, board.strokes))
    pairs = {frozenset((one.binding.number, one.other.number)) for one in found}
    begun = {one.binding.number for one in found if one.begins}
    for one, other in machine.together:
        # A pair that fires together is told of, or each of the later ones against the first of them.
        assert frozenset((one, other)) in pairs or any(other in pair for pair in pairs)
    doubled = {
        one.binding.number for one in found if not one.begins and rules[one.binding.number].layer in machine.reached
    }
    together = {number for pair in machine.together for number in pair}
    assert {max(pair) for pair in machine.together} >= doubled - begun
    for rule in rules:
        if rule.layer not in machine.reached or not all(board.strokes(chord) for chord in rule.keys):
            continue
        silent = [app for app in APPS if rule.scope.holds(app) and (rule.number, app) not in machine.fired]
        assert bool(silent) == (rule.number in begun), (rule, silent)
    assert together <= {number for pair in pairs for number in pair}
    doors: dict[str, set[str]] = {}
    for rule in rules:
        if rule.leads is not None and all(board.strokes(chord) for chord in rule.keys):
            doors.setdefault(rule.layer, set()).add(rule.leads)
    assert machine.reached <= reachable(doors)
    assert found or machine.reached == reachable(doors)


@settings(max_examples=1_500, deadline=None, suppress_health_check=list(HealthCheck))
@given(configs)
def test_the_check_agrees_with_brute_force(config: tuple[list[Rule], tuple[Layer, ...], str]) -> None:
    agreed(config)


@pytest.mark.slow
@settings(max_examples=20_000, deadline=None, suppress_health_check=list(HealthCheck))
@given(configs)
def test_the_check_agrees_with_brute_force_over_many_configs(config: tuple[list[Rule], tuple[Layer, ...], str]) -> None:
    agreed(config)


def twins_on(board: Keyboard, chords: list[Chord]) -> Twins:
    """Return which chords are one key, by comparing each with each."""
    return {
        one: tuple(other for other in chords if other != one and set(board.strokes(one)) & set(board.strokes(other)))
        for one in chords
    }


@settings(max_examples=500, deadline=None, suppress_health_check=list(HealthCheck))
@given(configs, st.lists(st.tuples(st.integers(0, 30), st.sampled_from(APPS)), min_size=5, max_size=25))
def test_what_keys_mean_is_what_brute_force_says(
    config: tuple[list[Rule], tuple[Layer, ...], str], run: list[tuple[int, str | None]]
) -> None:
    """Where nothing conflicts, every run of keys fires the same, however the chords of a key are written."""
    rules, layers, name = config
    board = KEYBOARDS[name]
    assume(not list(conflicts(rules, board.strokes)))
    machine = Machine(rules, layers, name)
    bindings = tuple(
        Binding(
            one.keys,
            parse_action(f"tell {one.number}" if one.leads is None else f"enter {one.leads}" if one.leads else "leave"),
            NOWHERE,
            str(one.number),
            layer=one.layer,
            scope=one.scope,
            on_release=one.on_release,
        )
        for one in rules
    )
    keymap = Keymap(Config(bindings=bindings, layers={layer.name: layer for layer in layers}))
    keymap.twins = twins_on(board, CHORDS)
    layer, begun, state = "", tuple[Stroke[str], ...](), REST
    for number, app in run:
        stroke = machine.keys[number % len(machine.keys)]
        machine.fired.clear()
        after = machine.press(layer, begun, stroke, app)
        chord = next(one for one in CHORDS if stroke in machine.ways[one])
        step = keymap.press(state, chord, lambda app=app: app)  # type: ignore[misc]
        fired = {one.note for one in (step.binding, step.on_release) if one}
        assert fired == {str(one) for one, _ in machine.fired}
        if not fired:
            ((layer, begun),) = after
        else:  # first what is done on press, then what is done on release
            where = rules[next(iter(machine.fired))[0]].layer
            layer, begun = where if where and machine.layers[where].stays else "", ()
            for one in sorted((rules[number] for number, _ in machine.fired), key=lambda one: one.on_release):
                layer = layer if one.leads is None else one.leads
        state = keymap.release(step.state, step.on_release) if step.on_release else step.state
        assert (state.layer, len(state.begun)) == (layer, len(begun))


def test_the_kinds_of_conflict_by_hand() -> None:
    def rule(number: int, *texts: str, scope: Scope = EVERYWHERE, release: bool = False) -> Rule:
        return Rule(number, tuple(Chord(*parse_chord(text)) for text in texts), "", scope, release, None)

    radio, other = Scope(frozenset({"radio"}), True), Scope(frozenset({"radio"}))
    assert list(conflicts([rule(0, "super+1", scope=radio), rule(1, "super+1", scope=other)])) == []
    assert list(conflicts([rule(0, "super+1"), rule(1, "super+1", release=True)])) == []
    both = [rule(0, "super+1"), rule(1, "super+shift+1")]
    assert list(conflicts(both, KEYBOARDS["us"].strokes)) == []
    assert [(one.binding.number, one.begins) for one in conflicts(both, KEYBOARDS["fr"].strokes)] == [(1, False)]
    longer = [rule(0, "h", "super+1"), rule(1, "h")]
    assert [(one.binding.number, one.other.number, one.begins) for one in conflicts(longer)] == [(0, 1, True)]
