"""What is said is what was read back: commands beside a listener on a real server, each about one thing."""

import signal
from collections.abc import Iterator

import pytest

from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.xserver import XServer, until


@pytest.fixture
def listening(x: XServer, x_office: Office) -> Iterator[Listening]:
    x.open("BerthBoard")
    x.open("RadioLog")
    one = Listening(x_office)
    yield one
    one.stop(signal.SIGKILL)


@pytest.mark.usefixtures("listening")
@pytest.mark.parametrize("form", ["halves", "stack", "columns", "off"])
def test_the_desk_says_how_it_is_arranged_now_and_what_floats(form: str, x_office: Office) -> None:
    for action in ("keep arranged rows", f"keep arranged {form}"):
        x_office.jaklet("act", action)
    told, status = (x_office.jaklet(word, status=None).stdout for word in ("desk", "status"))
    is_off = form == "off"
    assert (f"keeps arranged: workspace 1 on main: {form}" in told) is not is_off, told
    assert "rows" not in told
    assert (f"workspace 1 on main: {form}" in status) is not is_off, status
    x_office.jaklet("act", "go radio")
    x_office.jaklet("act", "float")
    assert ("floats: radio" in x_office.jaklet("desk").stdout) is not is_off


def test_of_a_fixed_window_it_is_said_that_it_keeps_its_size(x: XServer, x_office: Office) -> None:
    x.open("BerthBoard", "--size", "500x300", "--least", "500x300", "--most", "500x300")
    until(lambda: x.active() == "BerthBoard", "the berth board in front")
    said = x_office.jaklet("act", "place left 2/3", status=None).stdout
    frame = x.frame("BerthBoard")
    assert "is as near to left 2/3 as its fixed size of 500x300 lets it" in said
    assert (frame[0], frame[2]) == (8, 500)


def test_a_check_of_the_running_desk_counts_its_workspaces(x_office: Office) -> None:
    x_office.edit("  super+q: ", "  super+f5: send to workspace 9\n  super+q: ")
    assert "JK309" not in x_office.jaklet("check", status=None).stdout
    live = x_office.jaklet("check", "--live", status=None).stdout
    assert "JK309" in live
    assert "workspace 9" in live


@pytest.mark.usefixtures("listening")
def test_a_status_after_a_refused_reload_tells_why_and_of_no_layout_that_is_gone(x_office: Office) -> None:
    x_office.jaklet("layout", "save", "bay")
    assert "layout       bay" in x_office.jaklet("status", status=None).stdout
    x_office.edit("super+b: go berths", "super+b: go birth")
    x_office.jaklet("reload", status=1)
    (x_office.folder / "layouts" / "bay.yaml").unlink()
    told = x_office.jaklet("status", status=1).stdout
    assert "no app is called 'birth'" in told
    assert "layout       bay" not in told


def test_a_reload_tells_what_changed_once_and_in_a_few_lines(x_office: Office, listening: Listening) -> None:
    """Notes are for `jaklet check`: they do not come with each reload."""
    x_office.edit("  super+q: ", "  super+f6: tell 'x'\n  super+q: ")
    x_office.edit("apps:\n", "apps:\n  buoys: {launch: sh}\n")  # nothing uses it: a note
    assert "nothing uses app buoys" in x_office.jaklet("check", status=None).stdout
    before = len(listening.says())
    assert x_office.jaklet("reload").stdout.startswith("reloaded: ")
    assert "nothing uses app buoys" not in listening.says()[before:]
    text = x_office.config.read_text()
    x_office.config.write_text(text.replace("  super+", "  ctrl+super+"))
    told = x_office.jaklet("reload", status=None)
    assert len((told.stdout + told.stderr).splitlines()) < 30, told.stdout
