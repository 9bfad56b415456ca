"""Chords: one canonical form however they are spelt, and errors that point at the part at fault."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.values.chords import MODIFIERS, Chord, key_name, keysym_of, parse_chord
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.keysyms import KEYSYMS

SAME = [
    ("super+l", "Super+L", " SUPER+l "),
    ("super+ctrl+alt+altgr+shift+left", "shift+altgr+alt+ctrl+super+Left", "Control+Alt+SUPER+altgr+Shift+LEFT"),
    ("super+pageup", "super+Prior", "super+Page_Up"),
    ("super+audioraisevolume", "super+XF86AudioRaiseVolume", "super+volumeup"),
    ("super+plus", "super++", "super+PLUS"),
    ("super+question", "super+?"),
    ("escape", "Esc", "Escape"),
    ("kp_1", "KP_1"),
    ("super+eacute", "super+é", "super+É"),
]
FAULTS = [
    ("", 0, "a chord is missing"),
    ("hyper+l", 0, "'hyper' is no modifier"),
    ("super+pgup", 6, "no key is called 'pgup'"),
    ("super+", 6, "the key is missing after +"),
    ("super+super+l", 6, "super is named twice"),
    ("super+shift", 6, "shift is a modifier"),
    ("l+super", 0, "l is a key"),
    ("super+w h", 6, "there is a space inside the chord"),
    ("+l", 0, "there is nothing before +"),
    ("super+shift_l", 6, "shift_l is a modifier key"),
]


# As other programs write chords, and what is nobody's key: the remedy says what is meant here.
OTHERWISE = [
    ("ctrl-alt-x", "join its parts with +: ctrl+alt+x"),
    ("<super>e", "join its parts with +: super+e"),
    ("<Control><Alt>Left", "join its parts with +: ctrl+alt+Left"),
    ("win-e", "join its parts with +: super+e"),
    ("super+mouse1", "only keys of a keyboard can be bound"),
    ("super+button4", "only keys of a keyboard can be bound"),
    ("super+lefft", "did you mean left"),
]


@pytest.mark.parametrize(("text", "remedy"), OTHERWISE)
def test_chords_as_others_write_them_are_told_as_they_are_written_here(text: str, remedy: str) -> None:
    with pytest.raises(SentenceError) as caught:
        parse_chord(text)
    assert caught.value.remedy.startswith(remedy)


@pytest.mark.parametrize("spellings", SAME, ids=lambda spellings: spellings[0])
def test_spellings_of_one_chord_are_equal_and_print_alike(spellings: tuple[str, ...]) -> None:
    chords = {parse_chord(text) for text in spellings}
    assert len(chords) == 1
    assert str(chords.pop()) == spellings[0]


@pytest.mark.parametrize(("text", "start", "message"), FAULTS)
def test_a_fault_names_its_part(text: str, start: int, message: str) -> None:
    with pytest.raises(SentenceError, match="^" + message.replace("+", r"\+")) as fault:
        parse_chord(text)
    assert fault.value.start == start


@given(
    st.sets(st.sampled_from(["super", "ctrl", "alt", "altgr", "shift"])),
    st.sampled_from([number for name, number in KEYSYMS.items() if not 0xFFE1 <= number <= 0xFFEE]),
)
def test_printing_and_parsing_a_chord_is_the_identity(names: set[str], keysym: int) -> None:
    chord = Chord(sum(int(MODIFIERS[name]) for name in names), keysym)
    assert parse_chord(str(chord)) == chord


def test_every_key_name_means_its_keysym() -> None:
    assert all(keysym_of(key_name(number)) == number for number in KEYSYMS.values())


@given(st.text(max_size=40))
def test_any_text_is_a_chord_or_a_clear_error(text: str) -> None:
    try:
        chord = parse_chord(text)
    except SentenceError as fault:
        assert fault.message
        assert 0 <= fault.start < fault.end
    else:
        assert parse_chord(str(chord)) == chord
