"""Practice: when lines are asked again, what a session asks, and the command on a terminal and with real keys."""

import json
import random
from datetime import date, timedelta
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.language.actions import parse_action
from jaklet.core.values.chords import Keys, parse_keys
from jaklet.core.values.config import Binding, Config, Layer
from jaklet.core.values.scopes import Scope
from jaklet.core.values.spans import Spot
from jaklet.core.values.use_counts import FIRED, Count, counted_as
from jaklet.counters.practice_progress import Progress
from jaklet.practice.lessons import USED_DAYS, PracticeSession, lessons, to_learn
from jaklet.practice.schedule import LEAST_EASE, MOST_DAYS, NEW, LearnedState, review
from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.terminals import screens
from tests.xserver import XServer, until

TODAY = date(2026, 11, 26)


def test_the_schedule_is_that_of_the_paper() -> None:
    """SM-2: 1 day, 6 days, then the last interval times the ease, which 5 raises by 0.1, 4 leaves, 3 lowers by 0.14."""
    one, days = NEW, []
    for quality in (5, 5, 5, 4, 3, 2, 5):
        one = review(one, quality, TODAY)
        days.append((one.times, round(one.ease, 2), one.days))
    assert days == [(1, 2.6, 1), (2, 2.7, 6), (3, 2.8, 17), (4, 2.8, 48), (5, 2.66, 128), (0, 2.66, 1), (1, 2.76, 1)]
    assert one.due == "2026-11-27"


@given(st.lists(st.integers(0, 5), min_size=1, max_size=30))
def test_what_is_known_comes_later_and_what_is_not_tomorrow(qualities: list[int]) -> None:
    one = NEW
    for quality in qualities:
        former, one = one, review(one, quality, TODAY)
        assert one.ease >= LEAST_EASE
        assert 1 <= one.days <= MOST_DAYS
        assert one.due == (TODAY + timedelta(one.days)).isoformat()
        assert (
            one.days == 1 if quality < 3 else one.days >= former.days or former.days == MOST_DAYS or former.times == 0
        )
    assert one.is_known is (len(qualities) > 1 and min(qualities[-2:]) >= 3)


def bound(keys: str, action: str, line: int, **more: object) -> Binding:
    return Binding(parse_keys(keys), parse_action(action), Spot("", line, 1, 2), **more)  # type: ignore[arg-type]


CONFIG = Config(
    bindings=(
        bound("super+g", "go ledger", 1, note="The ledger"), bound("super+f12", "go ledger", 2),
        *(bound(f"super+{n}", f"recall {n}", 3, family=("super+<n>", "recall <n>")) for n in (1, 2)),
        bound("super+s a", "undo", 4), bound("super+w", "enter arrange", 5), bound("b", "focus last", 6, layer="arrange"),
        bound("super+e", "close", 7, scope=Scope(frozenset({"ledger"}), only=True)), bound("super+x", "close", 8, off=True),
    ),
    layers={"arrange": Layer("arrange")},
)  # fmt: skip
NAMES = [
    "super+g: go ledger", "super+f12: go ledger", "super+1: recall <n>", "super+s a: undo", "super+w: enter arrange",
    "super+e: close (only in ledger)", "b (arrange): focus last",
]  # fmt: skip


def test_a_session_asks_what_is_due_and_new_and_again_what_was_wrong() -> None:
    every = lessons(CONFIG)
    assert [one.name for one in every] == NAMES
    late, today, later, known = (
        LearnedState(2, 2.5, 6, (TODAY + timedelta(days)).isoformat()) for days in (-3, 0, 1, 90)
    )
    progress = {NAMES[1]: today, NAMES[3]: late, NAMES[4]: later, NAMES[6]: known}
    often = [
        Count(f"2026-11-{day:02}", FIRED, counted_as(parse_keys("super+e"), "", "close"), 1) for day in range(1, 8)
    ]
    assert len(often) > USED_DAYS
    fresh = to_learn(every, progress, often)
    assert [one.name for one in fresh] == [NAMES[0], NAMES[2]]  # the others are known, or pressed every day
    kept: dict[str, LearnedState] = {}
    session = PracticeSession(every, fresh, progress, CONFIG, TODAY, kept.__setitem__, random.Random(1))
    assert (session.due, session.new) == (2, 2)
    words: list[str] = []
    rights: list[Keys] = []
    while (task := session.next()) is not None:
        words.append(task.words)
        right = not (task.lesson.name == NAMES[3] and len(words) == 1)
        pressed = task.keys[-1] if right else parse_keys("super+s b")
        assert task.is_right(pressed) is right
        assert task.goes_on(pressed[:1]) is (len(pressed) > 1)
        rights.append(pressed)
        session.answered(task, right, 60 if task.lesson.name == NAMES[0] else 1)
    assert words[:3] == ["undo", "go ledger", "The ledger"]
    assert words[3] in ("recall 1", "recall 2")
    assert words[4:] == ["undo"]
    assert (session.asked, session.right) == (4, 3)
    assert {name: (one.times, round(one.ease, 2)) for name, one in kept.items()} == {
        NAMES[3]: (0, 2.5), NAMES[1]: (3, 2.6), NAMES[0]: (1, 2.5), NAMES[2]: (1, 2.6),
    }  # fmt: skip
    # Another key that does the same is as good.
    assert rights[2] == parse_keys("super+f12")
    assert [one.name for one in to_learn(every, progress | kept, often)] == [NAMES[0], NAMES[2], NAMES[3]]


