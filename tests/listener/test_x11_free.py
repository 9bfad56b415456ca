"""The keyboard is never kept from programs for longer than there is a reason: quick keys, reloads, maps, scopes."""

import subprocess
import time
from collections.abc import Iterator

import pytest
import xcffib.xproto as xp
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, rule, run_state_machine_as_test

from jaklet.listener.control_client import request
from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.listener.witness import RELEASE, Keyboardist
from tests.xserver import KEYSYMS, XServer, until

CONFIG = """\
settings: {sequence: 1s, notices: false}
apps:
  clock: {launch: tide-gauge, window: {class: TideGauge}}
  board: {launch: berth-board, window: {class: BerthBoard}}
bindings:
  super+d: {do: tell "x", only in: clock}
  super+g super+d: tell "y"
  super+e: {do: tell "e", not in: clock}
  super+w: enter arrange
  super+v: enter passing
  super+f: {do: tell "up", on release: true}
  super+r: {do: tell "r", repeat: true}
  super+c: focus clock
  super+b: focus board
layers:
  arrange: {stays: true, ends after: 2s, bindings: {a: tell "a", b: {do: tell "b", only in: clock}, escape: leave}}
  passing: {ends after: 2s, other keys: leave and pass on, bindings: {a: tell "pa", c: {do: tell "pc", only in: clock}}}
"""
OTHER = CONFIG.replace('super+d: {do: tell "x", only in: clock}', 'super+d: tell "x"').replace("super+w:", "super+x:")


class Bench:
    """A listener, a terminal that witnesses what reaches programs, and two programs for scopes."""

    def __init__(self, x: XServer, office: Office) -> None:
        self.x, self.office = x, office
        office.config.write_text(CONFIG)
        self.hand = Keyboardist(x, office.folder / "typed", {"super", "shift", "escape", *"abcdefgrvwx"})
        x.open("TideGauge")
        x.open("BerthBoard")
        self.listening = Listening(office)
        (self.socket,) = (office.folder / "run" / "jaklet").glob("*.sock")
        self.windows = {cls: x.of_class(cls)[0] for cls in ("XTerm", "TideGauge", "BerthBoard")}

    def tap(self, *names: str) -> None:
        self.hand.tap(*names)

    def activate(self, cls: str) -> None:
        """Give a window the focus as another program does, without Jaklet."""
        self.hand.focus(int(self.windows[cls], 16))

    def comes_to_rest(self) -> None:
        """Once nothing is pressed and layers have ended, every key reaches the program in front, as if we were not there."""
        for code in self.hand.keys_down():
            self.hand.fake(RELEASE, code, 0, 0, 0, 0, 0)
        self.hand.connection.flush()
        until(lambda: not request(self.socket, "status")["layer"], "the end of layers")
        until(lambda: not request(self.socket, "status")["under_way"], "the end of what the keys have begun")
        until(self.hand.is_free, "a free keyboard")
        until(lambda: not request(self.socket, "status")["keyboard"], "no reason to hold it")
        assert self.hand.keys_down() == []
        self.x.run("setxkbmap", "-layout", "us")
        self.activate("XTerm")
        until(lambda: self.x.active() == "XTerm", "the terminal in front")
        self.hand.reaches_the_terminal("g")
        assert self.listening.process.poll() is None
        assert "Traceback" not in self.listening.says()

    def end(self) -> None:
        self.x.run("setxkbmap", "-layout", "us")
        assert self.listening.stop() == 0
        self.hand.connection.disconnect()


@pytest.fixture
def bench(x: XServer, x_office: Office) -> Iterator[Bench]:
    one = Bench(x, x_office)
    yield one
    one.end()


def test_keys_of_a_sequence_without_a_pause_leave_the_keyboard_free(bench: Bench) -> None:
    """The second key is grabbed frozen when it goes down, and is not so any more when it is read."""
    for i in range(15):
        bench.activate("XTerm")
        for kind, name in ((2, "super"), (2, "g"), (2, "d"), (3, "d"), (3, "g"), (3, "super")):
            bench.hand.send(kind, name)
        bench.hand.connection.flush()
        for kind, name in ((2, "super"), (2, "g"), (3, "g"), (2, "d"), (3, "d"), (3, "super")):
            bench.hand.send(kind, name)
        bench.hand.connection.flush()
        until(lambda: bench.listening.says().splitlines().count("y") == 2 * i + 2, "the sequence, twice")  # noqa: B023
        bench.comes_to_rest()


