"""What the listener does for windows and displays that come and go, on a tabletop and on a real server."""

import signal
from collections.abc import Iterator
from pathlib import Path

import pytest

from jaklet.core.language.actions import parse_action
from jaklet.core.values.config import Settings
from jaklet.core.values.desk import DIALOG, Display
from jaklet.core.values.geometry import Rect
from tests.conftest import Office
from tests.listener.test_session import Pressing, Slow
from tests.listener.test_x11 import Listening
from tests.xserver import NEEDS_OUTPUTS, Head, XServer, until, with_heads

MAIN = Display("DP-1", Rect(0, 0, 2560, 1440), Rect(0, 40, 2560, 1400), primary=True)
QUAY = Display("HDMI-1", Rect(2560, 0, 1920, 1080), Rect(2560, 0, 1920, 1080))


def opening(**opens: str) -> Pressing:
    """Return a session in whose config apps say what is done with their new windows."""
    one = Pressing(c="go charts", r="recall bay", s="save bay", **{"left": "place left 1/2"})
    config = one.session.config
    actions = {name: tuple(parse_action(text) for text in texts.split(" + ")) for name, texts in opens.items()}
    apps = {name: app._replace(opens=actions.get(name, ())) for name, app in config.apps.items()}
    one.session.use(config._replace(apps=apps, settings=Settings(wait=5)))
    one.session.step(one.desktop.look())  # the windows that there are by now are no new ones
    return one


def test_a_new_window_is_placed_once_and_then_left_alone() -> None:
    one = opening(charts="place right 1/3 + keep above")
    one.press("c")
    one.run()
    charts = one.desktop.look().desk.windows[-1]
    assert (charts.frame, charts.above) == (Rect(1707, 40, 853, 1400), True)
    one.press("left")
    one.run()
    moved = one.desktop.look().desk.by_id[charts.id]
    assert moved.frame == Rect(0, 40, 1280, 1400)
    one.session.step(one.desktop.look())
    assert one.desktop.look().desk.by_id[charts.id] == moved


def test_a_window_manager_that_is_replaced_makes_no_window_new() -> None:
    one = opening(charts="place right 1/3")
    room = one.desktop.room
    first = room.add(room.programs["charts"])
    room.add(room.programs["tide-gauge"])
    one.session.step(one.desktop.look())
    one.run()
    room.standing[first].window = room.standing[first].window._replace(frame=Rect(9, 90, 500, 400))
    standing, room.standing, stacking, room.stacking, room.active = room.standing, {}, room.stacking, [], None
    one.session.step(one.desktop.look())
    room.standing, room.stacking = standing, stacking
    one.session.step(one.desktop.look())
    one.run()
    assert one.desktop.look().desk.by_id[first].frame == Rect(9, 90, 500, 400)


def test_a_dialog_stays_with_its_parent() -> None:
    one = opening(charts="place right 1/3")
    room = one.desktop.room
    parent = room.add(room.programs["charts"])
    one.session.step(one.desktop.look())
    one.run()
    before = Rect(100, 100, 300, 200)
    dialog = room.add(room.programs["charts"], before, None, kind=DIALOG, parent=parent)
    one.session.step(one.desktop.look())
    one.run()
    assert one.desktop.look().desk.by_id[dialog].frame == before


def test_the_window_of_a_recall_has_its_place_in_the_layout() -> None:
    one = opening(charts="place right 1/3")
    room = one.desktop.room
    room.add(room.programs["charts"], Rect(0, 40, 1280, 700))
    one.session.step(one.desktop.look())
    one.run()
    room.standing[1].window = room.standing[1].window._replace(frame=Rect(0, 40, 1280, 700))
    one.press("s")
    one.run()
    room._remove(1)
    one.session.step(one.desktop.look())
    one.press("r")
    one.run()
    assert [window.frame for window in one.desktop.look().desk.windows] == [Rect(0, 40, 1280, 700)]


def test_a_later_key_wins_over_an_earlier_one_that_is_still_at_it() -> None:
    one = Pressing(left="place left 1/2", right="place right 1/2")
    wid = one.desktop.room.add(one.desktop.room.programs["charts"])
    slow = Slow()
    slow.room = one.desktop.room
    one.session._desktop = one.desktop = slow
    one.press("left", "right")
    told = one.run()
    assert slow.room.desk().by_id[wid].frame.x > 1000
    assert told[0] == "place left 1/2 gave way to place right 1/2"


