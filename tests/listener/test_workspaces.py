"""Workspaces by name, the one before, windows that go elsewhere: actions, events and conditions."""

from pathlib import Path

import pytest

from jaklet.core.language.place_grammar import parse_place
from jaklet.core.values.changes import Move
from jaklet.core.values.geometry import Rect
from jaklet.core.values.layouts import Layout, LayoutEntry
from tests.conftest import Office
from tests.listener.test_flow import Flow

CONFIG = """
settings: {workspaces: 4}
displays: {main: {name: DP-1}, quay: {name: HDMI-1}}
workspaces: {1: desk, 2: {name: mail}}
apps:
  berths: {launch: berth-board, window: {class: BerthBoard}}
  radio: {launch: radio-log, window: {class: RadioLog}}
  tides: {launch: tide-gauge, window: {class: TideGauge}}
bindings:
  f1: workspace mail
  f2: workspace last
  f3: workspace mail or back
  f4: send radio to workspace mail
  f5: minimise others
  f6: restore all
  f7: minimise all
  f8: send tides to workspace last
  f9: run where
  f10: go berths
  f11: workspace 1 or back
  super+r: go radio
  super+t: go tides
macros:
  where:
    - {when: workspace is mail, then: [tell "at the mail"], else: [tell "elsewhere"]}
    - {when: radio is on workspace mail and berths is not on workspace 2, then: [tell "the radio is there"]}
"""
EVENTS = """
events:
  workspace mail is shown: tell "mail is shown"
  workspace is shown: tell "a workspace is shown"
  window of radio moves to workspace mail: tell "the radio is sent"
  window moves to workspace 1: tell "something is sent to the desk"
  window of radio moves to display quay: tell "the radio is on the quay"
  window moves to display main: tell "something is on main"
  window of tides is minimised: tell "tides out of view"
  window of tides is shown: tell "tides in view"
"""


def opened(folder: Path, events: str = "") -> Flow:
    """Return a session with three windows, on workspace 1."""
    flow = Flow(folder, events, CONFIG)
    for key in ("super+r", "super+t", "f10"):
        flow.press(key)
        flow.let_pass(1)
    flow.notices.clear()
    return flow


def pressed(flow: Flow, *keys: str) -> list[str]:
    flow.told.clear()
    for key in keys:
        flow.press(key)
        flow.let_pass(1)
    return [line.partition(": ")[2] for line in flow.told if line.startswith("f")]


def test_workspaces_have_names_and_there_is_a_way_back(tmp_path: Path) -> None:
    flow = opened(tmp_path)
    assert pressed(flow, "f10", "f2") == [
        "berths (Berth board) is in front already",
        "no window on another workspace was used before",
    ]
    assert pressed(flow, "f4", "f1", "f1") == [
        "radio (Radio log) is on workspace mail", "workspace mail is shown", "workspace mail is shown already",
    ]  # fmt: skip
    assert pressed(flow, "f3", "f3", "f2", "f11") == [
        "workspace desk is shown", "workspace mail is shown", "workspace desk is shown", "workspace mail is shown",
    ]  # fmt: skip
    pressed(flow, "f9")
    assert flow.said == ["at the mail", "the radio is there"]
    pressed(flow, "f2", "f9")
    assert flow.said[2:] == ["elsewhere", "the radio is there"]


def test_all_or_all_others_are_minimised_and_come_back(tmp_path: Path) -> None:
    flow = opened(tmp_path)
    desk = flow.desktop.look().desk
    here = {window.id for window in desk.main_windows if desk.in_view(window)}
    assert len(here) > 2
    pressed(flow, "f10")
    front = flow.desktop.look().desk.active
    assert pressed(flow, "f5", "f5") == [f"{len(here) - 1} windows minimised", "no other window is in view"]
    now = flow.desktop.look().desk
    assert {window.id for window in now.windows if not window.minimised} & here == {front}
    assert now.active == front
    assert pressed(flow, "f6", "f6") == [f"{len(here) - 1} windows shown again", "no window is minimised here"]
    assert not any(window.minimised for window in flow.desktop.look().desk.windows)
    assert pressed(flow, "f7") == [f"{len(here)} windows minimised"]
    assert pressed(flow, "f7", "f6")[1] == f"{len(here)} windows shown again"
    assert flow.desktop.look().desk.active is not None