def test_who_takes_a_modifier_after_a_login_is_told_of_and_keeps_it(bench: Bench) -> None:
    """A window manager may come after us. It gets the key, also when it takes it anew each time the keyboard changes."""
    other = bench.x.connect()
    core, root, code = other.core, other.setup.roots[0].root, bench.x.keycode(KEYSYMS["super"])

    def grab() -> bool:
        core.UngrabKey(code, root, xp.ModMask.Any)
        try:
            core.GrabKeyChecked(False, root, xp.ModMask.Any, code, 1, 1).check()
        except xp.AccessError:
            return False
        return True

    assert grab()
    assert "holds the Super key by itself" in bench.listening.until_says("so that no chord with super is heard")
    for _ in range(20):
        bench.x.run("setxkbmap", "-layout", "us")  # the map as it was, which the server tells of all the same
        bench.x.press("g")
        assert grab()
    other.disconnect()
    bench.x.run("setxkbmap", "-layout", "fr")
    bench.x.run("setxkbmap", "-layout", "us")
    bench.listening.until_says("can be used now")
    bench.tap("super", "e")
    bench.listening.until_says("\ne\n")


@pytest.mark.parametrize("times", [13, pytest.param(39, marks=pytest.mark.slow)])
def test_a_key_that_comes_while_the_keyboard_is_read_is_not_left_lying(bench: Bench, times: int) -> None:
    """What comes beside an answer of the server is inside the library by then, where no descriptor tells of it."""
    for number in range(1, times + 1):
        command = ["sh", "-c", "for i in 1 2 3 4 5; do setxkbmap -layout us; done"]
        maps = subprocess.Popen(command, env=bench.x.env)
        time.sleep(0.04 * number / times)  # somewhere in the midst of it
        bench.tap("super", "e")
        maps.wait()
        until(lambda number=number: bench.listening.says().splitlines().count("e") == number, f"key {number}", 5)  # type: ignore[misc]


def test_a_map_that_changes_is_told_of_in_the_status(bench: Bench) -> None:
    """And so is that it changes back."""
    bench.x.run("setxkbmap", "-layout", "gr")
    until(lambda: "super+a" not in request(bench.socket, "status")["chords"], "the other map")
    told = request(bench.socket, "status")["refused"]
    assert told["super+b"] == "this keyboard has no such key"
    assert "this keyboard has no such key" in bench.office.jaklet("status", status=1).stdout
    bench.x.run("setxkbmap", "-layout", "us")
    until(lambda: not request(bench.socket, "status")["refused"], "nothing refused any more")
    bench.comes_to_rest()


class Hands(RuleBasedStateMachine):
    """A hand that presses anything, a user who reloads and switches, and programs that take the focus."""

    bench: Bench

    @initialize()
    def begin(self) -> None:
        self.reloads = 0

    @rule(
        keys=st.sampled_from(
            [
                ("super", "d"),
                ("super", "g", "d"),
                ("super", "e"),
                ("super", "w"),
                ("super", "v"),
                ("super", "f"),
                ("super", "c"),
                ("super", "b"),
                ("a",),
                ("b",),
                ("c",),
                ("escape",),
                ("shift", "a"),
            ]
        )
    )
    def tap(self, keys: tuple[str, ...]) -> None:
        self.bench.tap(*keys)

    @rule(name=st.sampled_from(["super", "shift", "d", "e", "w", "r", "a", "g"]), kind=st.sampled_from([2, 3]))
    def move_a_key(self, name: str, kind: int) -> None:
        self.bench.hand.send(kind, name)
        self.bench.hand.connection.flush()

    @rule(cls=st.sampled_from(["XTerm", "TideGauge", "BerthBoard"]))
    def take_the_focus(self, cls: str) -> None:
        self.bench.activate(cls)

    @rule(text=st.sampled_from([CONFIG, OTHER]))
    def reload(self, text: str) -> None:
        self.bench.office.config.write_text(text)
        self.bench.listening.process.send_signal(1)

    @rule(layout=st.sampled_from(["us", "fr", "de"]))
    def switch(self, layout: str) -> None:
        subprocess.Popen(["setxkbmap", "-layout", layout], env=self.bench.x.env).wait()

    @rule(seconds=st.sampled_from([0.001, 0.01, 0.05, 0.125]))
    def rest(self, seconds: float) -> None:
        time.sleep(seconds)  # as hands do

    def teardown(self) -> None:
        self.bench.comes_to_rest()


@pytest.mark.parametrize("runs", [8, pytest.param(60, marks=pytest.mark.slow)])
def test_whatever_is_pressed_and_when_the_keyboard_comes_back(runs: int, bench: Bench) -> None:
    class Own(Hands):
        pass

    Own.bench = bench
    some = settings(
        max_examples=runs,
        stateful_step_count=40,
        deadline=None,
        derandomize=runs < 10,
        suppress_health_check=[*HealthCheck],
    )
    run_state_machine_as_test(Own, settings=some)
