"""Macros and events in a listener's session on a tabletop: what stops them, what waits, what is cut."""

from collections.abc import Iterable
from pathlib import Path

import pytest

from jaklet.checks.run import check_config
from jaklet.config.paths import locate_config
from jaklet.core.actions.begin import BEGINS
from jaklet.core.actions.ports.chord_source import KeyEdge
from jaklet.core.actions.tasks import Task, TaskOutcome
from jaklet.core.language.actions import parse_action
from jaklet.core.values.changes import Change, Close, Press
from jaklet.core.values.chords import Keys, keys_written, parse_keys
from jaklet.core.values.config import Config
from jaklet.core.values.errors import DeskError
from jaklet.core.values.layouts import Layout
from jaklet.core.values.notices import Notice
from jaklet.core.values.sentences import Action
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.installed.programs import InstalledPrograms
from jaklet.listener.reports import Reports
from jaklet.listener.session import ListenerSession
from jaklet.listener.tasks import NEVER
from jaklet.rehearsal.memory import RehearsedHistory
from tests.core.test_layouts import entry
from tests.core.test_recall import Shelf, office

CONFIG = """
displays: {main: {name: DP-1}, quay: {name: HDMI-1}}
apps:
  berths: {launch: berth-board, window: {class: BerthBoard}}
  radio: {launch: radio-log, window: {class: RadioLog}}
  charts: {launch: charts, window: {class: Charts}}
bindings:
  super+a: run long
  super+e: run other
  super+q: run queued
  super+r: run replacing
  super+b: go berths
  super+p: pause
  super+s: stop
  super+w: enter tidy
  super+l: run layered
layers: {tidy: {stays: true, bindings: {b: go radio}}}
macros:
  long: [go berths, wait 10s, tell "long is done"]
  other: [tell "other"]
  queued: {while another runs: wait, steps: [tell "queued"]}
  replacing: {while another runs: replace, steps: [tell "replacing"]}
  layered: [enter tidy, wait 1s, {when: layer is tidy, then: [leave, tell "left"]}]
"""


class Flow:
    """A session on a tabletop, its clock moved by hand."""

    def __init__(self, folder: Path, more: str = "", text: str = CONFIG) -> None:
        (folder / "jaklet.yaml").write_text(text + more)
        room = office().copy()
        result = check_config(locate_config(str(folder)), InstalledPrograms(room.programs, room.entries()))
        assert result.usable, result.findings
        self.config: Config = result.config
        self.desktop, self.told, self.notices = Tabletop(room), list[str](), list[Notice]()
        reports = Reports(self._tell, self.notices.append)
        self.session = ListenerSession(self.desktop, self.config, Shelf(), reports, RehearsedHistory())
        self.session.step(self.desktop.look())

    def _tell(self, keys: Keys, action: Action, outcome: TaskOutcome, _took: float) -> None:
        self.told.append(f"{keys_written(keys) or action.verb}: {outcome.line}")

    def press(self, *keys: str) -> None:
        for chord in (chord for text in keys for chord in parse_keys(text)):
            for edge in (KeyEdge.PRESS, KeyEdge.RELEASE):
                self.desktop.keyboard.grab(self.session.hearing)
                self.desktop.keyboard.strike(chord, edge)
                for event in self.desktop.keyboard.key_events():
                    self.session.key(event, self.desktop.look())
            self.session.step(self.desktop.look())

    def let_pass(self, seconds: float) -> None:
        until = self.desktop.room.now + seconds
        self.session.step(self.desktop.look())
        while self.desktop.room.now < until:
            self.session.step(self.desktop.wait(min(self.session.deadline, until)))

    @property
    def said(self) -> list[str]:
        return [notice.text for notice in self.notices if not notice.failed]

    @property
    def failures(self) -> list[str]:
        return [notice.text for notice in self.notices if notice.failed]


@pytest.fixture
def flow(tmp_path: Path) -> Flow:
    return Flow(tmp_path)


def test_a_waiting_macro_holds_up_no_key_and_ends_in_its_time(flow: Flow) -> None:
    flow.press("super+a")
    flow.let_pass(5)
    flow.press("super+b")
    assert flow.told == ["super+b: berths (Berth board) is in front already"]
    flow.let_pass(6)
    assert flow.said == ["long is done"]
    assert flow.told[-1] == "super+a: long is done: 3 steps"
    assert flow.session.deadline == NEVER


