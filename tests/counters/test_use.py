"""What is used: counted by a listener, kept by day, and told."""

import json
from datetime import date, timedelta
from pathlib import Path

import pytest

from jaklet.core.keys.sheet import sheet_lines
from jaklet.core.language.actions import parse_action
from jaklet.core.values.apps import App, exactly
from jaklet.core.values.chords import parse_keys
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.geometry import Rect
from jaklet.core.values.spans import Spot
from jaklet.core.values.use_counts import FIRED, GIVEN_UP, PUT_RIGHT, REACHED, Count, name_of
from jaklet.counters.use_counts import DATABASE, KEPT, UseCounts
from jaklet.counters.use_report import by_week, use_report
from jaklet.demo.year import made_up
from jaklet.listener.counting import Counting
from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.xserver import XServer, until

TODAY = date(2026, 11, 26)


def bound(keys: str, action: str, line: int, family: tuple[str, str] | None = None, layer: str = "") -> Binding:
    return Binding(parse_keys(keys), parse_action(action), Spot("", line, 1, 2), family=family, layer=layer)


CONFIG = Config(
    apps={name: App(name, (name,), (exactly(cls=name),)) for name in ("berths", "radio", "tides")},
    bindings=(
        bound("super+b", "go berths", 1), bound("super+r", "go radio", 2), bound("super+z", "focus last", 3),
        *(bound(f"super+{n}", f"recall {n}", 4, ("super+<n>", "recall <n>")) for n in (1, 2)),
    ),
)  # fmt: skip


def counts(*rows: tuple[int, str, str, int]) -> list[Count]:
    return [Count((TODAY - timedelta(days)).isoformat(), kind, what, times) for days, kind, what, times in rows]


def test_what_is_told_of_counts() -> None:
    told = use_report(
        counts(
            (0, FIRED, "super+b: go berths", 5), (3, FIRED, "super+b: go berths", 2), (9, FIRED, "super+2: recall 2", 1),
            (1, FIRED, "super+1: recall 1", 8), (0, FIRED, "super+x: close", 4), (0, REACHED, "radio", 6),
            (0, REACHED, "berths", 1), (2, REACHED, "tides", 3), (0, REACHED, "gone", 3), (0, GIVEN_UP, "super+s", 2), (1, GIVEN_UP, "super+s", 1),
        ),
        sheet_lines(CONFIG),
        CONFIG,
    )  # fmt: skip
    assert [(one.line.keys, one.times, one.last) for one in told.used] == [
        ("super+<n>", 9, "2026-11-25"), ("super+b", 7, "2026-11-26"), ("super+r", 0, ""), ("super+z", 0, ""),
    ]  # fmt: skip
    assert [tuple(one) for one in told.reached] == [
        ("radio", 0, 6, ("super+r",)), ("tides", 0, 3, ()), ("berths", 7, 1, ("super+b",)),
    ]  # fmt: skip
    assert (told.gone, told.given_up, told.total) == ((("super+x: close", 4),), (("super+s", 3),), 20)


def test_counts_are_kept_by_day_and_forgotten(tmp_path: Path) -> None:
    day = [TODAY]
    kept = UseCounts(lambda: tmp_path / "state", lambda: day[0])
    assert kept.since(30) == []
    assert not (tmp_path / "state").exists()
    kept.add([(FIRED, "super+b: go berths", 2), (REACHED, "radio", 1)])
    kept.add([(FIRED, "super+b: go berths", 3)])
    day[0] += timedelta(40)
    kept.add([(FIRED, "super+b: go berths", 1)])
    assert [one.times for one in kept.since(30)] == [1]
    assert kept.since(41)[0] == Count(TODAY.isoformat(), FIRED, "super+b: go berths", 5)
    day[0] += timedelta(KEPT)
    kept.add([(FIRED, "super+z: focus last", 1)])
    assert len(kept.since(9999)) == 2  # the oldest day is forgotten
    (tmp_path / "state" / DATABASE).write_bytes(b"no database at all" * 99)
    assert kept.since(30) == []
    kept.add([(FIRED, "super+z: focus last", 1)])
    assert kept.forget() == 1
    assert kept.since(30) == []


