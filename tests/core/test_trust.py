"""What a layout may press: nothing that could be text or a command, and nothing at all in a terminal."""

import pytest

from jaklet.core.actions.layouts.trust import HARMLESS, is_terminal, refusal
from jaklet.core.keys.keyboards import NAMES, parse_keyboard, writes
from jaklet.core.values.apps import App, default_rule
from jaklet.core.values.chords import Modifier, parse_chord, parse_keys
from jaklet.core.values.desk import Window
from jaklet.keyboards.shipped import keyboard


def app(*command: str, **more: object) -> App:
    return App("it", command, (default_rule(command),))._replace(**more)  # type: ignore[arg-type]


def test_nothing_harmless_types_a_character_on_any_keyboard() -> None:
    """Not even with AltGr, which some systems make of Ctrl and Alt together."""
    for name in NAMES:
        board = keyboard(parse_keyboard(name))
        for chord in HARMLESS:
            assert not writes(chord)
            assert not board.typed(chord)
            assert chord.modifiers in (0, Modifier.CTRL, Modifier.ALT)


@pytest.mark.parametrize(
    "keys",
    [
        "super+l",
        "ctrl+m",
        "ctrl+v",
        "shift+insert",
        "return",
        "ctrl+j",
        "ctrl+2 a",
        "alt+f4",
        "ctrl+alt+f1",
        "f1",
        "tab",
    ],
)
def test_what_could_be_text_a_command_or_a_loss_is_refused(keys: str) -> None:
    assert "may not press" in refusal(parse_keys(keys), app("letters"))


def test_the_config_may_allow_more_but_for_terminals() -> None:
    keys = parse_keys("ctrl+k")
    assert refusal(keys, app("letters", may_press=keys)) == ""
    assert refusal(keys, app("xterm", may_press=keys))
    for one in (
        app("xterm"),
        app("/usr/bin/xterm", "-e", "sh"),
        app("sh", "-c", "x", in_terminal=True),
        app("x", terminal=True),
    ):
        assert is_terminal(one)
        assert "gets none" in refusal(parse_keys("ctrl+1"), one)
    for window in (Window(1, cls="XTerm"), Window(1, process="gnome-terminal-"), Window(1, instance="st")):
        known = window.process != "gnome-terminal-"
        assert bool(refusal(parse_keys("ctrl+1"), None, window)) is known
    assert refusal((parse_chord("ctrl+1"),), app("letters"), Window(1, cls="Letters")) == ""
