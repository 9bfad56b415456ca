"""What the server tells of a window, where its manager tells something else."""

import json
import struct
from pathlib import Path

import xcffib.xproto as xp

from tests.conftest import Office
from tests.managers.reading import Reading
from tests.xserver import XServer, running, until


def minimised(office: Office) -> dict[str, bool]:
    """Return whether each window is minimised, as a script is told."""
    windows = json.loads(office.jaklet("desk", "--format", "json").stdout)["windows"]
    return {one["class"]: one["minimised"] for one in windows}


def test_what_is_viewable_is_in_view_whatever_mark_was_left_behind(x: XServer, x_office: Office) -> None:
    """A manager can leave the mark of a minimised window behind; and what is minimised indeed is so."""
    x.open("RadioLog")
    x.open("BerthBoard")
    reading = Reading(x)
    board = reading.clients()["BerthBoard"]
    hidden = reading.atom("_NET_WM_STATE_HIDDEN")
    reading.core.ChangeProperty(0, board, reading.atom("_NET_WM_STATE"), 4, 32, 1, [hidden])
    reading.core.GetInputFocus().reply()
    assert hidden in reading.words(board, "_NET_WM_STATE")
    assert minimised(x_office) == {"RadioLog": False, "BerthBoard": False}
    assert "is in front" in x_office.jaklet("act", "go berths").stdout
    assert "is in front" in x_office.jaklet("act", "go radio").stdout
    x_office.jaklet("act", "minimise radio")
    until(lambda: reading.is_minimised("RadioLog"), "the radio log to be minimised")
    assert minimised(x_office) == {"RadioLog": True, "BerthBoard": False}
    assert "is in front" in x_office.jaklet("act", "go radio").stdout
    assert reading.is_seen("RadioLog")
    reading.close()


def test_doctor_says_that_no_manager_is_there(tmp_path: Path) -> None:
    with running() as x:
        office = Office(tmp_path / "office", x)
        assert "EWMH" not in office.jaklet("doctor", status=None).stdout
        x.processes[1].kill()
        x.processes[1].wait()
        told = office.jaklet("doctor", status=1).stdout
        assert told.startswith(
            "desk\n  no window manager that follows EWMH is running on this X server\n    remedy: start one"
        )


def test_how_many_workspaces_there_are(tmp_path: Path) -> None:
    """As the manager says; one where it has no more."""
    with running() as x:
        office, reading = Office(tmp_path / "office", x), Reading(x)
        for number in (1, 3):
            event = struct.pack(
                "=BBHII5I", 33, 32, 0, reading.root, reading.atom("_NET_NUMBER_OF_DESKTOPS"), number, 0, 0, 0, 0
            )
            mask = xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify
            reading.core.SendEvent(False, reading.root, mask, event)
            reading.core.GetInputFocus().reply()
            until(lambda n=number: reading.words(reading.root, "_NET_NUMBER_OF_DESKTOPS") == (n,), "that many")  # type: ignore[misc]
            assert json.loads(office.jaklet("desk", "--format", "json").stdout)["workspaces"] == number
        assert "there is no workspace 4: there are 3" in office.jaklet("act", "workspace 4", status=1).stderr
        reading.close()
