"""Keys by XTEST, with each modifier; and what is said where a modifier is not heard."""

from collections.abc import Callable

import pytest

from tests.listener.test_x11 import Listening
from tests.managers.desk import CONFIG, Managed
from tests.xserver import until

SUPER = (
    "The manager holds the Super key by itself. `listen`, `status`, `keys why` and `check --live` say that no chord with "
    "super is heard; `init` takes ctrl+alt, and `check --fix --base ctrl+alt` moves the keys of a config."
)
CHORDS = ("super+j", "ctrl+alt+shift+j", "super+ctrl+j", "super+shift+j", "ctrl+alt+j", "alt+shift+j", "ctrl+shift+j")


def test_each_chord_is_heard_or_its_silence_is_told(desk: Managed, limit: Callable[[str], None]) -> None:
    """What a key event shows is what `listen`, `status` and `check --live` have said before."""
    lines = "".join(f'  {chord}: tell "{chord} is heard"\n' for chord in CHORDS)
    desk.office.config.write_text(CONFIG.replace("bindings:\n", f"bindings:\n{lines}"))
    checked = desk.jaklet("check", "--live").stdout
    listening = Listening(desk.office)
    begun = listening.says()
    status = desk.jaklet("status", "--format", "json", status=None).stdout
    for chord in CHORDS:
        desk.x.press(chord)
        refused = f'"{chord}": "' in status
        if refused:
            continue
        until(lambda chord=chord: f"{chord} is heard" in listening.says(), f"{chord}: {begun}")  # type: ignore[misc]
    for chord in CHORDS[:1]:  # with other modifiers before it, a chord gets through at times
        assert (f"{chord} is heard" in listening.says()) is not (f'"{chord}": "' in status)
    if "so that no chord with super is heard" in begun:
        limit(SUPER)
        assert "JK223" in checked
        assert "holds the Super key by itself" in status
        assert "another program, most likely the window manager" in checked
        assert "jaklet check --fix --base ctrl+alt" in checked
        first = desk.jaklet("init", "--print").stdout
        assert "super+" not in first.partition("bindings:")[2], first
    else:
        assert "JK223" not in checked
    assert listening.stop() == 0


@pytest.mark.parametrize("lock", ["caps", "num"])
def test_a_chord_is_heard_with_a_lock_on(desk: Managed, lock: str) -> None:
    desk.office.config.write_text(CONFIG + '  ctrl+alt+shift+k: tell "it is heard"\n')
    listening = Listening(desk.office)
    desk.x.press(lock)
    try:
        desk.x.press("ctrl+alt+shift+k")
        listening.until_says("it is heard")
    finally:
        desk.x.press(lock)
    assert listening.stop() == 0