@pytest.mark.parametrize(
    ("key", "why"),
    [
        ("escape", "run long was stopped"),
        ("super+a", "run long was stopped by its own chord"),
        ("super+s", "run long was stopped"),
    ],
)
def test_escape_the_same_chord_and_stop_end_a_macro(key: str, why: str, flow: Flow) -> None:
    flow.press("super+a")
    flow.let_pass(2)
    flow.press(key)
    assert f"super+a: {why}" in flow.told
    flow.let_pass(20)
    assert flow.said == []
    assert "escape" not in {str(chord) for chord in flow.session.hearing.chords}  # it is the program's again


def test_a_chord_that_runs_another_macro_by_now_is_not_its_own_chord(flow: Flow, tmp_path: Path) -> None:
    flow.press("super+a")
    other = tmp_path / "other"
    other.mkdir()
    flow.session.use(Flow(other, text=CONFIG.replace("super+a: run long", "super+a: run other")).config)
    flow.press("super+a")
    assert flow.told == ["super+a: run long is under way, and run other was not begun"]
    flow.let_pass(12)
    assert flow.said == ["long is done"]


def test_another_macro_is_refused_waits_or_takes_over(flow: Flow) -> None:
    flow.press("super+a")
    flow.let_pass(1)
    flow.press("super+e", "super+q")
    assert flow.told == [
        "super+e: run long is under way, and run other was not begun", "super+q: run queued waits for the end of: run long",
    ]  # fmt: skip
    assert flow.failures == ["run long is under way, and run other was not begun"]
    flow.let_pass(12)
    assert flow.said == ["long is done", "queued"]
    flow.press("super+a", "super+q", "super+q", "super+r")
    assert flow.told[-3:] == [
        "super+q: run queued does not wait any longer", "super+a: run long gave way to run replacing", "super+r: replacing is done: 1 step",
    ]  # fmt: skip


def test_macros_enter_and_leave_layers_which_is_said(flow: Flow) -> None:
    flow.press("super+l")
    assert flow.session.layer == "tidy"
    flow.let_pass(2)
    assert flow.session.layer == ""
    assert flow.said == ["layer tidy is on", "no layer is on", "left"]


def test_in_a_pause_only_what_ends_it_is_heard(flow: Flow) -> None:
    flow.press("super+p", "super+b", "super+w")
    assert flow.told == ["super+p: a pause begins, or is over"]
    assert flow.session.paused
    assert [str(chord) for chord in flow.desktop.keyboard.passed if chord] == ["super+b", "super+w"]
    flow.press("super+p", "super+b")
    flow.let_pass(1)
    assert flow.told[-1].startswith("super+b: berths")


def test_a_failure_reaches_the_user(tmp_path: Path) -> None:
    flow = Flow(tmp_path, "  failing: [wait for radio up to 1s, tell no]\nevents: {listener starts: run failing}\n")
    flow.let_pass(2)
    assert flow.notices == [
        Notice("failing stopped: wait for radio up to 1s: radio did not come within 1 s", failed=True)
    ]


EVENTS = """
events:
  listener starts: tell "begun"
  window of radio opens: [place right 1/3, {do: tell "over berths", only in: berths}]
  window closes: tell "closed"
  title of berths changes: tell "renamed"
  focus moves to radio: tell "radio in front"
  display quay goes: tell "no quay"
  idle for 10m: tell "idle"
  at 08:30: tell "half past"
  window of charts opens: launch charts
  focus moves to berths: go radio
"""


def test_events_start_what_they_say_and_circles_are_cut(tmp_path: Path) -> None:
    flow = Flow(tmp_path, EVENTS)
    room = flow.desktop.room
    assert flow.said == ["begun"]
    room.add(room.programs["radio-log"])
    flow.session.step(flow.desktop.look())
    assert flow.said[1:] == ["radio in front"]
    (window,) = flow.desktop.look().desk.windows
    assert window.frame.right == flow.config.display("main", room.desk()).work.right  # type: ignore[union-attr]
    room.change(Close(window.id))
    flow.session.step(flow.desktop.look())
    assert flow.said[2:] == ["closed"]
    room.displays = room.displays[:1]
    flow.session.step(flow.desktop.look())
    assert flow.said[3:] == ["no quay"]
    flow.let_pass(31 * 60)
    assert flow.said[4:] == ["idle", "half past"]  # it is eight when a tabletop begins
    flow.press("super+b")
    flow.let_pass(9 * 60)
    assert flow.said[6:].count("idle") == 0
    flow.let_pass(2 * 60)
    assert flow.said[6:].count("idle") == 1


def test_a_circle_goes_round_once(tmp_path: Path) -> None:
    flow = Flow(tmp_path, EVENTS)
    room = flow.desktop.room
    room.add(room.programs["charts"])
    flow.let_pass(30)
    assert len(room.standing) == 2
    assert [line for line in flow.told if "leads back" in line] == [
        "on: window of charts opens: launch charts is not done, as it leads back to itself: window of charts opens -> window of charts opens"
    ]


