"""Actions that have several words for where to go, or for on and off: each word from each state, worked out by hand."""

import pytest

from jaklet.core.actions.placing.shifting import shrunk_frame
from jaklet.core.language.actions import parse_action
from jaklet.core.values.desk import Window
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.forms import Ground
from jaklet.core.values.geometry import Rect
from tests.core.test_layouts import table

ABOVE = [
    ("keep above", False, True), ("keep above", True, False), ("keep above on", False, True),
    ("keep above on", True, True), ("keep above off", False, False), ("keep above off", True, False),
]  # fmt: skip
WORKSPACES = [  # of four
    ("workspace next", 1, 2), ("workspace next", 4, 1), ("workspace previous", 1, 4), ("workspace previous", 3, 2),
    ("workspace 3", 1, 3), ("workspace 3", 3, 3),
]  # fmt: skip
SENT = [("send to workspace next", 4, 1), ("send to workspace previous", 1, 4), ("send to workspace 2", 1, 2)]


@pytest.mark.parametrize(("sentence", "before", "after"), ABOVE)
def test_a_window_is_kept_above_or_not(sentence: str, before: bool, after: bool) -> None:
    one = table("letters")
    one.act(f"keep above {'on' if before else 'off'}")
    one.act(sentence)
    assert [window.above for window in one.desk().windows] == [after]


@pytest.mark.parametrize(("sentence", "before", "after"), WORKSPACES)
def test_which_workspace_is_shown(sentence: str, before: int, after: int) -> None:
    one = table("letters")
    one.act(f"workspace {before}")
    assert one.act(sentence).done
    assert one.desk().workspace == after


@pytest.mark.parametrize(("sentence", "before", "after"), SENT)
def test_where_a_window_is_sent(sentence: str, before: int, after: int) -> None:
    one = table("letters")
    one.act(f"send to workspace {before}")
    one.act(f"workspace {before}")
    one.act("focus letters")
    assert one.act(sentence).done
    assert [window.workspace for window in one.desk().windows] == [after]


def test_on_another_display_a_window_has_the_same_share_or_the_same_size() -> None:
    """Where it fills a share, that; where it stands anywhere, its size, as far as there is room for that."""
    one = table("charts")
    for place, size in (("left 1/2", None), ("at 100,100 size 640x333", (640, 333))):
        one.act(f"place {place} on main")
        one.act("send to display next")
        (window,) = one.desk().windows
        work = one.desk().display_of(window.frame).work
        assert one.desk().display_of(window.frame) != one.desk().primary
        half = (work.width - 3 * 8) // 2, work.height - 2 * 8  # the office has gaps of 8 pixels
        assert window.frame[2:] == (size or half)
        one.act("send to display next")


def test_with_one_display_there_is_no_other() -> None:
    one = table("letters")
    room = one.desktop.room
    room.displays = room.displays[:1]
    outcome = one.act("send to display next")
    assert (outcome.done, outcome.line) == (False, "there is no other display")


@pytest.mark.parametrize(("by", "width"), [(100, 200), (299, 1), (300, 1), (9999, 1)])
def test_what_is_shrunk_keeps_a_pixel(by: int, width: int) -> None:
    ground = Ground(Rect(0, 0, 1000, 800), 0, 0)
    assert shrunk_frame(Window(1), Rect(10, 10, 300, 200), "right", by, ground) == Rect(10, 10, width, 200)


def test_waiting_for_a_time_succeeds_once_that_is_over() -> None:
    one = table("letters")
    began = one.desktop.room.now
    outcome = one.act("wait 2s")
    assert (outcome.done, one.desktop.room.now - began >= 2) == (True, True)


@pytest.mark.parametrize("number", ["0", "1000", "99999999999"])
def test_no_workspace_has_a_number_beyond_its_kind(number: str) -> None:
    with pytest.raises(SentenceError):
        parse_action(f"workspace {number}")
    assert parse_action("workspace 1").refs[0].name == "1"
