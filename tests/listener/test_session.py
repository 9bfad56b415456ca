"""The listener without X: tasks side by side on a tabletop, and a control socket that anything may be sent to."""

import os
import signal
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import pytest

from jaklet.core.actions.ports.chord_source import KeyEdge, KeyEvent
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import TaskOutcome
from jaklet.core.language.actions import parse_action
from jaklet.core.values.changes import Change, Close
from jaklet.core.values.chords import Keys, parse_chord, parse_keys
from jaklet.core.values.config import Binding, Config, Layer
from jaklet.core.values.scopes import Scope
from jaklet.core.values.sentences import Action
from jaklet.core.values.spans import Spot
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.listener.loop import ListenerLoop, ListenerPorts, Workplace
from jaklet.listener.reload import ConfigSource, LoadedConfig
from jaklet.listener.reports import Reports
from jaklet.listener.session import ListenerSession
from jaklet.listener.tasks import NEVER
from tests.core.test_recall import CONFIG, Shelf, office


def struck(text: str, edge: KeyEdge = KeyEdge.PRESS) -> KeyEvent:
    return KeyEvent(edge, parse_chord(text), 0)


class Pressing:
    """A session on a tabletop, its clock moved by hand."""

    def __init__(self, **bindings: str) -> None:
        bound = tuple(
            Binding(parse_keys(f"super+{key}"), parse_action(action), Spot("", 1, 1, 2))
            for key, action in bindings.items()
        )
        config = Config(CONFIG.settings, CONFIG.displays, CONFIG.apps, CONFIG.places, bound)
        self.desktop, self.shelf, self.told = Tabletop(office().copy()), Shelf(), list[str]()
        self.session = ListenerSession(self.desktop, config, self.shelf, Reports(self._tell))

    def _tell(self, keys: Keys, action: Action, outcome: TaskOutcome, _took: float) -> None:
        self.told.append(outcome.line)

    def press(self, *keys: str) -> None:
        for key in keys:
            self.session.key(struck(f"super+{key}"), self.desktop.look())

    def run(self) -> list[str]:
        """Let time pass until nothing is under way; return what was told meanwhile."""
        while self.session.deadline < NEVER:
            self.session.step(self.desktop.wait(self.session.deadline))
        told, self.told = self.told, []
        return told


def test_a_program_is_launched_once_however_often_its_key_is_pressed() -> None:
    one = Pressing(c="go charts")
    one.press("c", "c", "c")
    assert one.run() == [
        *["charts is being launched already"] * 2,
        "charts (Charts of the approaches) is launched and in front",
    ]
    assert len(one.desktop.look().desk.windows) == 1


class Slow(Tabletop):
    """A desk whose window manager takes its time: what is asked is done when it is waited for, all at once."""

    def __init__(self) -> None:
        super().__init__(office().copy())
        self.asked: list[Change] = []

    def apply(self, changes: Iterable[Change], time: int = 0) -> None:
        self.asked += changes

    def look(self) -> Moment:
        return super().look()._replace(settled=not self.asked)

    def wait(self, until: float) -> Moment:
        asked, self.asked = self.asked, []
        super().apply(asked)
        return super().wait(until)


def test_of_quick_presses_the_last_one_has_the_focus() -> None:
    """None of the earlier ones, whose window never was seen in front, takes it back."""
    one = Pressing(b="go berth-board", r="go radio-log", t="go tide-gauge")
    one.press("b", "r", "t")
    one.run()
    slow = Slow()
    slow.room = one.desktop.room
    one.session._desktop = one.desktop = slow
    one.press("t", "r")
    told = one.run()
    assert slow.room.desk().by_id[slow.room.active or 0].cls == "RadioLog"
    assert told == ["go tide-gauge gave way to go radio-log", "radio-log (Radio log) is in front"]


