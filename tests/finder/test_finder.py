"""The finder: its state by itself, and the installed program on a terminal of its own."""

import re
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.actions.candidates import KINDS
from jaklet.core.actions.pick_candidate import Candidate
from jaklet.core.values.kinds import ALL, KIND_NAMES
from jaklet.core.values.words import cell_width
from jaklet.finder.state import CHOSEN, LABELS, MARK, TABS, Finder, Fragments
from tests.conftest import Office
from tests.terminals import Screen, screens


def none(*_: Any) -> Any:
    raise AssertionError("nothing is done in these tests")


def candidate(kind: str, label: str, *keys: str, detail: str = "") -> Candidate:
    return Candidate(kind, label, detail, keys, f"do {label}", none)


STOCK = [
    candidate("windows", "radio: Radio log", "super+r", detail="on main"),
    candidate("apps", "radio", "super+r", detail="1 window"),
    candidate("apps", "ledger", "super+g"),
    candidate("layouts", "departures", "super+1"),
    candidate("actions", "place left 2/3", "super+left", "bd"),
    candidate("actions", "close", "bdx"),
]


def finder(kind: str = ALL, typed: str = "", at_once: bool = False) -> Finder:
    one = Finder(kind, typed)
    one.load(STOCK, at_once)
    return one


def text(line: Fragments) -> str:
    return "".join(part for _, part in line)


def test_kinds_go_round() -> None:
    one = finder()
    seen = []
    for _ in TABS:
        seen.append((one.kind, len(one.found)))
        one.turn(1)
    assert seen == [("all", 6), ("windows", 1), ("apps", 2), ("layouts", 1), ("actions", 2), ("hosts", 0)]
    assert one.kind == ALL
    one.turn(-1)
    assert one.kind == "hosts"
    assert one.choice is None
    assert "nothing" in text(one.lines(10, 80)[0])
    assert {kind for kind, _ in seen} == {ALL, *KINDS} == {ALL, *KIND_NAMES}


def test_what_is_typed_narrows_and_what_is_chosen_is_shown_with_its_key() -> None:
    one = finder(typed="rad")
    assert [found.label for found in one.found] == ["radio", "radio: Radio log"]
    one.move(5)
    assert one.choice
    assert one.choice.label == "radio: Radio log"
    lines = one.lines(10, 60)
    assert [text(line).split() for line in lines] == [
        ["ff", "apps", "radio", "1", "window", "super+r"],
        ["fj", "▸", "windows", "radio:", "Radio", "log", "on", "main", "super+r"],
    ]
    assert {part for roles, part in lines[0] if MARK in roles.split()} == {"rad"}
    assert all(CHOSEN in roles for roles, _ in lines[1][1:])
    one.type("radx")
    assert one.choice is None
    one.type("")
    assert len(one.found) == len(STOCK)


def test_a_short_word_comes_first_and_where_wished_is_done_at_once() -> None:
    one = finder(typed="bd")
    assert one.choice
    assert one.choice.label == "place left 2/3"
    assert one.word_stands is None
    one = finder(at_once=True)
    one.type("b")
    assert one.word_stands is None
    one.type("bd")
    assert one.word_stands is one.choice
    one.type("super+r")  # chords are no words
    assert one.word_stands is None


def test_two_letters_jump() -> None:
    one = finder()
    one.lines(10, 80)
    one.jumping = ""
    assert one.jump("F") is None
    assert "f_" in text(one.status())
    assert one.jump("d") is one.found[2]
    assert one.chosen == 2
    assert one.jumping is None
    for wrong in ("1", "fm"):  # no letter of a label; a label that no line has
        one.jumping = ""
        assert [one.jump(letter) for letter in wrong][-1] is None
        assert one.jumping is None
    assert len(set(LABELS)) == len(LABELS) > 200


@given(st.lists(st.integers(-20, 20)), st.integers(1, 8), st.integers(1, 200))
def test_the_chosen_line_is_in_sight_and_no_line_is_too_long(steps: list[int], height: int, width: int) -> None:
    one = Finder()
    one.load([candidate("apps", f"app {i}", detail="d" * (i % 50)) for i in range(30)])
    for step in steps:
        one.move(step)
        lines = one.lines(height, width)
        assert len(lines) == height
        assert [text(line).split()[1] for line in lines].count("▸") == 1
        assert all(len(text(line)) <= max(width, 30) for line in lines)


