"""Layers, sequences and scopes: what a key means, against a plain reading of the bindings."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaklet.core.keys.conflicts import conflicts
from jaklet.core.keys.keymap import ESCAPE, REST, Keymap, KeymapState, number_families
from jaklet.core.language.actions import parse_action
from jaklet.core.values.chords import MOST_CHORDS, Chord, keys_written, parse_chord, parse_keys
from jaklet.core.values.config import Binding, Config, Layer, Overlay, Settings
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.scopes import Scope
from jaklet.core.values.spans import Spot

CHORDS = [parse_chord(text) for text in ("super+w", "h", "super+h", "escape")]
APPS = ["radio", "ledger", None]
keys = st.lists(st.sampled_from(CHORDS), min_size=1, max_size=3).map(tuple)
scopes = st.builds(Scope, st.frozensets(st.sampled_from(["radio", "ledger"]), max_size=2), st.booleans()).filter(
    lambda scope: bool(scope.apps) or not scope.only
)
actions = st.sampled_from(["close", "enter one", "enter two", "leave"]).map(parse_action)
layer_names = st.sampled_from(["", "one", "two"])
HERE = Spot("", 1, 1, 2)
bindings = st.builds(
    lambda keys, action, layer, scope, on_release: Binding(
        keys, action, HERE, layer=layer, scope=scope, on_release=on_release
    ),
    keys, actions, layer_names, scopes, st.booleans(),
)  # fmt: skip
layers = st.builds(Layer, st.just(""), st.booleans(), st.none(), st.booleans())


@st.composite
def configs(draw: st.DrawFn) -> Config:
    """Layers and bindings without conflicts: of two that have one, the later is left out."""
    kept: list[Binding] = []
    for binding in draw(st.lists(bindings, max_size=8)):
        if not any(conflicts([*kept, binding])):
            kept.append(binding)
    named = {name: draw(layers)._replace(name=name) for name in ("one", "two")}
    return Config(bindings=tuple(kept), layers=named)


class Reference:
    """What keys mean, said as plainly as can be: it looks through all bindings each time, and remembers all keys."""

    def __init__(self, config: Config) -> None:
        self.config, self.layer, self.begun = config, "", list[Chord]()

    def live(self, app: str | None) -> list[Binding]:
        return [one for one in self.config.bindings if one.layer == self.layer and one.scope.holds(app)]

    def press(self, chord: Chord, app: str | None) -> tuple[list[Binding], bool]:
        """Return what is done now or on release, and if the program gets the key."""
        for start in ([*self.begun, chord], [chord]) if self.begun else ([chord],):
            done = [one for one in self.live(app) if list(one.keys) == start]
            if done:
                self.begun = []
                if self.layer and not self.config.layers[self.layer].stays:
                    self.layer = ""
                for one in done:
                    if not one.on_release:
                        self.turn(one)
                return done, False
            if any(list(one.keys[: len(start)]) == start for one in self.live(app)):
                self.begun = start
                return [], False
        if chord == ESCAPE and (self.begun or self.layer):
            self.layer = self.layer if self.begun else ""
            self.begun = []
            return [], False
        self.begun = []
        if self.layer and self.config.layers[self.layer].passes_on:
            self.layer = ""
            return self.press(chord, app)
        return [], not self.layer

    def turn(self, one: Binding) -> None:
        if one.action.verb in ("enter", "leave"):
            self.layer, self.begun = one.action.text.partition(" ")[2], []


@settings(max_examples=300)
@given(configs(), st.lists(st.tuples(st.sampled_from(CHORDS), st.sampled_from(APPS)), max_size=12))
def test_keys_mean_what_a_plain_reading_of_the_bindings_says(
    config: Config, pressed: list[tuple[Chord, str | None]]
) -> None:
    keymap, state, reference = Keymap(config), REST, Reference(config)
    for chord, app in pressed:
        hearing = keymap.hearing(state)
        step = keymap.press(state, chord, lambda app=app: app)  # type: ignore[misc]
        if not hearing.every and chord not in hearing.chords:
            assert step.passed  # what is not heard is the program's, and changes nothing
            continue
        done, passed = reference.press(chord, app)
        assert [one for one in (step.binding, step.on_release) if one] == sorted(done, key=lambda one: one.on_release)
        assert step.passed is passed
        assert not passed or hearing.every or chord in hearing.scoped, "only a frozen key can be passed on"
        state = step.state
        for one in done:
            if one.on_release:
                state = keymap.release(state, one)
                reference.turn(one)
        assert (state.layer, list(state.begun)) == (reference.layer, reference.begun)


@given(configs())
def test_every_layer_can_be_left_with_one_escape_or_another_unless_it_is_bound(config: Config) -> None:
    keymap = Keymap(config)
    for name in config.layers:
        if not any(ESCAPE in one.keys for one in config.bindings if one.layer == name):
            assert keymap.press(KeymapState(name), ESCAPE) == (REST, None, None, False)


@pytest.mark.parametrize(
    ("text", "written"),
    [
        ("super+w h", "super+w h"),
        ("  Super + W   shift+H ", "super+w shift+h"),
        ("super++", "super+plus"),
        ("super+w  +", "super+w plus"),
        ("a b c d", "a b c d"),
    ],
)
def test_sequences_have_one_canonical_form(text: str, written: str) -> None:
    assert keys_written(parse_keys(text)) == written
    assert parse_keys(written) == parse_keys(text)


@pytest.mark.parametrize(
    ("text", "start", "message"),
    [
        ("super+w hyper+x", 8, "'hyper' is no modifier"),
        ("super+w nokey", 8, "no key is called 'nokey'"),
        ("a b c d e", 0, f"this has more than {MOST_CHORDS} chords"),
        ("", 0, "a chord is missing"),
        ("super x", 0, "super is a modifier"),
    ],
)
def test_a_fault_in_a_sequence_is_told_where_it_stands(text: str, start: int, message: str) -> None:
    with pytest.raises(SentenceError) as fault:
        parse_keys(text)
    assert (fault.value.start, fault.value.message[: len(message)]) == (start, message)


@given(st.text(max_size=12))
def test_any_text_is_a_sequence_or_a_clear_error(text: str) -> None:
    try:
        found = parse_keys(text)
    except SentenceError as fault:
        assert 0 <= fault.start < fault.end
    else:
        assert parse_keys(keys_written(found)) == found


def test_modifiers_of_families_that_recall_layouts_are_listened_to() -> None:
    def bound(keys: str, action: str, family: bool = True, layer: str = "") -> Binding:
        return Binding(
            parse_keys(keys), parse_action(action), HERE, family=(keys, action) if family else None, layer=layer
        )

    some = (
        bound("super+1", "recall 1"), bound("super+2", "recall 2"), bound("alt+1", "workspace 1"), bound("f1", "recall 1"),
        bound("ctrl+1", "recall 1", family=False), bound("super+g 1", "recall 1"), bound("alt+2", "recall 2", layer="one"),
    )  # fmt: skip
    config = Config(layers={"one": Layer("one")}, bindings=some)
    held = int(parse_chord("super+1").modifiers)
    assert Keymap(config).hearing(REST).held == {held}
    assert number_families(config) == {held: list(some[:2])}
    assert not Keymap(config).hearing(KeymapState("one")).held
    off = Settings(overlay=Overlay(held=float("inf")))
    assert not Keymap(config._replace(settings=off)).hearing(REST).held