def test_a_sequence_goes_on_is_given_up_and_ends_with_its_time() -> None:
    one = Pressing(**{"w h": "go berth-board", "w shift+h": "go radio-log", "b": "go tide-gauge"})
    first = one.session.hearing.chords
    assert {str(chord) for chord in first} == {"super+w", "super+b"}

    def strike(*chords: str) -> list[str]:
        for chord in chords:
            one.session.key(struck(chord), one.desktop.look())
        return one.run()

    one.session.key(struck("super+w"), one.desktop.look())
    assert {str(chord) for chord in one.session.hearing.chords - first} == {"h", "shift+h", "escape"}
    assert one.session.deadline == one.desktop.look().now + one.session.config.settings.sequence
    assert strike("h") == ["berth-board (Berth board) is launched and in front"]
    assert one.session.hearing.chords == first
    assert strike("super+w", "shift+h") == ["radio-log (Radio log) is launched and in front"]
    assert strike("super+w", "escape", "h") == []  # given up; the last is heard by the program in front alone
    assert strike("super+w", "super+b") == ["tide-gauge (Tide gauge) is launched and in front"]
    assert strike("super+w", "super+w", "h") == ["berth-board (Berth board) is in front"]  # begun anew
    one.session.key(struck("super+w"), one.desktop.look())
    one.desktop.room.now += 3
    assert strike("h") == []  # too late
    one.session.key(struck("super+w"), one.desktop.look())
    assert one.run() == []
    assert (one.session.hearing.chords, one.session.deadline) == (first, NEVER)


class Keyed:
    """A session with layers and scopes on a tabletop, whose keys go by way of its keyboard."""

    def __init__(self) -> None:
        def bind(keys: str, action: str, **more: Any) -> Binding:
            return Binding(parse_keys(keys), parse_action(action), Spot("", 1, 1, 2), **more)

        berths = Scope(frozenset({"berth-board"}), only=True)
        bindings = (
            bind("super+w", "enter stays"),
            bind("super+e", "enter timed"),
            bind("super+h", "enter stays"),
            bind("super+h", "leave", on_release=True),
            bind("ctrl+b", "go radio-log", scope=berths),
            bind("super+b", "go berth-board"),
            bind("super+n", "focus next", repeat=True),
            bind("b", "go berth-board", layer="stays"),
            bind("r r", "go radio-log", layer="stays"),
            bind("b", "go berth-board", layer="timed"),
        )
        layers = {"stays": Layer("stays", stays=True), "timed": Layer("timed", ends_after=5, passes_on=True)}
        config = Config(CONFIG.settings, CONFIG.displays, CONFIG.apps, CONFIG.places, bindings, layers)
        self.desktop, self.told = Tabletop(office().copy()), list[str]()
        reports = Reports(lambda _keys, _action, outcome, _took: self.told.append(outcome.line))
        self.session = ListenerSession(self.desktop, config, Shelf(), reports)
        self.desktop.keyboard.grab(self.session.hearing)

    def strike(self, text: str, edge: KeyEdge = KeyEdge.PRESS) -> None:
        self.desktop.keyboard.strike(parse_chord(text), edge)
        for event in self.desktop.keyboard.key_events():
            passed = self.session.key(event, self.desktop.look())
            if event.waits:
                self.desktop.keyboard.answer(passed)
        while self.session.busy_until < NEVER:
            self.session.step(self.desktop.wait(self.session.deadline))
        self.desktop.keyboard.grab(self.session.hearing)

    def tap(self, *texts: str) -> list[str]:
        """Press and let go; return what was told."""
        self.told.clear()
        for text in texts:
            self.strike(text)
            self.strike(text, KeyEdge.RELEASE)
        return self.told

    @property
    def passed(self) -> list[str]:
        found, self.desktop.keyboard.passed = [str(chord) for chord in self.desktop.keyboard.passed], []
        return found


def test_a_layer_takes_all_keys_until_it_is_left() -> None:
    one = Keyed()
    assert one.tap("b", "super+w") == ["layer stays is on"]
    assert (one.passed, one.session.layer, one.session.deadline) == (["b"], "stays", NEVER)
    assert one.tap("b", "x", "super+b") == ["berth-board (Berth board) is launched and in front"]
    assert one.tap("r", "r") == ["radio-log (Radio log) is launched and in front"]
    assert one.tap("r", "escape", "b") == ["berth-board (Berth board) is in front"]  # the sequence alone was given up
    assert (one.tap("escape", "b"), one.passed, one.session.layer) == ([], ["b"], "")


def test_a_layer_ends_with_its_time_and_an_unknown_key_can_leave_it() -> None:
    one = Keyed()
    one.tap("super+e")
    assert one.session.deadline == one.desktop.look().now + 5
    one.session.step(one.desktop.wait(one.session.deadline))
    assert (one.session.layer, one.session.deadline) == ("", NEVER)
    one.tap("super+e", "x")
    assert (one.session.layer, one.passed) == ("", ["None"])  # a key that nobody knows by name, passed on
    assert one.tap("super+e", "super+w") == ["layer timed is on", "layer stays is on"]
    one.session.use(one.session.config)  # a reload
    assert one.session.layer == ""


