"""What appears over the windows of a real server: real keys and clicks in, judged by the server and a terminal.

The helper can be killed, or stopped, at any moment: keys live on, and the keyboard is free.
"""

import os
import random
import signal
from collections.abc import Iterator
from pathlib import Path

import pytest
import xcffib.xproto as xp

from jaklet.core.values.errors import JakletError
from jaklet.listener.control_client import request
from tests.cards_machine import Person, play
from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.listener.witness import PRESS, RELEASE, Keyboardist
from tests.xserver import KEYSYMS, XServer, until

LAYOUT = "layout: arrivals\nnumber: 1\nwindows:\n- {app: board, place: left 1/2}\n"
KEYSYMS |= {"return": 0xFF0D, "down": 0xFF54, "backspace": 0xFF08, "space": 0x20}
CONFIG = """
settings: {overlay: {hints: always, held: after 200ms}, sequence: 5s}
apps:
  board: {launch: berth-board, window: {class: BerthBoard}}
  gauge: {launch: tide-gauge, window: {class: TideGauge}}
bindings:
  super+p: pick windows
  super+k: show keys
  super+g: place by grid 2x2
  super+f: focus by letter
  super+w: enter arrange
  super+b: go board
  super+n: recall nothing
  super+t: pick windows while held
  super+a: place board left 1/2, left 1/3
  super+<n>: recall <n>
layers:
  arrange: {stays: true, bindings: {b: go board, g: go gauge}}
"""


class Bench:
    """A listener, a terminal that tells what reaches programs, and two windows."""

    def __init__(self, x: XServer, office: Office) -> None:
        self.x, self.office = x, office
        office.config.write_text(CONFIG)
        self.typed = office.folder / "typed"
        self.hand = Keyboardist(x, self.typed, {"super", "shift", "escape", "return", "down", *"abdefgkpntw"})
        x.open("TideGauge")
        x.open("BerthBoard")
        self.listening = Listening(office)
        self.root = x.connect()

    def panels(self) -> list[tuple[int, int, int, int]]:
        """Return where panels are shown, by the server: windows of our own that no manager touches."""
        core, root = self.root.core, self.root.setup.roots[0].root
        found = []
        for wid in core.QueryTree(root).reply().children:
            try:
                cls = core.GetProperty(False, wid, xp.Atom.WM_CLASS, xp.Atom.STRING, 0, 64).reply().value.buf()
                state, place = core.GetWindowAttributes(wid).reply(), core.GetGeometry(wid).reply()
            except (xp.WindowError, xp.DrawableError):
                continue
            if cls.startswith(b"jaklet\0") and state.map_state == xp.MapState.Viewable:
                assert state.override_redirect
                found.append((place.x, place.y, place.width, place.height))
        return found

    def shown(self, what: str) -> list[tuple[int, int, int, int]]:
        return until(self.panels, f"{what}: {self.listening.says()}")

    def gone(self) -> None:
        until(lambda: not self.panels(), "nothing over the windows")

    def front(self, cls: str, what: str = "") -> None:
        until(lambda: self.x.active() == cls, f"{cls} in front {what}: {self.x.active()}; {self.listening.says()}")

    def helpers(self) -> list[int]:
        """Return the processes of helpers of this listener."""
        found = []
        for entry in Path("/proc").iterdir():
            try:
                words = (entry / "cmdline").read_bytes().split(b"\0") if entry.name.isdigit() else []
            except OSError:
                continue
            if b"overlay" in words and any(str(self.office.folder).encode() in word for word in words):
                found.append(int(entry.name))
        return found

    def click(self, x: int, y: int) -> None:
        fake = self.hand.fake
        self.root.core.WarpPointer(0, self.root.setup.roots[0].root, 0, 0, 0, 0, x, y)
        self.root.core.GetInputFocus().reply()
        for kind in (4, 5):  # ButtonPress, ButtonRelease
            fake(kind, 1, 0, 0, 0, 0, 0)
        self.hand.connection.flush()

    def is_free(self) -> None:
        until(self.hand.is_free, f"a free keyboard: {self.listening.says()}")


@pytest.fixture
def bench(x: XServer, x_office: Office) -> Iterator[Bench]:
    one = Bench(x, x_office)
    yield one
    print(one.listening.says())
    assert one.listening.stop() == 0
    until(lambda: not one.helpers(), "the helper to end with its listener")
    one.root.disconnect()
    one.hand.connection.disconnect()


