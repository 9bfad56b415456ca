"""Scopes, layers, edges of keys and other keyboards on a real X server; a real terminal notes what reaches it."""

import json
import signal
import subprocess
from collections.abc import Iterator

import pytest

from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.xserver import XServer, until

KEYS = """
  ctrl+g: {do: go radio, only in: berths}
  f7: {do: go berths, not in: [berths, radio]}
  super+k: enter watch
  super+e: enter once
  super+y: enter guests
  super+i: enter short
  super+u: {do: focus next, repeat: true}
  super+f8: {do: go berths, on release: true}
  super+a: go berths
  super+kp_1: go radio
  super+j: press ctrl+k shift+w
  super+shift+x: press super+a
layers:
  watch:
    stays: true
    bindings: {b: go berths, r: go radio, 'g h': go tides}
  once: {bindings: {b: go berths}}
  guests: {other keys: leave and pass on, bindings: {b: go berths}}
  short: {stays: true, ends after: 500ms, bindings: {b: go berths}}
"""


class Desk:
    """A listener, a terminal that notes what is typed into it, and two windows of the office."""

    def __init__(self, x: XServer, office: Office) -> None:
        self.x, self.office = x, office
        office.edit("  super+z: focus last", KEYS.split("layers:")[0].rstrip().lstrip("\n") + "\n  super+z: focus last")
        office.edit("layers:\n", "layers:" + KEYS.split("layers:")[1])
        self.listener = Listening(office)
        self.notes = office.folder / "typed"
        command = ["xterm", "-e", "sh", "-c", f"stty raw -echo; cat > {self.notes}"]
        x.processes.append(subprocess.Popen(command, env=x.env))
        until(lambda: x.active() == "XTerm" and self.notes.exists(), "the terminal")
        x.open("BerthBoard")
        x.open("RadioLog")

    def front(self, cls: str, what: str) -> None:
        until(lambda: self.x.active() == cls, what)

    def to(self, cls: str) -> None:
        self.office.jaklet("act", f"focus window {self.x.of_class(cls)[0]}")
        self.front(cls, f"{cls} in front")

    def typed(self, text: str, what: str) -> None:
        """Wait until exactly this has been typed into the terminal since the start."""
        until(lambda: self.notes.read_text() == text, f"{what}; so far {self.notes.read_text()!r}")

    def press(self, *chords: str) -> None:
        for chord in chords:
            self.x.press(chord)

    def layer(self) -> str:
        """Return the layer that is on, as the listener says it."""
        told = json.loads(self.office.jaklet("check", "--format", "json").stdout)["listener"]
        return str(told["layer"])

    def enter(self, chord: str, layer: str, times: int = 1) -> None:
        self.press(chord)
        self.listener.until_says(f"layer {layer} is on", times)


@pytest.fixture
def desk(x: XServer, x_office: Office) -> Iterator[Desk]:
    one = Desk(x, x_office)
    yield one
    print(one.listener.says(), x.active(), repr(one.notes.read_text()))  # for the report of a failure
    one.listener.stop(signal.SIGKILL)
    x.run("setxkbmap", "us")


def test_a_key_out_of_scope_reaches_the_program_untouched(desk: Desk) -> None:
    desk.to("XTerm")
    desk.press("ctrl+g", "g")
    desk.typed("\x07g", "the key and the one after it in the terminal")
    desk.to("BerthBoard")
    desk.press("ctrl+g")
    desk.front("RadioLog", "the key in its scope")
    desk.press("f7")  # not in its scope here
    desk.to("XTerm")
    desk.press("f7")
    desk.front("BerthBoard", "the other key in its scope")
    desk.to("XTerm")
    desk.press("h")
    desk.typed("\x07gh", "nothing else in the terminal")


def test_layers_are_entered_and_left(desk: Desk) -> None:
    desk.to("XTerm")
    desk.enter("super+k", "watch")
    desk.press("c", "b")
    desk.front("BerthBoard", "a key of the layer")
    desk.press("x", "ctrl+c", "r")  # keys it does not know are dropped, and it stays
    desk.front("RadioLog", "another key of the layer")
    desk.press("g", "h")
    desk.front("TideGauge", "a sequence in the layer")
    desk.press("escape")
    desk.to("XTerm")
    desk.press("b")
    desk.typed("b", "the key to be the program's again")

    desk.enter("super+e", "once")
    desk.press("b")
    desk.front("BerthBoard", "the key of the layer")
    desk.to("XTerm")
    desk.press("b")
    desk.typed("bb", "the layer to have ended with its action")

    desk.enter("super+y", "guests")
    desk.press("k", "b")
    desk.typed("bbkb", "a key that the layer does not know to leave it, and both to be typed")
    desk.enter("super+y", "guests", 2)
    desk.press("super+a")
    desk.front("BerthBoard", "a chord outside the layer to leave it and be done")
    desk.to("XTerm")

    desk.enter("super+i", "short")
    until(lambda: desk.layer() == "", "the layer's time to be over")
    desk.press("escape", "d")
    desk.typed("bbkb\x1bd", "all keys to be the program's")
    assert desk.listener.stop() == 0


