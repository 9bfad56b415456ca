"""Sequences: what a chord means after others, against a naive reading of the bindings."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.chords import MOST_CHORDS, Chord, Keys, keys_written, parse_chord, parse_keys
from jaklet.core.config import Binding, Config
from jaklet.core.errors import SentenceError
from jaklet.core.keymap import ESCAPE, Keymap
from jaklet.core.spans import Spot
from jaklet.core.verbs import parse_action

CHORDS = [parse_chord(text) for text in ("super+w", "h", "super+h", "escape")]
keys = st.lists(st.sampled_from(CHORDS), min_size=1, max_size=3).map(tuple)


def config(bound: list[Keys]) -> Config:
    """Return a config of these that can all be pressed: none begins another."""
    free = [one for one in bound if not any(one != other and one == other[: len(one)] for other in bound)]
    return Config(bindings=tuple(Binding(one, parse_action("close"), Spot("", 1, 1, 2)) for one in dict.fromkeys(free)))


@given(st.lists(keys, max_size=6), st.lists(st.sampled_from(CHORDS), max_size=12))
def test_a_binding_is_done_exactly_when_its_last_chord_comes_after_the_others(
    bound: list[Keys], pressed: list[Chord]
) -> None:
    known = config(bound)
    keymap, begun = Keymap(known), Keys()
    for chord in pressed or CHORDS:
        assert begun == () or any(one[: len(begun)] == begun for one in known.by_keys)
        heard = keymap.heard(begun)
        step = keymap.press(begun, chord)
        longer = (*begun, chord)
        if step.binding:
            assert step.binding.keys in (longer, (chord,))
            assert step.begun == ()
        assert (chord in heard) >= bool(step.binding or step.begun)
        assert not begun or ESCAPE in heard
        begun = step.begun


@given(st.lists(keys, min_size=1, max_size=6))
def test_every_binding_can_be_pressed_from_any_state(bound: list[Keys]) -> None:
    known = config(bound)
    keymap = Keymap(known)
    for start in [(), *(one[:1] for one in known.by_keys if len(one) > 1)]:
        begun = keymap.press(start, ESCAPE).begun if start and (*start, ESCAPE) not in known.by_keys else ()
        if begun:
            continue  # Escape itself begins a sequence here
        for one, binding in known.by_keys.items():
            begun = ()
            for chord in one:
                begun, done = keymap.press(begun, chord)
            assert done is binding


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
