"""A manager that is restarted or replaced, and displays that come and go, under the eyes of a listener."""

import contextlib
import time

import pytest

from tests.listener.test_x11 import Listening
from tests.managers.desk import CONFIG, Managed
from tests.managers.starting import MANAGERS, end, is_managed, managing
from tests.xserver import Head, until

LEAVES_BORDERS = "it leaves windows with borders of their own when it ends, which the next one keeps"
EVENTS = """events:
  window opens: tell "a window opens"
  window closes: tell "a window closes"
"""


def test_no_window_is_new_when_the_manager_is_restarted(desk: Managed) -> None:
    """Nor is one lost; the order of use and what was placed survive it, and keys go on working."""
    desk.office.config.write_text(
        CONFIG + "  ctrl+alt+shift+k: focus last\n  ctrl+alt+shift+h: place left 1/2\n" + EVENTS
    )
    desk.open("Berths", "Radio", "Tides")
    desk.activate("Tides", "Berths", "Radio")
    listening = Listening(desk.office)
    before = listening.says()
    end(desk.process)
    until(lambda: not alive(desk), "the manager to be gone")
    desk.begin_again()
    until(lambda: set(desk.reading.clients()) >= {"Berths", "Radio", "Tides"}, "the windows to be managed again")
    desk.activate("Radio")
    time.sleep(1)  # as long as a new manager may go through the windows, which is no use of them
    desk.x.press("ctrl+alt+shift+k")
    try:
        until(lambda: desk.reading.focus() == "Berths", "the window used before")
    except AssertionError as fault:
        raise AssertionError(f"{fault}; {desk.reading.focus()} has the focus; {listening.says()}") from fault
    desk.x.press("ctrl+alt+shift+h")
    listening.until_says("is at left 1/2")
    said = listening.says()[len(before) :]
    assert "a window opens" not in said
    assert "a window closes" not in said
    desk.open("Ledger")
    listening.until_says("a window opens")
    assert listening.stop() == 0


@pytest.mark.slow
@pytest.mark.parametrize("other", ["metacity", "icewm", "jwm"])
def test_another_manager_takes_over(desk: Managed, other: str) -> None:
    """Its ways are its own: what was learned of the former one is not taken for it."""
    if not MANAGERS[other].is_here or desk.manager.name == other:
        pytest.skip(f"needs {other} beside {desk.manager.name}")
    if desk.manager.name == "wmaker":
        pytest.skip(LEAVES_BORDERS)
    desk.office.config.write_text(CONFIG + EVENTS)
    desk.open("Berths", "Radio", "Tides")
    listening = Listening(desk.office)
    before = listening.says()
    end(desk.process)
    until(lambda: not alive(desk), "the manager to be gone")
    borders = False
    with contextlib.suppress(AssertionError):
        borders = until(lambda: desk.reading.has_border("Berths"), "a border", 1)
    if borders:
        listening.stop()
        desk.begin_again()
        pytest.skip(LEAVES_BORDERS)
    with contextlib.ExitStack() as stack:
        stack.callback(desk.begin_again)
        stack.enter_context(managing(desk.x, MANAGERS[other], desk.office.folder / "home"))
        until(lambda: set(desk.reading.clients()) >= {"Berths", "Radio", "Tides"}, "the windows to be managed again")
        until(lambda: not desk.jaklet("act", "place berths left 1/2 on side", status=None).returncode, "its place")
        for name in ("radio", "tides"):
            desk.act(f"place {name} left 1/2 on side")
        desk.act("go berths")
        assert desk.reading.frame("Berths")[0] == 1280
        assert desk.reading.order("Berths", "Radio", "Tides")[-1] == "Berths"
        assert "a window opens" not in listening.says()[len(before) :]
        assert listening.stop() == 0
        desk.x.clear()


def alive(desk: Managed) -> bool:
    """Return whether a manager answers for itself."""
    named = desk.reading.words(desk.reading.root, "_NET_SUPPORTING_WM_CHECK")
    return bool(named) and desk.reading.words(named[0], "_NET_SUPPORTING_WM_CHECK") == named and is_managed(desk.x)


def test_a_display_goes_and_comes(desk: Managed) -> None:
    desk.open("Berths", "Radio")
    desk.act("place berths left 1/2 on main")
    desk.act("place radio right 1/2 on side")
    desk.activate("Berths", "Radio")
    desk.jaklet("layout", "save", "bay")
    saved = {name: desk.reading.frame(name) for name in ("Berths", "Radio")}
    desk.x.unplug(1)
    try:
        said = desk.recall("bay")
        assert desk.reading.frame("Radio")[0] < 1280, said
    finally:
        desk.x.plug(1, Head(1280, 0, 1024, 768))
    said = desk.recall("bay")
    desk.until(lambda: desk.reading.frame("Radio"), saved["Radio"], said)
    # A manager may leave its own bar where the display was, so that the work area is another one.
    assert desk.reading.frame("Berths")[:3] == saved["Berths"][:3]