def test_a_sequence_that_runs_out_within_a_layer_leaves_the_layer_on() -> None:
    one = Keyed()
    one.tap("super+w", "r")
    one.desktop.room.now += 3
    one.session.step(one.desktop.look())
    assert one.session.layer == "stays"
    assert one.tap("r") == []  # it begins a sequence again
    assert one.tap("r") == ["radio-log (Radio log) is launched and in front"]


def test_a_layer_can_last_while_a_key_is_held() -> None:
    one = Keyed()
    one.strike("super+h")
    one.strike("b")
    assert one.session.layer == "stays"
    one.strike("b", KeyEdge.RELEASE)
    one.strike("super+h", KeyEdge.RELEASE)
    assert (one.session.layer, one.told[0], one.told[-1]) == ("", "layer stays is on", "no layer is on")


def test_repeats_are_for_bindings_that_want_them_and_scopes_go_by_the_window_in_front() -> None:
    one = Keyed()
    one.tap("ctrl+b")
    assert one.passed == ["ctrl+b"]
    one.tap("super+b")
    assert one.tap("ctrl+b") == ["radio-log (Radio log) is launched and in front"]
    one.tap("ctrl+b")
    assert one.passed == ["ctrl+b"]
    one.told.clear()
    fronts = []
    for edge in (KeyEdge.PRESS, KeyEdge.REPEAT, KeyEdge.REPEAT, KeyEdge.RELEASE):
        for key in ("super+n", "super+b"):
            one.strike(key, edge)
            fronts.append(one.desktop.look().desk.front.cls)  # type: ignore[union-attr]
    berths, radio = "BerthBoard", "RadioLog"
    assert fronts == [berths, berths, radio, radio, berths, berths, berths, berths]
    assert [line.split()[0] for line in one.told] == ["berth-board", "berth-board"]  # its repeats are not told of


def test_a_new_recall_takes_the_place_of_one_that_waits() -> None:
    one = Pressing(c="go charts", s="save 1", **{"1": "recall 1", "2": "recall 2"})
    one.press("c")
    one.run()
    one.press("s")
    one.desktop.room.change(Close(1))
    one.press("1", "2")
    told = one.run()
    assert told[1:] == ["recall 1 was given up for recall 2", "no layout has number 2"]


def test_a_chord_of_a_config_that_was_just_replaced_does_nothing() -> None:
    one = Pressing(c="go charts")
    one.session.use(Config())
    one.press("c")
    assert one.run() == []


def test_the_loop_hears_chords_reloads_on_sighup_and_ends_on_sigterm(monkeypatch: pytest.MonkeyPatch) -> None:
    """The whole listener on a tabletop: chords struck, signals sent to itself, and what it says of all that."""
    monkeypatch.delenv("XDG_RUNTIME_DIR", raising=False)
    one = Pressing(b="go berth-board", delete="close")
    config = one.session.config
    taken = parse_chord("super+delete")
    one.desktop.room.taken = {taken: "another program"}
    said: list[str] = []
    loads = iter([LoadedConfig(None, ("x.yaml:1:1: error",)), LoadedConfig(Config(), ())])
    source = ConfigSource(Path("jaklet.yaml"), lambda: next(loads))

    def tell(line: str) -> None:
        said.append(line)
        if line.startswith("listening"):
            one.desktop.keyboard.strike(parse_chord("super+b"))
        elif "in front" in line or "stays in use" in line:
            os.kill(os.getpid(), signal.SIGHUP)
        elif line.startswith("reloaded"):
            os.kill(os.getpid(), signal.SIGTERM)

    before = signal.getsignal(signal.SIGTERM)
    place = Workplace(one.desktop, one.desktop.keyboard, "tabletop", one.shelf)
    ListenerLoop(place, source, LoadedConfig(config, ()), ListenerPorts(tell)).run()
    assert said[1:] == [
        "super+delete cannot be used: another program holds it",
        "listening on tabletop: 1 of 2 bindings",
        "super+b: berth-board (Berth board) is launched and in front",
        "x.yaml:1:1: error",
        "the old config stays in use",
        "reloaded: 0 bindings",
        "stopped: all chords are free again",
    ]
    assert "kill -HUP" in said[0]
    assert signal.getsignal(signal.SIGTERM) is before