def test_the_finder_is_typed_into_from_the_first_moment(bench: Bench) -> None:
    """Also while the helper is not there yet: no letter goes to the program, and none is lost."""
    bench.hand.focus(bench.hand.terminal)
    bench.front("XTerm")
    bench.hand.tap("super", "p")
    for key in ("g", "a", "return"):
        bench.hand.tap(key)
    bench.front("TideGauge", "by letters of its title")
    bench.gone()
    bench.is_free()
    bench.hand.tap("super", "p")  # the former window is the first
    bench.shown("the finder")
    bench.hand.tap("return")
    bench.front("XTerm", "the former window")
    bench.hand.reaches_the_terminal("k")
    assert bench.typed.read_text() == "k"
    bench.hand.tap("super", "p")
    bench.shown("the finder")
    assert bench.x.active() == "XTerm"  # it takes no focus
    bench.hand.tap("escape")
    bench.gone()
    assert bench.x.active() == "XTerm"


def test_what_is_typed_right_behind_the_key_that_closes_goes_to_the_program(bench: Bench) -> None:
    """Each key waits until the one before it is dealt with, so that none is typed into a card that is as good as gone."""
    bench.hand.focus(bench.hand.terminal)
    bench.front("XTerm")
    for turn in range(1, 9):
        bench.hand.tap("super", "p")
        for key in ("a", "escape", "d", "e"):
            bench.hand.tap(key)
        until(lambda turn=turn: bench.typed.read_text() == "de" * turn, "what is typed")  # type: ignore[misc]
        bench.gone()
    bench.is_free()


def test_a_walk_ends_where_the_modifier_is_let_go_of(bench: Bench) -> None:
    hand = bench.hand
    hand.focus(hand.terminal)
    bench.front("XTerm")
    hand.tap("super", "t")  # at once: the former window
    bench.front("BerthBoard", "the former window")
    bench.gone()
    hand.tap("super", "t")
    bench.front("XTerm", "to and fro")
    hand.send(PRESS, "super")
    hand.tap("t")
    bench.shown("a walk")
    hand.tap("t")
    hand.tap("t")
    hand.tap("shift", "t")
    assert bench.x.active() == "XTerm"
    hand.send(RELEASE, "super")
    hand.tap("k")
    bench.front("TideGauge", "two on, and one back")
    bench.gone()
    bench.is_free()
    hand.focus(hand.terminal)
    bench.front("XTerm")
    hand.send(PRESS, "super")
    hand.tap("t")
    hand.tap("escape")
    hand.send(RELEASE, "super")
    hand.reaches_the_terminal("k")
    bench.gone()
    assert hand.keys_down() == []


def test_super_that_is_held_shows_the_layouts_and_takes_no_key(bench: Bench) -> None:
    folder = bench.office.config.parent / "layouts"
    folder.mkdir(exist_ok=True)
    (folder / "arrivals.yaml").write_text(LAYOUT)
    hand = bench.hand
    hand.focus(hand.terminal)
    bench.front("XTerm")
    hand.send(PRESS, "super")
    hand.connection.flush()
    bench.shown("the layouts")
    assert bench.x.active() == "XTerm"
    hand.send(RELEASE, "super")
    hand.reaches_the_terminal("k")
    bench.gone()
    hand.send(PRESS, "super")
    hand.connection.flush()
    bench.shown("the layouts again")
    hand.tap("b")
    bench.front("BerthBoard", "a key while they are shown")
    bench.gone()
    hand.send(RELEASE, "super")
    hand.connection.flush()
    bench.is_free()


def test_a_walk_through_alternatives_is_seen_from_its_second_step(bench: Bench) -> None:
    for wide in (960, 640):
        bench.hand.tap("super", "a")
        until(lambda wide=wide: abs(bench.x.frame("BerthBoard")[2] - wide) < 20, f"{wide} wide")  # type: ignore[misc]
    until(lambda: len(bench.panels()) == 5, "an outline and a card")
    bench.gone()


