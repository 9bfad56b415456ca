"""A saved layout comes back: frames, order, focus, states and workspaces, as the server itself tells it."""

import sys
from collections.abc import Callable
from typing import Any

from tests.listener.test_x11 import Listening
from tests.managers.desk import NAMES, Managed
from tests.xserver import until

ORDERS = (("Berths", "Radio", "Tides", "Ledger", "Letters"), ("Letters", "Berths", "Ledger", "Radio", "Tides"))
PLACES = ("left 1/2", "right 1/2", "left 2/3", "centre 50% x 50%", "top 1/2")
FLIPS = 20


def seen(desk: Managed) -> dict[str, Any]:
    """Return all that a layout holds."""
    reading = desk.reading
    shown = [name for name in NAMES if not reading.is_minimised(name)]
    return {
        "order": reading.order(*shown),
        "frames": {name: reading.frame(name) for name in shown},
        "minimised": sorted(set(NAMES) - set(shown)),
        "shown": [name for name in shown if reading.is_seen(name)],
        "states": {name: reading.states(name) - {"HIDDEN", "DEMANDS_ATTENTION", "STICKY"} for name in NAMES},
        "workspaces": {name: reading.workspace(name) for name in NAMES},
        "focus": reading.focus(),
        "marked": reading.marked(),
    }


def test_an_order_and_the_focus_come_back_each_time(desk: Managed) -> None:
    """Two saves and twenty flips."""
    desk.open(*NAMES)
    saved = []
    for number, order in enumerate(ORDERS, 1):
        for name, place in zip(order, PLACES, strict=True):
            desk.act(f"place {name.lower()} {place} on main")
        desk.activate(*order)
        desk.jaklet("layout", "save", f"layout{number}", "--number", str(number))
        saved.append(seen(desk))
        assert saved[-1]["order"] == list(order)
    for turn in range(FLIPS):
        number = 1 + turn % 2
        said = desk.recall(str(number))
        assert said.startswith(f"recalled layout{number}: 5 of 5 windows in place, 5 moved, focus: "), said
        desk.until(lambda: seen(desk), saved[number - 1], f"turn {turn}: {said}")
    said = desk.recall("2")
    assert "5 of 5 windows in place, nothing to move" in said
    assert seen(desk) == saved[1]


def test_every_state_comes_back(desk: Managed) -> None:
    """Minimised, maximised, fullscreen and kept above, whatever was done meanwhile."""
    desk.open(*NAMES)
    for name, place in zip(NAMES, PLACES, strict=True):
        desk.act(f"place {name.lower()} {place} on main")
    desk.act("place letters right 1/2 on side")
    desk.activate(*NAMES)
    desk.act("minimise berths")
    desk.act("maximise radio")
    desk.act("keep tides above")
    desk.act("fullscreen letters")
    desk.activate("Ledger")
    desk.jaklet("layout", "save", "bay")
    saved = seen(desk)
    assert saved["minimised"] == ["Berths"]
    assert saved["states"]["Radio"] == {"MAXIMIZED_HORZ", "MAXIMIZED_VERT"}
    assert saved["states"]["Tides"] == {"ABOVE"}
    assert saved["states"]["Letters"] - {"ABOVE"} == {"FULLSCREEN"}  # some keep what is so above by themselves
    assert saved["frames"]["Letters"] == (1280, 0, 1024, 768)
    for sentence in (
        "restore berths", "maximise berths", "restore radio", "minimise tides", "restore letters", "minimise ledger",
        "place letters left 1/3 on main", "fullscreen radio", "keep berths above",
    ):  # fmt: skip
        desk.act(sentence)
    said = desk.recall("bay")
    desk.until(lambda: seen(desk), saved, said)
    assert "5 of 5 windows in place" in said


def test_a_minimised_window_is_shown_again_and_nothing_else_changes(desk: Managed) -> None:
    desk.open("Berths", "Radio")
    desk.act("place berths left 1/2 on main")
    desk.act("place radio left 1/2 on side")
    desk.activate("Berths", "Radio")
    desk.act("minimise berths")
    desk.until(lambda: desk.reading.is_minimised("Berths"), True, "out of view")
    assert desk.reading.focus() != "Berths"
    said = desk.act("restore berths")
    desk.until(lambda: (desk.reading.is_minimised("Berths"), desk.reading.is_seen("Berths")), (False, True), said)
    desk.until(lambda: desk.reading.frame("Berths")[:2], (0, 0), said)  # some let it fly there from their taskbar
    assert not desk.reading.marked()


