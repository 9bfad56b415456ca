"""Keys on Plasma, as a person meets them: a listener beside a real KWin, and keys that KWin takes for a person's."""

import contextlib
import json
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from jeepney import DBusAddress, Message, MessageFlag, new_method_call
from jeepney.io.blocking import open_dbus_connection
from jeepney.wrappers import DBusErrorResponse, unwrap_msg

from jaklet.core.actions.ports.chord_source import KeyEdge, KeyEvent
from jaklet.core.keys.keymap import NOTHING, HearableKeys
from jaklet.core.values.chords import Chord, parse_chord
from jaklet.core.values.geometry import Rect
from jaklet.desktops import plasma as on_plasma
from jaklet.desktops.compositor.bus import Bus, member_of
from jaklet.desktops.plasma.qt_keys import signed_number
from tests.cards_machine import Person, play
from tests.compositor_office import CONFIG_OF_THREE_HUNDRED, CompositorOffice, hears_three_hundred, nothing_left_open
from tests.conftest import Office
from tests.fake_input import Hand
from tests.plasma import Plasma, edges_of, needed, session, taken, takes_pictures, xwayland_of
from tests.xserver import until

ACCEL = DBusAddress("/kglobalaccel", "org.kde.kglobalaccel", "org.kde.KGlobalAccel")
SUPER = 0x10000000


class Desk(CompositorOffice):
    """The harbour office in a session of Plasma."""

    def __init__(self, plasma: Plasma, folder: Path, config: str = "") -> None:
        self.plasma = plasma
        self.bus = open_dbus_connection(plasma.env["DBUS_SESSION_BUS_ADDRESS"])
        hand = Hand(f"{plasma.env['XDG_RUNTIME_DIR']}/{plasma.env['WAYLAND_DISPLAY']}")
        super().__init__("plasma", ("Virtual-0", "Virtual-1"), plasma.env, hand, folder, config)
        self.hand: Hand = hand

    def ask(self, method: str, signature: str, *body: object) -> list[str]:
        """Ask the desktop's own service of shortcuts."""
        call = new_method_call(ACCEL, method, signature, body)
        call.header.flags |= MessageFlag.no_auto_start
        told = self.bus.send_and_get_reply(call)
        return list(unwrap_msg(told)[0] or ())

    def owner(self, code: int) -> str:
        return next(iter(self.ask("action", "i", signed_number(code))), "")

    def owner_or_none(self, code: int) -> str:
        """Return the same; empty while there is no compositor."""
        try:
            return self.owner(code)
        except DBusErrorResponse:
            return ""

    def let_go(self) -> None:
        super().let_go()
        self.bus.close()


@pytest.fixture(autouse=True)
def nothing_left() -> Iterator[None]:
    with nothing_left_open():
        yield


@pytest.fixture
def desk(plasma: Plasma, tmp_path: Path) -> Iterator[Desk]:
    one = Desk(plasma, tmp_path)
    yield one
    one.close()