def test_progress_is_kept_and_outlives_a_broken_file(tmp_path: Path) -> None:
    progress = Progress(lambda: tmp_path)
    assert progress.all() == {}
    assert not progress.file.exists()
    one = LearnedState(2, 2.6, 6, "2026-12-02")
    progress.keep("super+g: go ledger", one)
    assert Progress(lambda: tmp_path).all() == {"super+g: go ledger": one}
    progress.file.write_text("no database")
    progress.keep("b", one)
    progress.keep("b", one)
    assert progress.all() == {"b": one}
    assert progress.forget() == 1
    assert progress.all() == {}


def test_keys_are_written_on_a_terminal(office: Office) -> None:
    whole = json.loads(office.jaklet("keys", "--to-learn", "--format", "json").stdout)
    assert len(whole) > 20
    assert "practising needs a terminal" in office.jaklet("practise", status=2).stderr
    with screens(office) as show:
        screen = show("practise", "focus", "--minutes", "2")
        screen.until_shows("focus last")
        assert "0 due, 6 new" in screen.read()
        screen.until_shows("keys: ")
        screen.type("sper+z\n")
        screen.until_shows("did you mean super?")
        screen.type("super+z\n")
        screen.until_shows("right  super+z")
        screen.until_shows("focus next")
        screen.type("super+h\n")
        screen.until_shows("it is  super+n  and not super+h, which is for: focus left")
        screen.until_shows("focus previous")
        screen.type("\x04")
        status, shown = screen.end()
        assert status == 0
        assert "2 lines asked, 1 right at once; 0 known" in shown
        # What was right is not asked again today, and what was wrong not before tomorrow.
        screen = show("practise", "focus", "last")
        assert "nothing is due today; " in screen.end()[1]
    lines = json.loads(office.jaklet("keys", "--to-learn", "--format", "json").stdout)
    assert len(lines) == len(whole)  # right once is not known yet
    assert "add --sure" in office.jaklet("practise", "--forget", status=2).stderr
    assert "2 lines forgotten" in office.jaklet("practise", "--forget", "--sure").stdout
    assert office.jaklet("practise", "--forget", "--sure").stdout == "0 lines forgotten\n"


@pytest.mark.parametrize("is_listening", [False, True])
def test_real_keys_do_nothing_but_answer(x: XServer, x_office: Office, is_listening: bool) -> None:
    """On X the keys themselves are pressed; a listener beside does nothing by them, and afterwards does again."""
    listening = Listening(x_office) if is_listening else None
    try:
        with screens(x_office) as show:
            screen = show("practise", "by", "task", "--new", "2")
            screen.until_shows("Press the keys")
            screen.until_shows("enter arrange")
            x.press("super+w")
            screen.until_shows("right  super+w")
            screen.until_shows("start of day")
            x.press("super+g")  # would launch the ledger
            screen.until_shows("it is  super+d  and not super+g, which is for: go ledger")
            x.press("super+d")
            status, shown = screen.end()
            assert status == 0
            assert "2 lines asked, 1 right at once" in shown
            screen = show("practise", "by", "task", "--new", "2")
            screen.until_shows("Press the keys")
            x.press("escape")
            assert "0 lines asked" in screen.end()[1]
        if listening:
            assert "super+" not in listening.says()  # nothing was done by a key
            x.press("super+w")
            until(lambda: "arrange" in x_office.jaklet("status").stdout, "the layer")
    finally:
        if listening:
            listening.stop()
