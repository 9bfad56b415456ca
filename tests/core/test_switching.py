"""Actions that have several words for where to go, or for on and off: each word from each state, worked out by hand."""

import pytest

from jaklet.core.language.actions import parse_action
from jaklet.core.values.errors import SentenceError
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