def test_a_day_of_keys(desk: Desk) -> None:
    """Launch, go, save, scramble, recall, reload, a layer, a sequence, a scope, a macro, undo, stop."""
    desk.office.edit("  gap: 8", "  gap: 8\n  sequence: 20s")  # longer than a busy machine takes from key to key
    listening, hand = desk.listen(), desk.hand
    assert "super+left cannot be used: KWin (Quick Tile Window to the Left) holds it" in listening.says()
    hand.chord("super+b")
    listening.until_says("super+b: berths (Berth board) is launched and in front")
    hand.chord("super+r")
    listening.until_says("super+r: radio (Radio log) is launched and in front")
    hand.chord("super+b")
    listening.until_says("super+b: berths (Berth board) is in front")
    hand.chord("super+q")
    listening.until_says("super+q: berths (Berth board) is at full on quay")
    # The second key of a sequence is ours while it is awaited, and no longer.
    assert not desk.owner(ord("7"))
    hand.chord("super+s")
    until(lambda: desk.owner(ord("7")) == "jaklet", "the digits to be heard")
    hand.chord("7")
    listening.until_says("super+s 7: ")
    until(lambda: not desk.owner(ord("7")), "the digits to be free again")
    # A layer has all keys, those too that mean nothing in it; chords of before go on being heard by what they mean now.
    hand.chord("super+w")
    listening.until_says("layer arrange is on")
    for key, line in (
        ("left", "left: berths (Berth board) is at left 1/2"),
        ("shift+right", "shift+right: berths (Berth board) is nudged right"),
        ("u", "u: undone: nudge right 40px"),
        ("super+r", ""),
        ("m", "m: berths (Berth board) is maximised"),
    ):
        hand.chord(key)
        listening.until_says(line)
    hand.chord("escape")
    listening.until_says("no layer is on")
    hand.chord("super+7")
    listening.until_says("super+7: ")
    assert re.search(r"super\+7: .*2 of 2 windows", listening.says()), listening.says()
    # A second window of an app, and on to the other one; a macro; an event that it brings about.
    second = subprocess.Popen(
        [str(desk.office.folder / "bin/berth-board"), "--title", "Berths of tomorrow"], env=desk.office.env
    )
    until(lambda: "3 windows" in desk.office.jaklet("desk").stdout, "the second window")
    hand.chord("super+r")
    listening.until_says("super+r: radio (Radio log) is in front")
    hand.chord("super+b")
    listening.until_says("super+b: berths (Berths of tomorrow) is in front")
    hand.chord("super+b")
    listening.until_says("super+b: berths (Berth board) is in front", 2)
    second.kill()
    second.wait()
    until(lambda: "2 windows" in desk.office.jaklet("desk").stdout, "the second window to go")
    hand.chord("super+x")
    listening.until_says("super+x: beside is done: 2 steps")
    listening.until_says("A letter is begun")
    hand.chord("super+b")
    listening.until_says("super+b: berths (Berth board) is in front", 3)
    # A reload changes what has changed.
    desk.office.edit("  super+b: go berths\n", "  super+y: go berths\n")
    assert "listening" not in desk.office.jaklet("reload").stdout
    assert (desk.owner(SUPER | ord("B")), desk.owner(SUPER | ord("Y"))) == ("", "jaklet")
    hand.chord("super+y")
    listening.until_says("super+y: berths (Berth board) is in front already")
    assert listening.stop() == 0
    assert not desk.owner(SUPER | ord("Y"))
    assert not desk.owner(SUPER | ord("W"))


def test_what_is_chosen_over_the_windows(plasma: Plasma, tmp_path: Path) -> None:
    """By letters, or by a modifier that is let go of, however soon. Keys are the program's again afterwards."""
    config = """
apps:
  board: {launch: berth-board, window: {class: BerthBoard}}
  radio: {launch: radio-log, window: {class: RadioLog}}
  terminal: {launch: xterm, window: {class: XTerm}}
bindings:
  super+b: go board
  super+f8: pick
  super+y: focus by letter
  super+j: pick windows while held
"""
    desk = Desk(plasma, tmp_path, config)
    try:
        listening, hand = desk.listen(), desk.hand
        desk.open_terminal()
        hand.chord("super+b")
        listening.until_says("super+b: board (Berth board) is launched and in front")
        for times, front in ((1, "terminal"), (2, "board")):
            for key in ("super", "j"):
                hand.key(key, True)
            if times == 1:
                listening.until_says("super+j: ")
            for key in ("j", "super"):
                hand.key(key, False)
            until(lambda: desk.front() == front, f"{front} in front, as it was used before")  # noqa: B023
        hand.chord("super+f8")
        listening.until_says("super+f8: the finder is shown")
        until(desk.has_keyboard, "all keys to be ours")
        for key in ("r", "a", "d", "return"):
            hand.chord(key)
        listening.until_says("radio (Radio log) is launched and in front")
        hand.chord("super+y")
        listening.until_says("super+y: windows have letters")
        until(desk.has_keyboard, "all keys to be ours")
        hand.chord("escape")
        until(lambda: not desk.has_keyboard(), "the keys to be the programs' again")
        desk.office.jaklet("act", "focus terminal")
        hand.chord("k")
        desk.typed("k")
    finally:
        desk.close()