def test_nobody_else_is_told_of_keys(bench: Bench) -> None:
    bench.hand.tap("super", "p")
    bench.shown("the finder")
    (socket,) = (bench.office.folder / "run" / "jaklet").glob("*.sock")
    with pytest.raises(JakletError, match="no helper is waited for"):
        request(socket, "overlay")
    bench.hand.tap("escape")
    bench.gone()


def test_cards_are_chosen_from_by_mouse_letter_and_cell(bench: Bench) -> None:
    bench.hand.tap("super", "f")
    until(lambda: len(bench.panels()) == 3, "a letter on each window")
    bench.hand.tap("escape")
    bench.gone()
    bench.hand.tap("super", "p")
    ((x, y, wide, high),) = bench.shown("the finder")
    bench.click(x + wide // 2, y + high // 2)
    bench.gone()
    bench.is_free()
    bench.listening.until_says("is in front")  # the keyboard is free before that
    front = bench.x.active()
    bench.hand.tap("super", "g")
    until(lambda: len(bench.panels()) > 4, "a grid")
    bench.hand.tap("a")
    bench.hand.tap("d")
    until(lambda: bench.x.frame(front)[:2] == (0, 0) and 940 < bench.x.frame(front)[2] <= 960, "the left half")
    bench.gone()
    bench.hand.tap("super", "g")
    until(lambda: len(bench.panels()) > 4, "a grid")
    bench.click(1900, 20)  # far from any letter, on whatever window is there
    bench.click(1000, 20)
    until(lambda: bench.x.frame(front)[0] >= 960 and 520 < bench.x.frame(front)[3] <= 540, "the right quarter above")
    bench.gone()
    assert bench.x.active() == front
    bench.hand.send(PRESS, "super")
    bench.hand.tap("g")
    until(lambda: len(bench.panels()) > 4, "a grid")
    bench.hand.tap("escape")  # with the modifier still held
    bench.gone()
    bench.hand.send(RELEASE, "super")
    bench.hand.connection.flush()
    bench.is_free()


@pytest.mark.parametrize("seed", [1, pytest.param(2, marks=pytest.mark.slow), pytest.param(3, marks=pytest.mark.slow)])
def test_clicks_drags_keys_and_escapes_in_any_order_leave_the_keyboard(seed: int, bench: Bench) -> None:
    def chord(text: str) -> None:
        bench.hand.tap(*text.split("+"))

    def drag(x: int, y: int, to_x: int, to_y: int) -> None:
        for at, kind in (((x, y), 4), ((to_x, to_y), 5)):
            bench.root.core.WarpPointer(0, bench.root.setup.roots[0].root, 0, 0, 0, 0, *at)
            bench.root.core.GetInputFocus().reply()
            bench.hand.fake(kind, 1, 0, 0, 0, 0, 0)
            bench.hand.connection.flush()

    def is_well(done: str) -> None:
        until(lambda: not bench.panels(), f"no card after {done}", 5)
        until(bench.hand.is_free, f"a free keyboard after {done}", 20)
        until(lambda: not bench.x.can_grab("super+b"), f"chords that are heard after {done}", 5)

    opens = ("super+p", "super+k", "super+g", "super+f")
    play(Person(chord, bench.click, drag, opens, ("escape", "super+escape"), "abdefgkn", is_well), seed, 25)
    assert "a fault in Jaklet itself" not in bench.listening.says()


def test_hints_stand_while_a_layer_is_on_and_what_fails_is_said(bench: Bench) -> None:
    bench.hand.tap("super", "w")
    bench.listening.until_says("layer arrange is on")
    ((x, y, wide, high),) = bench.shown("hints")
    before = bench.x.active()
    bench.click(x + wide // 2, y + high // 2)  # it goes to what is under it
    bench.hand.tap("g")
    bench.front("TideGauge", "a key of the layer")
    bench.hand.tap("escape")
    bench.gone()
    assert before
    bench.hand.tap("super", "n")
    bench.listening.until_says("no layout is called 'nothing'")
    bench.shown("what went wrong")
    bench.is_free()


def test_over_a_fullscreen_window_and_one_kept_above(bench: Bench) -> None:
    for sentence in ("fullscreen gauge", "keep board above"):
        bench.office.jaklet("act", sentence)
    bench.hand.tap("super", "k")
    ((x, y, wide, high),) = bench.shown("the keys")
    core, root = bench.root.core, bench.root.setup.roots[0].root
    children = list(core.QueryTree(root).reply().children)
    at = core.TranslateCoordinates(root, root, x + wide // 2, y + high // 2).reply().child
    seen = core.GetProperty(False, at, xp.Atom.WM_CLASS, xp.Atom.STRING, 0, 64).reply().value.buf()
    assert seen.startswith(b"jaklet\0"), children
    bench.hand.tap("escape")
    bench.gone()


@pytest.mark.parametrize("number", [signal.SIGKILL, signal.SIGSTOP], ids=["killed", "stopped"])
def test_the_helper_is_lost_at_any_moment(number: signal.Signals, bench: Bench) -> None:
    """Keys live on, the keyboard is free, and the next thing is shown by another one."""
    chance = random.Random(3)
    bench.hand.tap("super", "p")
    bench.shown("the finder")
    for _ in range(2 if number == signal.SIGSTOP else 4):  # who does not answer is given two seconds
        (helper,) = bench.helpers()
        for key in "gau"[: chance.randrange(3)]:
            bench.hand.tap(key) if key in bench.hand.codes else None
        os.kill(helper, number)
        if number == signal.SIGSTOP:
            bench.hand.tap("a")  # a key that nobody answers
        until(lambda helper=helper: helper not in bench.helpers(), "the helper to be given up")  # type: ignore[misc]
        bench.is_free()
        bench.hand.tap("super", "b")
        bench.front("BerthBoard", "a key that goes on")
        bench.hand.tap("super", "p")
        bench.shown("the finder, by another helper")
    bench.hand.tap("escape")
    bench.gone()
    bench.is_free()
    assert "the helper that shows it" in bench.listening.says()


@pytest.mark.parametrize("number", [signal.SIGKILL, signal.SIGSTOP], ids=["killed", "stopped"])
def test_the_helper_is_lost_while_it_starts(number: signal.Signals, bench: Bench) -> None:
    """The keyboard is free at once, and not after the time that a helper may take to begin."""
    for _ in range(6):
        for helper in bench.helpers():
            os.kill(helper, signal.SIGKILL)
        until(lambda: not bench.helpers(), "no helper")
        bench.hand.tap("super", "p")
        (helper,) = until(bench.helpers, "a helper that starts")
        os.kill(helper, number)
        until(bench.hand.is_free, f"a free keyboard: {bench.listening.says()}", 2)  # 5 s is what a helper may take
        bench.hand.tap("super", "b")
        bench.front("BerthBoard", "a key that goes on")
        bench.gone()
    assert "the helper that shows it" in bench.listening.says()


def test_the_notice_of_an_error_in_the_config_is_shown(bench: Bench) -> None:
    """Though the helper begins when the config on disk has that error: it goes by what the listener goes by."""
    for helper in bench.helpers():
        os.kill(helper, signal.SIGKILL)
    until(lambda: not bench.helpers(), "no helper")
    bench.office.edit("super+b: go board", "super+b: go nowhere")
    assert "no app is called 'nowhere'" in bench.office.jaklet("reload", status=1).stderr
    bench.hand.tap("super", "p")
    bench.shown("the finder")
    bench.hand.tap("escape")
    bench.gone()
    bench.office.jaklet("reload", status=1)
    bench.shown("the notice of the error")
    assert "the helper that shows it" not in bench.listening.says()


@pytest.mark.parametrize("openings", [12, pytest.param(500, marks=pytest.mark.slow)])
def test_windows_open_and_close_meanwhile(bench: Bench, openings: int) -> None:
    """However often: the keyboard is free each time, and the helper does not grow."""
    sizes = []
    for turn in range(openings):
        bench.hand.tap("super", "p")
        bench.shown("the finder")
        if turn % 3 == 0:
            bench.x.open("Guest")
        if turn % 3 == 1:
            bench.x.kill(bench.x.of_class("Guest")[0])
        bench.hand.tap("escape")
        bench.gone()
        bench.is_free()
        (helper,) = bench.helpers()
        pages = int(Path(f"/proc/{helper}/statm").read_text().split()[1])
        sizes.append(pages * 4 // 1024)
    assert sizes[-1] < 60, sizes
    assert sizes[-1] - sizes[len(sizes) // 3] < 6, sizes
    bench.hand.tap("super", "b")
    bench.front("BerthBoard")
