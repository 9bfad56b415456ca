"""Windows that go back after they were placed: told of, known from then on, and nothing is said to be done that is not."""

import signal

import pytest

from tests.conftest import Office
from tests.listener.test_x11 import LEFT_TWO_THIRDS, Listening
from tests.xserver import XServer, until


@pytest.mark.parametrize("after", [150, 600])
def test_a_window_that_goes_back_is_told_of_and_done_is_said_of_what_stays(
    after: int, x: XServer, x_office: Office
) -> None:
    x.open("BerthBoard", "--goes-back", str(after))
    listening = Listening(x_office)
    try:
        until(lambda: x.active() == "BerthBoard", "the berth board in front")
        x.press("super+left")
        listening.until_says("went back to")
        at = x.frame("BerthBoard")[:2]
        assert f"berths (BerthBoard) went back to {at[0]},{at[1]}" in listening.says()
        before = listening.says()
        x.press("super+left")

        listening.until_says("super+left: place left 2/3: ")  # an action that failed is told of with its words
        assert "is at left 2/3" not in listening.says()[len(before) :]
        said = x_office.jaklet("act", "place left 1/2", status=1)
        assert "berths (BerthBoard) was asked to be" in said.stdout + said.stderr
        x_office.jaklet("layout", "save", "back")
        (x_office.folder / "layouts" / "back.yaml").write_text(
            "layout: back\nwindows:\n- {app: berths, display: main, place: left 1/2}\n"
        )
        recalled = x_office.jaklet("layout", "recall", "back", status=1)
        assert "0 of 1 window in place" in recalled.stdout + recalled.stderr
    finally:
        listening.stop(signal.SIGKILL)
    kept = x_office.jaklet("act", "--desk", "x11", "place left 1/3", status=1)  # also by whoever was told of it
    assert "was asked to be" in kept.stdout + kept.stderr


def test_a_window_that_stays_is_waited_for_by_nobody(x: XServer, x_office: Office) -> None:
    """Nor is one that a hand has moved within the second told of, or learned."""
    x.open("BerthBoard")
    listening = Listening(x_office)
    try:
        until(lambda: x.active() == "BerthBoard", "the berth board in front")
        x.press("super+left")
        until(lambda: x.frame("BerthBoard") == LEFT_TWO_THIRDS, "its place")
        x.press("super+right")
        listening.until_says("is at right 1/3")
        x.press("super+left")
        listening.until_says("is at left 2/3")
        assert "went back" not in listening.says()
        assert not (x_office.folder / "state" / "jaklet" / "returns.sqlite").exists()
    finally:
        listening.stop(signal.SIGKILL)


def test_what_is_placed_after_going_to_a_window_without_focus_is_that_window(x: XServer, x_office: Office) -> None:
    x.open("TideGauge", "--no-input")
    x.open("BerthBoard")
    listening = Listening(x_office)
    try:
        until(lambda: x.active() == "BerthBoard", "the berth board in front")
        board = x.frame("BerthBoard")
        x.press("super+t")
        listening.until_says("super+t: tides")
        x.press("super+left")
        listening.until_says("super+left: ")
        if x.active() == "BerthBoard":  # a manager may give it the focus all the same
            assert "super+left: tides (TideGauge) is at left 2/3" in listening.says()
            assert (x.frame("TideGauge"), x.frame("BerthBoard")) == (LEFT_TWO_THIRDS, board)
        x.press("super+b")
        listening.until_says("super+b: berths")
        x.press("super+right")
        listening.until_says("super+right: berths (BerthBoard) is at right 1/3")
    finally:
        listening.stop(signal.SIGKILL)