@pytest.mark.parametrize("seed", [1, pytest.param(2, marks=pytest.mark.slow), pytest.param(3, marks=pytest.mark.slow)])
def test_clicks_in_cards_leave_the_keyboard(seed: int, plasma: Plasma, tmp_path: Path) -> None:
    """A click makes KWin give the keyboard to what was clicked: the card still gets its keys, and the next one too."""
    config = """
apps:
  terminal: {launch: xterm, window: {class: XTerm}}
bindings:
  super+y: place by grid 3x3
  super+f8: pick
  super+f: focus by letter
  super+k: show keys
  super+h: tell hello
  super+t: go terminal
"""
    desk = Desk(plasma, tmp_path, config)
    try:
        listening, hand = desk.listen(), desk.hand
        desk.open_terminal()

        def is_well(done: str) -> None:
            before = listening.says().count("hello")
            until(lambda: not desk.has_keyboard(), f"the keyboard to be free after {done}", 5)
            hand.chord("super+h")
            until(lambda: listening.says().count("hello") > before, f"a chord to work after {done}", 5)

        def settle() -> None:
            """Let KWin and the listener take in what was done: some milliseconds, less than a finger needs."""
            hand.sync()
            for _ in range(3):
                desk.has_keyboard()

        def chord(text: str) -> None:
            hand.chord(text)
            settle()

        def click(x: int, y: int) -> None:
            hand.click(x, y)
            settle()

        def drag(x: int, y: int, to_x: int, to_y: int) -> None:
            hand.drag(x, y, to_x, to_y)
            settle()

        for opens in ("super+y", "super+f8"):
            for _ in range(3):
                hand.chord(opens)
                until(desk.has_keyboard, "a card", 5)
                click(960, 540)
                hand.chord("escape")
                is_well(opens)
        cards, escapes = ("super+y", "super+f8", "super+f", "super+k"), ("escape", "super+escape", "ctrl+escape")
        person = Person(chord, click, drag, cards, escapes, "asdfgh", is_well)
        play(person, seed, 25)
        assert "does not give the keyboard away" not in listening.says()
        assert "a fault in Jaklet itself" not in listening.says()
        hand.chord("super+t")
        until(lambda: desk.front() == "terminal", "the terminal")
        before = desk.notes.read_text()
        hand.chord("q")
        until(lambda: desk.notes.read_text() == f"{before}q", "a letter to be the program's", 5)
    finally:
        desk.close()


def test_a_key_of_another_scope_is_the_programs(plasma: Plasma, tmp_path: Path) -> None:
    config = """
apps:
  board: {launch: berth-board, window: {class: BerthBoard}}
  terminal: {launch: xterm, window: {class: XTerm}}
bindings:
  f2: go board
  f3: go terminal
  ctrl+g: {do: "tell 'a ship'", only in: board}
  f7: {do: "tell 'no ship'", not in: board}
"""
    desk = Desk(plasma, tmp_path, config)
    try:
        listening, hand = desk.listen(), desk.hand
        desk.open_terminal()
        hand.chord("ctrl+g")
        desk.typed("\x07")
        hand.chord("f7")
        listening.until_says("no ship")
        hand.chord("f2")
        listening.until_says("f2: board (Berth board) is launched and in front")
        until(lambda: desk.owner(0x04000000 | ord("G")) == "jaklet", "the chord to be heard")
        assert not desk.owner(0x01000036), "a chord that means nothing here is nobody's"
        hand.chord("ctrl+g")
        listening.until_says("a ship")
        hand.chord("f3")
        listening.until_says("f3: terminal")
        until(lambda: not desk.owner(0x04000000 | ord("G")), "the chord to be free")
        hand.chord("ctrl+g")
        desk.typed("\x07\x07")
    finally:
        desk.close()


def test_nothing_stays_swallowed_after_a_violent_end(desk: Desk) -> None:
    """The script gives chords back by itself; what even it could not, the next listener does."""
    listening = desk.listen()
    assert desk.owner(SUPER | ord("B")) == "jaklet"
    listening.stop(signal.SIGKILL)
    until(lambda: not desk.owner(SUPER | ord("B")), "the chords to be given back", 10)
    # Both at once: a listener that begins right after the other was killed keeps its chords.
    desk.listen().stop(signal.SIGKILL)
    listening = desk.listen()
    assert desk.owner(SUPER | ord("B")) == "jaklet"
    desk.hand.chord("super+b")
    listening.until_says("super+b: berths (Berth board) is launched and in front")
    folder = Path(desk.office.env["XDG_RUNTIME_DIR"], "jaklet")
    assert (folder / "hears").exists()
    listening.stop()
    assert not (folder / "hears").exists()