def test_workspaces_come_back(desk: Managed) -> None:
    if desk.workspaces() < 2:
        refused = desk.jaklet("act", "workspace 2", status=1)
        assert "there is no workspace 2" in refused.stdout + refused.stderr
        desk.ask(desk.reading.root, "_NET_NUMBER_OF_DESKTOPS", 4)
        desk.until(desk.workspaces, 4, "workspaces")
    desk.open(*NAMES)
    for name, place in zip(NAMES, PLACES, strict=True):
        desk.act(f"place {name.lower()} {place} on main")
    desk.act("send radio to workspace 2")
    desk.act("send tides to workspace all")
    desk.activate("Berths", "Tides", "Ledger", "Letters")
    desk.jaklet("layout", "save", "bay")
    saved = seen(desk)
    assert saved["workspaces"] == {"Berths": 1, "Radio": 2, "Tides": None, "Ledger": 1, "Letters": 1}
    desk.act("send radio to workspace 1")
    desk.act("send tides to workspace 2")
    desk.act("send letters to workspace 2")
    desk.act("workspace 2")
    desk.until(lambda: desk.reading.words(desk.reading.root, "_NET_CURRENT_DESKTOP")[0], 1, "workspace 2")
    said = desk.recall("bay")
    desk.until(lambda: {**seen(desk), "shown": []}, {**saved, "shown": []}, said)


def test_a_window_that_takes_no_focus_is_raised_and_the_answer_says_so(
    desk: Managed, limit: Callable[[str], None]
) -> None:
    desk.open("Berths")
    desk.x.open("Tides", "--no-input")
    desk.open("Radio")
    for name in ("berths", "tides", "radio"):
        desk.act(f"place {name} left 1/2 on main")
    desk.activate("Berths", "Radio")
    desk.until(lambda: desk.reading.order("Berths", "Tides", "Radio")[-1], "Radio", "the order before")
    said = desk.act("go tides")
    active = desk.reading.words(desk.reading.root, "_NET_ACTIVE_WINDOW")[:1]
    given = active == (desk.reading.clients()["Tides"],)  # by some all the same
    assert ("is in front, and takes no focus" in said) is not given, (said, active)
    desk.until(lambda: desk.reading.order("Berths", "Tides", "Radio")[-1], "Tides", said)
    refused = desk.jaklet("act", "minimise tides", status=None)
    if refused.returncode:  # what could not be brought back by a click is not minimised by some
        assert "could not minimise tides" in refused.stderr
        assert not desk.reading.is_minimised("Tides")
        limit("A window that takes no focus is not minimised; the answer: could not minimise it.")
        return
    desk.until(lambda: desk.reading.is_minimised("Tides"), True, "out of view")
    said = desk.act("go tides")
    desk.until(lambda: desk.reading.is_seen("Tides"), True, said)


def test_a_dialog_stays_with_its_app(desk: Managed) -> None:
    """It is no window of the layout: it is neither placed nor swept, stands above its window, and has the focus."""
    desk.open("Berths", "Radio")
    desk.x.open("Letters", "--dialog", "Send where?", "--size", "400x300", count=1)
    reading = desk.reading

    def dialogs() -> list[int]:
        return [wid for wid in reading.words(reading.root, "_NET_CLIENT_LIST") if reading.title(wid) == "Send where?"]

    (asked,) = until(dialogs, "the dialog")
    for name, place in (("berths", "left 1/2"), ("radio", "right 1/2"), ("letters", "right 2/3")):
        desk.act(f"place {name} {place} on main")
    size = reading.size(asked)
    desk.activate("Letters", "Berths", "Radio")
    desk.jaklet("layout", "save", "bay")
    saved = reading.order("Berths", "Radio", "Letters")
    said = desk.act("go letters")
    desk.until(lambda: reading.tops()[-1], asked, said)
    desk.until(lambda: reading.focus(), "Letters", said)
    desk.act("place letters left 1/3 on main")
    said = desk.recall("bay")
    desk.until(lambda: reading.order("Berths", "Radio", "Letters"), saved, said)
    assert "3 of 3 windows in place" in said
    assert reading.size(asked) == size


def test_a_window_that_opens_without_the_focus_gets_it(desk: Managed) -> None:
    """Some managers keep back what was not asked for a moment ago, and some programs say themselves that they were not."""
    shy = f"{sys.executable} -m jaklet.demo.windows --class Ledger --instance ledger --title Ledger --shy"
    desk.office.edit("launch: ledger", f"launch: {shy}")
    desk.office.edit("bindings:", "bindings:\n  ctrl+alt+shift+l: go ledger")
    desk.open("Berths", "Radio")
    for name in ("berths", "radio"):
        desk.act(f"place {name} full on main")
    listening = Listening(desk.office)
    desk.activate("Berths", "Radio")
    desk.x.press("ctrl+alt+shift+l")
    listening.until_says("is launched and in front")
    desk.until(lambda: (desk.reading.focus(), desk.reading.order()[-1]), ("Ledger", "Ledger"), listening.says())
    assert not desk.reading.marked()
    assert listening.stop() == 0


def test_an_edge_that_the_config_keeps_free_is_left_free(desk: Managed) -> None:
    text = desk.office.config.read_text()
    desk.office.config.write_text(
        text.replace("main: {name: DUMMY0}", "main: {name: DUMMY0, reserve: {top: 32px, left: 10}}")
    )
    desk.open("Berths")
    said = desk.act("place berths full on main")
    desk.until(lambda: desk.reading.frame("Berths")[:2], (10, 32), said)
    assert desk.reading.frame("Berths")[2] == 1270
    assert "JK317" not in desk.jaklet("check", "--live").stdout