def test_keys_stand_in_one_column_whatever_letters_come_before_them() -> None:
    one = Finder("apps")
    one.load(
        [
            candidate("apps", "港の時計" * 9, "super+a"),
            candidate("apps", "Häfen", "super+b"),
            candidate("apps", "x" * 90, "k"),
        ]
    )
    lines = [text(line) for line in one.lines(5, 40)]
    assert [cell_width(line[: line.rindex("  ")]) for line in lines] == [
        cell_width(lines[0][: lines[0].rindex("  ")])
    ] * 3
    assert all(cell_width(line) <= 40 for line in lines)
    assert lines[0].count("…") == 1


def test_hostile_labels_cannot_steer_the_terminal() -> None:
    one = Finder()
    one.load([candidate("windows", "a\x1b]0;x\x07\u202eb\nc", detail="\x9b2J")])
    assert text(one.lines(5, 80)[0]).isprintable()


def test_a_host_opens_in_the_terminal_program(office: Office, screen: Callable[..., Screen]) -> None:
    """On the tabletop there is such a terminal; what it was told to run is what the real one would be."""
    (office.folder / ".ssh").mkdir()
    (office.folder / ".ssh" / "config").write_text("Host pilot\n")
    office.edit("  gap: 8", "  gap: 8\n  terminal: [pilot-notes, -e]")
    one = screen("hosts", HOME=str(office.folder))
    one.until_shows("1 of 1")
    one.type("\r")
    assert "is open and in front" in one.end()[1]
    office.edit("[pilot-notes, -e]", "[no-such-terminal]")
    one = screen("hosts", HOME=str(office.folder))
    one.until_shows("1 of 1")
    one.type("\r")
    status, shown = one.end()
    assert (status, "ssh pilot could not be launched: there is no program 'no-such-terminal'" in shown) == (1, True)


@pytest.fixture
def screen(office: Office) -> Iterator[Callable[..., Screen]]:
    with screens(office) as show:
        yield lambda *words, **env: show("pick", *words, **env)


def test_typing_and_enter_do_it(office: Office, screen: Callable[..., Screen]) -> None:
    office.jaklet("fire", "super+b", "super+r")
    one = screen()
    one.until_shows("find:")
    one.type("ber go")  # at once, while the desk is still being looked at
    one.until_shows("2 of 62")
    one.until_shows("go berths")
    one.type("\r")
    status, shown = one.end()
    assert status == 0
    assert shown.rstrip().endswith("berths (Berth board) is in front")
    assert '"focus": 1' in office.jaklet("desk", "--format", "json").stdout


def test_escape_changes_nothing_and_labels_jump(office: Office, screen: Callable[..., Screen]) -> None:
    office.jaklet("fire", "super+b", "super+r", "super+t")
    before = (office.folder / "tabletop.yaml").read_bytes()
    one = screen("windows")
    one.until_shows("3 of 3")
    one.type("\x1b")
    assert one.end()[0] == 0
    assert (office.folder / "tabletop.yaml").read_bytes() == before
    one = screen("windows")
    one.until_shows("3 of 3")
    one.type("\x0cfj")  # Ctrl+L, the second line
    assert "berths (Berth board) is in front" in one.end()[1]
    one = screen("windows")
    one.until_shows("3 of 3")
    one.type("\x1b[B\x1b[B\x1b[A\r")  # down, down, up, Enter
    assert "radio (Radio log) is in front" in one.end()[1]


def test_no_colour_is_said_where_none_is_wanted(screen: Callable[..., Screen]) -> None:
    one = screen("apps", NO_COLOR="1")
    one.until_shows("6 of 6")
    one.type("\x03")
    one.end()
    assert not re.search(r"\x1b\[[0-9;]*3[0-7]m", one.printed)


def test_a_config_with_errors_ends_the_finder_with_one_clear_line(
    office: Office, screen: Callable[..., Screen]
) -> None:
    office.edit("super+b: go berths", "super+b: go birth")
    status, shown = screen().end()
    assert status == 1
    assert "the config has errors" in shown