def test_the_same_event_for_many_windows_is_no_circle(tmp_path: Path) -> None:
    flow = Flow(tmp_path, EVENTS)
    room = flow.desktop.room
    for _ in range(5):
        room.add(room.programs["radio-log"])
        flow.session.step(flow.desktop.look())
    flow.let_pass(1)
    assert len({standing.window.frame for standing in room.standing.values()}) == 1
    assert not [line for line in flow.told if "leads back" in line]


def test_what_a_desk_cannot_do_fails_its_step_alone(tmp_path: Path) -> None:
    """Here a keyboard lacks a character; the macro does what its `else` says."""
    flow = Flow(
        tmp_path, "  odd: [go berths, {do: type Ω, else: [tell 'no such key']}]\nevents: {listener starts: run odd}\n"
    )
    plain = flow.desktop.apply

    def apply(changes: Iterable[Change], time: int = 0) -> None:
        if any(isinstance(change, Press) for change in changes):
            raise DeskError("Ω cannot be pressed: this keyboard has no such key")
        plain(changes, time)

    flow.desktop.apply = apply  # type: ignore[method-assign]
    flow.let_pass(1)
    assert flow.said == ["no such key"]
    assert flow.told[-1] == "run: odd is done: 3 steps"


def test_windows_that_a_recall_within_a_macro_launches_are_left_to_it(tmp_path: Path) -> None:
    more = "  day: [recall bay]\nevents: {listener starts: run day}\n"
    flow = Flow(tmp_path, more)
    config = flow.config
    opens = config.apps["radio"]._replace(opens=(parse_action("minimise"),))
    flow.session.use(config._replace(apps={**config.apps, "radio": opens}))
    flow.session._shelf.keep(Layout("bay", entries=(entry("radio", "right 1/2 on quay"),)))
    flow.session.act(parse_action("run day"), flow.desktop.look(), lambda *_: None)
    flow.let_pass(3)
    (window,) = flow.desktop.look().desk.windows
    assert not window.minimised
    assert not [line for line in flow.told if line.startswith(("opens", "layout"))]


def test_what_opens_says_comes_before_what_an_event_says(tmp_path: Path) -> None:
    """Both happen, in this order, for the same window."""
    text = CONFIG.replace("window: {class: RadioLog}}", "window: {class: RadioLog}, opens: place left 1/2}")
    text = text.replace("macros:\n", "macros:\n  after: [nudge right 40px, tell after]\n")
    flow = Flow(tmp_path, "events: {window of radio opens: run after}\n", text)
    flow.press("super+w", "b")
    flow.let_pass(2)
    opens = next(i for i, line in enumerate(flow.told) if line.startswith("opens:"))
    after = next(i for i, line in enumerate(flow.told) if "after is done" in line)
    assert opens < after
    assert "gave way" not in " ".join(flow.told)


def test_macros_that_take_no_time_are_cut_and_let_keys_in_between(tmp_path: Path) -> None:
    """Repeats within repeats of steps that do nothing; a macro that presses its own key is the keyboard's business."""
    text = CONFIG.replace(
        "  long:",
        "  endless: {repeat: 1000, steps: [{repeat: 1000, steps: [{when: layer is tidy, then: []}]}]}\n  long:",
    )
    flow = Flow(tmp_path, "", text.replace("super+a: run long", "super+a: run endless"))
    flow.press("super+a")
    flow.press("super+b")  # heard while it is at it
    flow.let_pass(1)
    assert any("it has taken 10000 steps" in line for line in flow.failures)
    assert any(line.startswith("super+b: berths") for line in flow.told)


def test_a_fault_of_our_own_ends_its_action_and_nothing_else(flow: Flow, monkeypatch: pytest.MonkeyPatch) -> None:
    faults: list[str] = []

    def told(what: str, fault: Exception) -> str:
        faults.append(what)
        return f"fault: {fault}"

    flow.session = ListenerSession(
        flow.desktop, flow.config, Shelf(), Reports(flow._tell, flow.notices.append, broken=told)
    )

    def broken(*_: object) -> Task:
        raise ZeroDivisionError("of all things")

    monkeypatch.setitem(BEGINS, "gather", broken)
    flow.session.act(parse_action("gather"), flow.desktop.look(), lambda outcome, *_: flow.told.append(outcome.line))
    assert flow.told == ["gather: fault: of all things", "fault: of all things"]
    assert faults == ["gather"]
    flow.press("super+b")
    flow.let_pass(1)
    assert flow.told[-1].startswith("super+b: berths")