def test_events_tell_of_workspaces_and_of_windows_that_go_elsewhere(tmp_path: Path) -> None:
    flow = opened(tmp_path, EVENTS)
    pressed(flow, "f1")
    assert flow.said == ["mail is shown", "a workspace is shown"]
    pressed(flow, "f11", "f4")
    assert flow.said[2:] == ["a workspace is shown", "the radio is sent"]
    radio = next(one for one in flow.desktop.look().desk.windows if one.cls == "RadioLog")
    flow.notices.clear()
    quay = next(one for one in flow.desktop.look().desk.displays if one.name == "HDMI-1")
    flow.desktop.room.change(Move(radio.id, Rect(quay.work.x + 10, 50, 400, 300)))
    flow.let_pass(1)
    flow.desktop.room.change(Move(radio.id, Rect(30, 50, 400, 300)))
    flow.let_pass(1)
    assert flow.said == ["the radio is on the quay", "something is on main"]
    flow.notices.clear()
    pressed(flow, "f5", "f6")
    assert flow.said == ["tides out of view", "tides in view"]


def test_events_that_lead_back_to_each_other_are_cut(tmp_path: Path) -> None:
    events = """
events:
  workspace mail is shown: workspace desk
  workspace desk is shown: workspace mail
"""
    flow = opened(tmp_path, events)
    flow.press("f1")
    flow.let_pass(3)
    assert any("leads back to itself" in line for line in flow.told)
    assert len(flow.told) < 8


@pytest.mark.parametrize(
    ("section", "said"),
    [
        ("workspaces: {0: mail}", "no workspace has the number '0'"),
        ("workspaces: {mail: 2}", "no workspace has the number 'mail'"),
        ("workspaces: {2: next}", "'next' cannot be a name"),
        ("workspaces: {2: '7'}", "it is a number"),
        ("workspaces: {2: [mail]}", "should be a name"),
        ("workspaces: {2: {nam: mail}}", "did you mean name?"),
        ("workspaces: {2: mail, 3: mail}", "mail"),
        ("workspaces: {2: mail}\nbindings: {f1: workspace male}", "did you mean mail?"),
        ("workspaces: {2: mail}\nbindings: {f1: workspace}", "which workspace?"),
        ("workspaces: {2: mail}\nevents: {workspace male is shown: undo}", "no workspace is called 'male'"),
    ],
)
def test_slips_are_told(section: str, said: str, office: Office) -> None:
    office.config.write_text(section + "\n")
    assert said in office.jaklet("check", status=1).stdout


def test_workspaces_are_made_when_needed_and_given_back_when_empty(tmp_path: Path) -> None:
    flow = Flow(
        tmp_path,
        "",
        CONFIG.replace("workspaces: 4}", "missing workspaces: create, empty workspaces: give back}").replace(
            "bindings:", "bindings:\n  f12: workspace 6"
        ),
    )
    there = flow.desktop.look().desk.workspaces
    for key in ("f12", "super+r"):
        flow.press(key)
        flow.let_pass(1)
    assert flow.desktop.look().desk.workspaces == 6
    flow.press("f1")
    flow.let_pass(1)
    assert flow.desktop.look().desk.workspaces == 6  # the radio log is there
    flow.press("f4")
    flow.let_pass(1)
    assert flow.desktop.look().desk.workspaces == there
    assert flow.told[-1] == f"workspaces: {6 - there} empty workspaces given back"
    assert flow.failures == []


def test_a_recall_that_an_event_joins_is_said_once(tmp_path: Path) -> None:
    flow = Flow(
        tmp_path,
        "events: {window opens: recall departures}\n",
        CONFIG.replace("bindings:", "bindings:\n  super+1: recall departures"),
    )
    layout = parse_place("left 1/2")
    entries = tuple(LayoutEntry(app, None, None, layout) for app in ("berths", "radio", "tides"))
    flow.session._shelf.keep(Layout("departures", entries=entries))
    flow.press("super+1")
    flow.let_pass(5)
    assert [line for line in flow.told if "recall" in line] == [
        "super+1: recalled departures: 3 of 3 windows in place, 3 programs launched in 0.4 s, focus: as it was"
    ]


def test_a_workspace_that_a_layout_names_has_to_be_there(office: Office) -> None:
    path = office.folder / "layouts" / "bay.yaml"
    for number, text in enumerate(
        (
            "workspace: pots\nwindows: [{app: berths, place: full}]\n",
            "others: workspace pots\nwindows: [{app: berths, place: full}]\n",
            "windows: [{app: berths, place: full, workspace: pots}]\n",
            "arranged: [{display: main, form: rows, order: [berths], workspace: pots}]\n"
            "windows: [{app: berths, place: full}]\n",
        )
    ):
        path.write_text(f"layout: bay\n{text}")
        told = office.jaklet("check", status=1).stdout
        assert told.count("error JK318 no workspace is called 'pots'") == 1, number
        assert "did you mean post?" in told
        assert "names what is not there: workspace pots" in office.jaklet("layout", "recall", "bay", status=1).stderr
    path.write_text("layout: bay\nworkspace: post\nothers: workspace post\nwindows: [{app: berths, place: full}]\n")
    assert "nothing is wrong" in office.jaklet("check").stdout