def test_what_is_typed_right_behind_the_way_into_a_layer_is_the_layers(desk: Desk) -> None:
    """However late the listener comes to it: here it sleeps while all of it is typed."""
    desk.to("XTerm")
    desk.listener.process.send_signal(signal.SIGSTOP)
    desk.press("super+k", "x", "escape", "k")
    desk.listener.process.send_signal(signal.SIGCONT)
    desk.typed("k", "what is typed after the layer, and nothing of it")
    desk.listener.process.send_signal(signal.SIGSTOP)
    desk.press("super+y", "k", "b")
    desk.listener.process.send_signal(signal.SIGCONT)
    desk.typed("kkb", "a key that the layer does not know, which leaves it, and the one after it")
    assert desk.listener.stop() == 0


def test_a_key_that_is_held_repeats_where_it_is_asked_to_and_one_let_go_is_heard(desk: Desk) -> None:
    with desk.x.watched("_NET_ACTIVE_WINDOW") as changes:
        desk.x.press("super+u", hold=1.5)  # the server begins to repeat after 0.66 s, 25 times a second
        until(lambda: len(changes()) > 5, "windows in front, one after another")
    desk.listener.until_says("super+u:")
    assert desk.listener.says().count("super+u:") == 1
    desk.to("RadioLog")
    desk.x.press("super+f8", hold=1.0)
    desk.front("BerthBoard", "the key to be let go")
    desk.listener.until_says("super+f8:")
    assert desk.listener.says().count("super+f8:") == 1
    desk.to("XTerm")
    # A key of a layer that ends with it: its repeats are nobody's, though the layer is over.
    desk.enter("super+e", "once")
    desk.x.press("b", hold=1.0)
    desk.front("BerthBoard", "the key of the layer")
    desk.to("XTerm")
    desk.press("d")
    desk.typed("d", "nothing of the held key")


def test_keys_are_pressed_for_the_program_in_front(desk: Desk) -> None:
    desk.to("XTerm")
    desk.press("super+j")
    desk.typed("\x0bW", "what was pressed for it")
    desk.press("a")
    desk.typed("\x0bWa", "what is typed by hand after it")
    desk.press("super+shift+x")
    desk.front("BerthBoard", "a chord of our own that was pressed")
    assert "no such key" in desk.office.jaklet("act", "press kanji", status=1).stderr


def test_num_lock_and_the_number_pad(desk: Desk) -> None:
    for _ in ("on", "off"):
        desk.press("num")
        desk.to("BerthBoard")
        desk.press("super+kp_end")  # the same key
        desk.front("RadioLog", "the key of the number pad")
        desk.press("super+a")
        desk.front("BerthBoard", "a letter")


def test_the_keyboard_becomes_french_while_listening(desk: Desk) -> None:
    us = desk.x.keycode(ord("a"))
    desk.x.run("setxkbmap", "fr")
    until(lambda: desk.x.keycode(ord("a")) != us, "the French map")
    until(lambda: not desk.x.can_grab("super+a"), "the chord to be heard on its new key")
    desk.to("RadioLog")
    desk.press("super+a")
    desk.front("BerthBoard", "the chord on its new key")
    # Digits need Shift there, so that two families are one, as the check says.
    desk.office.edit("super+s <n>: save <n>  ", "super+shift+<n>: save <n>  ")
    desk.office.jaklet("reload")
    found = desk.office.jaklet("check", "--keyboard", "this", "--strict", status=1).stdout
    assert "super+shift+1 is the same key as super+1 on this keyboard" in found
    assert "JK205" not in desk.office.jaklet("check", "--keyboard", "us").stdout
    desk.press("super+shift+ampersand")
    until(
        lambda: "super+shift+1:" in desk.listener.says() or "super+1:" in desk.listener.says(), "the digit, with Shift"
    )