def _away(returns: bool = True) -> tuple[Pressing, int, int]:
    one = opening()
    one.session.use(one.session.config._replace(settings=Settings(windows_return=returns)))
    room = one.desktop.room
    room.displays = (MAIN, QUAY)
    left = room.add(room.programs["charts"], Rect(2560, 0, 960, 1080))
    loose = room.add(room.programs["tide-gauge"], Rect(3000, 300, 500, 400))
    hidden = room.add(room.programs["letters"], Rect(2600, 100, 450, 360), None, minimised=True)
    one.session.step(one.desktop.look())
    one.run()
    room.displays = (MAIN,)
    one.session.step(one.desktop.look())
    assert "3 windows of display quay brought to main" in one.run()
    assert one.desktop.look().desk.by_id[hidden].minimised
    frames = [one.desktop.look().desk.by_id[wid].frame for wid in (left, loose)]
    assert frames == [Rect(0, 40, 1280, 1400), Rect(440, 340, 500, 400)]  # the same share, or the same size
    return one, left, loose


def test_windows_of_a_display_that_went_return_with_it_unless_they_were_moved() -> None:
    one, left, loose = _away()
    room = one.desktop.room
    room.standing[loose].window = room.standing[loose].window._replace(frame=Rect(5, 45, 500, 400))
    room.displays = (MAIN, QUAY)
    one.session.step(one.desktop.look())
    assert one.run() == ["2 windows back on display quay"]
    assert one.desktop.look().desk.by_id[left].frame == Rect(2560, 0, 960, 1080)
    assert one.desktop.look().desk.by_id[loose].frame == Rect(5, 45, 500, 400)


def test_they_stay_where_the_settings_say_so() -> None:
    one, left, _ = _away(returns=False)
    one.desktop.room.displays = (MAIN, QUAY)
    one.session.step(one.desktop.look())
    assert one.run() == []
    assert one.desktop.look().desk.by_id[left].frame == Rect(0, 40, 1280, 1400)


def test_a_display_that_comes_back_with_another_size_gets_the_same_share() -> None:
    one, left, _ = _away()
    small = Rect(2560, 0, 1280, 1024)
    one.desktop.room.displays = (MAIN, Display("HDMI-1", small, small))
    one.session.step(one.desktop.look())
    one.run()
    assert one.desktop.look().desk.by_id[left].frame == Rect(2560, 0, 640, 1024)


@pytest.fixture
def heads(tmp_path: Path) -> Iterator[XServer]:
    with with_heads("metacity", (Head(0, 0, 1920, 1080), Head(1920, 0, 1280, 1024)), tmp_path) as x:
        yield x


@NEEDS_OUTPUTS
def test_a_real_display_goes_and_comes_back(heads: XServer, tmp_path: Path) -> None:
    """A new window goes where its app says, a display is unplugged and plugged in again, and its window returns."""
    x, office = heads, Office(tmp_path / "office", heads)
    office.edit("name: DP-1", "name: DUMMY0")
    office.edit("name: HDMI-1", "name: DUMMY1")
    office.edit("class: TideGauge}}", "class: TideGauge}, opens: [place left 1/2 on quay]}")
    listening = Listening(office)
    try:
        x.press("super+t")
        quay = (1928, 8, 628, 1008)
        until(lambda: x.of_class("TideGauge") and x.frame("TideGauge") == quay, "the new window on quay")
        x.unplug(1)
        until(lambda: x.frame("TideGauge") == (8, 8, 948, 1064), "the same share of the display that is left")
        listening.until_says("1 window of display quay brought to main")
        x.plug(1, Head(1920, 0, 1280, 1024))
        until(lambda: x.frame("TideGauge") == quay, "the window back at its place")
        listening.until_says("1 window back on display quay")
    finally:
        listening.stop(signal.SIGKILL)


def test_quick_presses_go_on_from_what_was_asked_last(x: XServer, x_office: Office) -> None:
    """Presses that come before the window manager has moved the window count one after another."""
    x_office.edit(
        "  super+q: ", "  super+f5: place left 1/2, left 1/3, left 2/3\n  super+f6: nudge right 30px\n  super+q: "
    )
    listening = Listening(x_office)
    try:
        x.open("BerthBoard")
        until(lambda: x.active() == "BerthBoard", "the berth board in front")
        for _ in range(3):
            x.press("super+f5")
        until(lambda: x.frame("BerthBoard") == (8, 8, 1267, 1064), "the third place")
        for _ in range(5):
            x.press("super+f6")
        until(lambda: x.frame("BerthBoard") == (158, 8, 1267, 1064), "five nudges of 30 px")
    finally:
        listening.stop(signal.SIGKILL)