def test_who_wants_the_whole_keyboard_leaves_a_listener_alone(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    """As `practise` does, which may run beside one."""
    listening = desk.listen()
    for name, value in desk.plasma.env.items():
        monkeypatch.setenv(name, value)
    other = on_plasma.connect()
    assert not other.chords.grab(HearableKeys(every=True, typed=True))
    for key in ("b", "shift+4"):
        desk.hand.chord(key)
    heard: list[str] = []

    def letters() -> list[str]:
        other.wait(other.look().now + 0.1)
        heard.extend(one.typed.text for one in other.chords.key_events() if one.typed and one.typed.text)
        return heard

    until(lambda: letters() == ["b", "$"], f"the letters: {heard}")
    other.chords.grab(NOTHING)
    other.close()
    assert desk.owner(SUPER | ord("B")) == "jaklet"
    desk.hand.chord("super+b")
    listening.until_says("super+b: berths (Berth board) is launched and in front")


def test_a_key_is_heard_that_comes_while_others_are_asked_for(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    for name, value in desk.plasma.env.items():
        monkeypatch.setenv(name, value)
    send = Bus.send
    pressed: list[str] = []

    def send_and_press(bus: Bus, message: Message, serial: int | None = None) -> None:
        send(bus, message, serial)
        if member_of(message) == "setShortcut" and not pressed:
            until(lambda: desk.owner(SUPER | ord("B")) == "jaklet", "the first chord")
            pressed.append("super+b")
            desk.hand.chord("super+b")
            desk.hand.sync()

    monkeypatch.setattr(Bus, "send", send_and_press)
    other = on_plasma.connect()
    first, second = parse_chord("super+b"), parse_chord("super+y")
    assert not other.chords.grab(HearableKeys(chords=frozenset({first, second})))
    heard: list[KeyEvent] = []

    def presses() -> list[Chord | None]:
        other.wait(other.look().now + 0.1)
        heard.extend(other.chords.key_events())
        return [one.chord for one in heard if one.edge is KeyEdge.PRESS]

    until(lambda: presses() == [first], "the key")
    other.close()


@pytest.mark.slow
def test_three_hundred_chords(plasma: Plasma, tmp_path: Path) -> None:
    hears_three_hundred(Desk(plasma, tmp_path, CONFIG_OF_THREE_HUNDRED))


def test_keys_are_pressed_where_that_is_granted(tmp_path: Path) -> None:
    """Without a grant it is said beforehand. What doctor prints is done as it stands, and KWin goes by it.

    The hand that pressed the chord is waited for; the text arrives whole.
    """
    needed("kbuildsycoca6" if shutil.which("kbuildsycoca6") else "kbuildsycoca5")
    config = """
apps:
  terminal: {launch: xterm, window: {class: XTerm}}
bindings:
  super+y: type "Low water 04:12, 0.7 m?"
  super+u: press ctrl+k shift+w
  super+w: enter talk
layers:
  talk: {stays: true, bindings: {t: type "ship"}}
"""
    with session(tmp_path / "session", strict=True) as plasma:
        with pytest.raises(AssertionError, match="lets nobody press keys"):
            Hand(f"{plasma.env['XDG_RUNTIME_DIR']}/{plasma.env['WAYLAND_DISPLAY']}")
        office = Office(tmp_path / "asking", installed=True)
        office.env |= plasma.env | {"JAKLET_DESK": "plasma"}
        del office.env["XDG_DATA_HOME"], office.env["XDG_DATA_DIRS"]  # as the compositor has none
        office.config.write_text(config)
        told = office.jaklet("check", status=None).stdout
        assert "JK701" in told
        assert "this desktop cannot press keys for programs" in told
        told = office.jaklet("doctor", status=None).stdout
        lines = re.search(r"entry:\n((?:    .*\n)*)", told)
        assert lines is not None, told
        commands = re.sub("^    ", "", lines[1], flags=re.MULTILINE)
        subprocess.run(["sh", "-e", "-c", commands], env=office.env, check=True, capture_output=True)
        assert "is granted, by" in office.jaklet("doctor", status=None).stdout

        let_since: list[float] = []

        def hand_is_let() -> bool:
            """Return whether KWin has let every hand press keys for some time: while it reads entries anew, some are let."""
            try:
                Hand(f"{plasma.env['XDG_RUNTIME_DIR']}/{plasma.env['WAYLAND_DISPLAY']}").close()
            except AssertionError:  # KWin 6 looks for other entries every 1.5 s at most, and when it is told of some
                let_since.clear()
                subprocess.run(["sh", "-e", "-c", commands], env=office.env, check=True, capture_output=True)
                return False
            let_since.append(time.monotonic())
            return let_since[-1] - let_since[0] > 2

        until(hand_is_let, "KWin to let keys be pressed")
        desk = Desk(plasma, tmp_path, config)
        del desk.office.env["XDG_DATA_HOME"]
        listening, hand = desk.listen(), desk.hand
        desk.open_terminal()
        for key in ("super", "u"):
            hand.key(key, True)
        hand.key("u", False)
        until(desk.has_keyboard, "the keyboard to be ours until the hand is gone")
        desk.typed("")
        hand.key("super", False)
        desk.typed("\x0bW")
        hand.chord("super+w")
        listening.until_says("layer talk is on")
        for times in (1, 2):
            until(desk.has_keyboard, "the layer to have the keyboard")
            hand.chord("t")
            desk.typed("\x0bW" + times * "ship")
        until(desk.has_keyboard, "the layer to have the keyboard again")
        hand.chord("escape")
        listening.until_says("no layer is on")
        hand.chord("super+y")
        desk.typed("\x0bWshipshipLow water 04:12, 0.7 m?")
        listening.until_says("super+y: ")
        desk.close()
        subprocess.run(["sh", "-e", "-c", told_back(office)], env=office.env, check=True, capture_output=True)
        until(lambda: not hand_is_let(), "KWin to let nobody press keys again")


def told_back(office: Office) -> str:
    """Return the command by which doctor says that a grant is taken back."""
    found = re.search(r"to take it back: (.*)", office.jaklet("doctor", status=None).stdout)
    assert found is not None
    return found[1]


def test_a_chord_of_the_desktop_is_lent_by_name_and_given_back(desk: Desk) -> None:
    """However the listener ends; and no other chord is touched."""
    left, up, action = SUPER | 0x01000012, SUPER | 0x01000013, "Window Quick Tile Left"
    office = desk.office
    told = office.jaklet("check", "--live", status=None).stdout
    assert "settings: {take over: [super+left]}" in told
    office.edit("settings:\n", "settings:\n  take over: super+left\n")
    assert "super+left cannot be had" not in office.jaklet("check", "--live", status=None).stdout
    listening = desk.listen()
    assert "super+left cannot" not in listening.says()
    assert "super+up cannot be used: KWin" in listening.says()
    assert (desk.owner(left), desk.owner(up)) == ("jaklet", "kwin")
    desk.hand.chord("super+b")
    listening.until_says("launched and in front")
    desk.hand.chord("super+left")
    listening.until_says("super+left: berths (Berth board) is at left 2/3")
    listening.stop()
    assert desk.ask("action", "i", signed_number(left))[:2] == ["kwin", action]
    desk.listen().stop(signal.SIGKILL)
    until(lambda: desk.owner(left) != "jaklet", "our chords to be given back", 10)
    until(lambda: desk.owner(left) == "kwin", "what was lent to be given back too", 10)
    assert desk.ask("action", "i", signed_number(left))[:2] == ["kwin", action]
    assert "lacks its shortcut" not in office.jaklet("status", status=3).stderr
    # Where nothing could be given back, it is said what is left.
    lent = office.folder.parent / "state" / "jaklet" / "plasma-lent.json"
    lent.write_text(json.dumps([[left, ["kwin", action, "KWin", action], []]]))
    for words in (("status",), ("doctor",)):
        done = office.jaklet(*words, status=None)
        assert f"KWin lacks its shortcut for {action}" in done.stdout + done.stderr
    assert "given back to KWin" in office.jaklet("stop").stdout
    assert "no listener" in office.jaklet("stop", status=1).stderr
    # A reload that names it no more gives it back.
    listening = desk.listen()
    office.edit("  take over: super+left\n", "")
    office.jaklet("reload")
    assert desk.owner(left) == "kwin"


def end_compositor(folder: Path) -> None:
    """End the compositor of a session in a folder by a signal; what started it starts it anew."""
    kwin = subprocess.run(["pgrep", "-f", str(folder / "session/kwin_wayland")], capture_output=True, text=True)
    for process in kwin.stdout.split():
        with contextlib.suppress(OSError):
            if Path(f"/proc/{process}/comm").read_text().startswith("kwin"):
                os.kill(int(process), signal.SIGKILL)


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(3))
def test_it_goes_on_when_the_compositor_ends_again_and_again(tmp_path: Path, seed: int) -> None:
    """At any moment: while it begins, is asked for keys, has a layer of ours on, or is read."""
    needed()
    by_chance = random.Random(seed)
    with session(tmp_path / "session", compositing="O2", again=True) as plasma:
        desk = Desk(plasma, tmp_path)
        desk.office.edit("super+w: enter arrange", "super+y: enter arrange")
        listening = desk.listen()
        desk.hand.close()
        address = f"{plasma.env['XDG_RUNTIME_DIR']}/{plasma.env['WAYLAND_DISPLAY']}"

        def begun() -> int:
            return listening.says().count("has begun anew")

        def end_and_await() -> None:
            before = begun()
            end_compositor(tmp_path)
            until(lambda: begun() > before or listening.process.poll() is not None, "another compositor", 60)
            assert listening.process.poll() is None, listening.says()

        for _ in range(12):
            end_and_await()
            for _ in range(by_chance.choice((0, 1, 3))):
                end_compositor(tmp_path)
                time.sleep(by_chance.uniform(0, 1.5))  # as long as it has begun for when it ends again
            with contextlib.suppress(Exception):  # the compositor may not be there to press keys on
                hand = Hand(address)
                hand.chord(by_chance.choice(("super+y", "super+b", "super+3")))
                hand.close()
        end_and_await()
        until(lambda: xwayland_of(plasma.kwin.pid), "all of the compositor")
        desk.hand = Hand(address)

        def is_heard() -> bool:
            """Leave the layer and press a key; what had begun may have been the compositor before, which has ended since."""
            times = listening.says().count("super+b: berths")
            desk.hand.chord("escape")
            desk.hand.chord("super+b")
            with contextlib.suppress(AssertionError):
                return until(lambda: listening.says().count("super+b: berths") > times, "a key", 2)
            return False

        until(is_heard, "a key to be heard")
        assert "Traceback" not in listening.says()
        assert "None cannot be used" not in listening.says()
        desk.close()


def test_it_goes_on_when_the_compositor_begins_anew(tmp_path: Path) -> None:
    needed()
    with session(tmp_path / "session", compositing="O2", again=True) as plasma:
        desk = Desk(plasma, tmp_path)
        desk.office.edit("super+w: enter arrange", "super+y: enter arrange")  # KWin has that one where it draws so
        listening = desk.listen()
        bare = taken(plasma).tobytes() if takes_pictures(plasma) else None

        def arrange() -> None:
            """Turn a layer on, see what its keys are, and turn it off."""
            turns = listening.says().count("layer arrange is on") + 1
            desk.hand.chord("super+y")
            listening.until_says("layer arrange is on", turns)
            if bare:
                until(lambda: taken(plasma).tobytes() != bare, "the keys of the layer over the windows")
            desk.hand.chord("escape")
            listening.until_says("no layer is on", turns)
            if bare:
                until(lambda: taken(plasma).tobytes() == bare, "nothing over the windows")

        arrange()
        desk.hand.close()
        end_compositor(tmp_path)
        until(lambda: not desk.owner_or_none(SUPER | ord("B")), "the compositor to end")
        # Who has a chord is no sign: KWin's settings name us before we have asked.
        (heard,) = re.findall(r"listening on .*: (\d+ of 69) bindings", listening.says())
        listening.until_says(f"KWin has begun anew: {heard} bindings heard again")
        until(lambda: xwayland_of(plasma.kwin.pid), "all of the compositor")
        desk.hand = Hand(f"{plasma.env['XDG_RUNTIME_DIR']}/{plasma.env['WAYLAND_DISPLAY']}")
        arrange()
        desk.hand.chord("super+b")
        listening.until_says("super+b: berths (Berth board) is launched and in front")
        desk.hand.chord("super+y")
        listening.until_says("layer arrange is on", 3)
        desk.hand.chord("left")
        listening.until_says("left: berths (Berth board) is at left 1/2")
        assert "gone away" not in listening.says()
        desk.close()


@pytest.mark.slow
def test_outputs_go_come_back_move_and_are_scaled(tmp_path: Path) -> None:
    """Judged by what a program of Wayland is given to draw, in logical pixels."""
    needed("kscreen-doctor")
    with session(tmp_path / "session") as plasma:
        desk = Desk(plasma, tmp_path)
        listening, office = desk.listen(), desk.office
        log = tmp_path / "drawn.log"
        script = office.folder / "bin" / "berth-board"
        script.write_text(script.read_text().replace("--class", f"--log {log} --class"))

        def output(*settings: str) -> None:
            env = {**plasma.env, "QT_QPA_PLATFORM": "wayland"}
            subprocess.run(["kscreen-doctor", *settings], env=env, check=True, capture_output=True, timeout=30)

        def drawn(*size: int) -> None:
            wanted = f'"size": [{size[0]}, {size[1]}]'
            until(lambda: wanted in log.read_text().splitlines()[-1], f"{wanted}: {log.read_text()}")

        def displays(*wanted: str) -> None:
            until(lambda: re.findall(r"━ (\w+ \S+ \S+) ━", office.jaklet("desk").stdout) == [*wanted], "the displays")

        edges = edges_of(plasma.env)
        desk.hand.chord("super+b")
        listening.until_says("super+b: berths (Berth board) is launched and in front")
        office.jaklet("act", "place right 1/3 on quay")
        drawn(*edges.content(629, 1064))
        output("output.2.disable")
        displays("main Virtual-0 1920x1080")
        listening.until_says("1 window of display quay brought to main")
        output("output.2.enable")
        displays("main Virtual-0 1920x1080", "quay Virtual-1 1920x1080")
        output("output.1.scale.1.5")
        displays("main Virtual-0 1280x720", "quay Virtual-1 1920x1080")
        office.jaklet("act", "place berths left 1/2 on main")
        drawn(*edges.content(628, 704))
        office.jaklet("act", "place berths full on quay")
        drawn(*edges.content(1904, 1064))
        output("output.2.position.0,720")
        office.jaklet("act", "place berths left 1/2 on quay")
        drawn(*edges.content(948, 1064))
        told = json.loads(office.jaklet("desk", "--format", "json").stdout)
        assert told["displays"][1]["frame"] == {"x": 0, "y": 720, "width": 1920, "height": 1080}
        frame = told["windows"][0]["frame"]
        assert frame == {"x": 8, "y": 728, "width": 948, "height": 1064}
        desk.close()


@pytest.mark.slow
def test_a_storm_of_a_thousand_windows(plasma: Plasma, tmp_path: Path) -> None:
    """In bursts, where all stays arranged: at each rest they share the display to the pixel, and keys go on."""
    config = """
displays: {main: {name: Virtual-0, arranged: grid}, quay: {name: Virtual-1}}
settings: {gap: 8}
apps: {tally: {launch: berth-board, window: {class: Tally}}}
bindings: {super+y: tell "still here"}
"""
    desk = Desk(plasma, tmp_path, config)
    bursts: list[subprocess.Popen[bytes]] = []
    try:
        listening, chance, opened = desk.listen(), random.Random(7), 0
        while opened < 1000:
            count = chance.choice((1, 3, 9, 20))
            command = [sys.executable, "-m", "jaklet.demo.wayland_windows", "--class", "Tally", "--count", str(count)]
            bursts.append(subprocess.Popen([*command, "--size", "300x200"], env=desk.office.env))
            opened += count
            if len(bursts) > 2:
                for old in [bursts.pop(chance.randrange(len(bursts))) for _ in range(chance.randint(1, 2))]:
                    old.kill()
                    old.wait()
            if chance.random() < 0.2:
                until(lambda: shares(desk, len(bursts)), "all of them sharing the display")
        until(lambda: shares(desk, len(bursts)), "all of them sharing the display")
        said = listening.says().count("still here")
        desk.hand.chord("super+y")
        listening.until_says("still here", said + 1)
    finally:
        for burst in bursts:
            burst.kill()
            burst.wait()
        desk.close()


def shares(desk: Desk, bursts: int) -> bool:
    """Return whether windows share the work area of the first display: none overlaps, and they fill it but for gaps."""
    told = json.loads(desk.office.jaklet("desk", "--format", "json").stdout)
    frames = [Rect(**window["frame"]) for window in told["windows"]]
    if not frames or not bursts:
        return not bursts
    apart = all(not one.overlap(other) for at, one in enumerate(frames) for other in frames[:at])
    rows = {(one.y, one.height) for one in frames}
    edges = min(one.x for one in frames), max(one.right for one in frames), min(one.y for one in frames)
    bottom = max(one.bottom for one in frames)
    return apart and (edges, bottom) == ((8, 1912, 8), 1072) and len(rows) * len(rows) <= len(frames) * 2