def test_a_listener_counts_without_writing_while_keys_are_pressed(monkeypatch: pytest.MonkeyPatch) -> None:
    now, saved = [100.0], list[list[tuple[str, str, int]]]()
    monkeypatch.setattr("jaklet.listener.counting.time.monotonic", lambda: now[0])
    counting = Counting(lambda rows: saved.append([*rows]))
    counting.looks("berths", busy=False)
    for _ in range(3):
        counting.fired(CONFIG.bindings[1])
        counting.looks("radio", busy=False)  # by the key
    now[0] += 5
    counting.looks("tides", busy=False)  # by hand
    counting.looks(None, busy=False)
    counting.looks("berths", busy=True)  # by what is under way
    counting.looks("radio", busy=False)
    counting.look()
    assert saved == []
    now[0] = counting.deadline
    counting.look()
    until(lambda: saved, "the counts to be written")
    assert sorted(saved[0]) == [(FIRED, "super+r: go radio", 3), (REACHED, "tides", 1)]
    assert counting.deadline == float("inf")
    # What is moved by hand soon after a recall has been put right, once; what a key moves, and what is late, has not.
    window = Window(1)

    def seen(x: int, after: float) -> None:
        now[0] += after
        counting.looks("berths", busy=False, desk=Desk((), (window._replace(frame=Rect(x, 0, 500, 400)),)))

    for waits, acts in ((5.0, False), (5.0, True), (200.0, False)):
        counting.fired(CONFIG.bindings[0])
        counting.recalled("recall 1")
        seen(0, 3)
        seen(0, 3)
        if acts:
            counting.fired(CONFIG.bindings[1])
        seen(40, waits)
        seen(80, 1)
    counting.recalled("recall 2")
    seen(0, 3)
    seen(0, 3)
    counting.looks("berths", busy=True)  # windows get their shares, as they stay arranged
    seen(90, 3)
    seen(90, 3)
    counting.end()
    assert (PUT_RIGHT, "recall 1", 1) in saved[1]
    assert not [row for row in saved[1] if row[1] == "recall 2"]
    counting.on = False
    counting.fired(CONFIG.bindings[1])
    counting.end()
    assert len(saved) == 2


def test_a_made_up_year_is_the_same_each_time() -> None:
    names = [name_of(one) for one in CONFIG.bindings]
    year = [*made_up(names, [*CONFIG.apps], TODAY)]
    assert year == [*made_up(names, [*CONFIG.apps], TODAY)]
    assert 200 < len(year) < 300
    keys = {name.partition(": ")[2].partition(" ")[0] for name in names}
    pressed = {
        verb: sum(times for _, rows in year for kind, what, times in rows if kind == FIRED and f": {verb}" in what)
        for verb in keys
    }
    assert pressed["go"] > pressed["recall"] > 0  # programs are gone to all day, layouts recalled some times
    assert {kind for _, rows in year for kind, _, _ in rows} == {FIRED, REACHED}
    weeks = by_week(Count(day.isoformat(), *row) for day, rows in year for row in rows)
    assert 40 < len(weeks) < 54


def test_keys_of_a_real_keyboard_are_counted_and_told(x: XServer, x_office: Office) -> None:
    for _ in range(2):
        listening = Listening(x_office)
        for chord in ("super+s", "escape", "super+b", "super+left"):
            x.press(chord)
        until(lambda listening=listening: "super+left: " in listening.says(), "both keys")  # type: ignore[misc]
        listening.stop()
    told = json.loads(x_office.jaklet("use", "--format", "json").stdout)
    assert {one["keys"]: one["times"] for one in told["keys"] if one["times"]} == {"super+b": 2, "super+left": 2}
    text = x_office.jaklet("use").stdout
    assert "4 keys pressed in 30 days" in text
    assert "never: " in text
    assert "super+b,go berths,,2," in x_office.jaklet("use", "--format", "csv").stdout
    assert json.loads(x_office.jaklet("use", "--by", "hand", "--format", "json").stdout) == {"left": 2, "right": 2}
    assert x_office.jaklet("use", "--by", "hand", "--format", "csv").stdout.split() == [
        "hand,times",
        "left,2",
        "right,2",
    ]
    x_office.jaklet("use", "--out", "use.png")
    assert (x_office.folder / "use.png").stat().st_size > 10_000
    assert "add --sure" in x_office.jaklet("use", "forget", status=2).stderr
    assert "super+s was given up half way 2 times" in text
    assert "3 counts forgotten" in x_office.jaklet("use", "forget", "--sure").stdout
    assert "nothing was counted" in x_office.jaklet("use").stdout
    assert "is no number of days" in x_office.jaklet("use", "--since", "soon", status=2).stderr
    x_office.edit("settings:\n", "settings:\n  count: off\n")
    listening = Listening(x_office)
    x.press("super+b")
    listening.until_says("super+b: berths")
    listening.stop()
    assert "`settings: {count: off}` says so" in x_office.jaklet("use").stdout
