"""A tabletop's file: what is left on it is read back as it was, and what the user wrote above stays to the letter."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.actions.ports.chord_source import KeyEdge
from jaklet.core.keys.keymap import HearableKeys
from jaklet.core.values.changes import Change
from jaklet.core.values.chords import parse_chord
from jaklet.core.values.errors import StoreError
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.desktops.tabletop.file import read_room, save_room
from jaklet.desktops.tabletop.reading import read_tabletop
from jaklet.yaml_files.reader import SourceFile
from tests.core.test_recall import PROGRAMS, changes, office

HEAD = """\
# my desk
tabletop: try    # with a comment
displays:
- {name: DP-1, area: 2560x1440+0+0, bar: left 40}
- {name: HDMI-1, area: 1920x1080-1920+0}
programs:
  berth-board: {class: BerthBoard, title: 'Berth: "board" #1', takes: 1s}
windows:
- {program: berth-board, frame: 700x500+100+100}
"""


@given(st.lists(changes, max_size=12))
def test_a_desk_is_read_back_as_it_was_left(some: list[Change]) -> None:
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "tabletop.yaml"
        room = office().copy()
        for program in PROGRAMS:
            room.add(room.programs[program])
        for change in some:
            room.change(change)
        path.write_text(
            "displays:\n- {name: DP-1, area: 2560x1440+0+0, bar: top 40}\n- {name: HDMI-1, area: 1920x1080+2560+0}\n"
            "programs:\n"
            + "".join(
                f"  {name}: {{class: {it.cls}, title: {it.title}, least: {it.limits.min_width}x{it.limits.min_height},"
                f" step: {it.limits.step_width}x{it.limits.step_height}}}\n"
                for name, it in room.programs.items()
            )
        )
        save_room(room, path)
        again = read_room(path)
        assert again.desk() == room.desk()
        assert {wid: one.normal for wid, one in again.standing.items()} == {
            wid: one.normal for wid, one in room.standing.items()
        }


SECTIONS = (
    "tabletop: try    # with a comment\n",
    "displays:\n- {name: DP-1, area: 2560x1440+0+0, bar: left 40}\n\n",
    "# the programs of the office\nprograms:\n  # one\n  berth-board: {class: BerthBoard}\n",
    "keyboard: {taken: [super+b]}\n# below the keyboard\n",
    "lacks: stack\n",
)
WRITTEN_ANEW = (
    "workspace: 2\n", "gaps: off\n", "active: none\n", "stacking: [\n 7\n ]\n", "recent:\n- 7\n",
    "windows:\n- {program: berth-board, id: 7,\n   frame: 700x500+100+100}\n",
)  # fmt: skip


@given(st.permutations([*SECTIONS, *WRITTEN_ANEW]), st.sampled_from(["\n", "\r\n"]))
def test_what_the_user_wrote_stays_wherever_it_stands(sections: list[str], end: str) -> None:
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "tabletop.yaml"
        path.write_bytes("".join(sections).replace("\n", end).encode())
        room = read_room(path)
        for _ in range(2):
            save_room(room, path)
            text = path.read_bytes().decode()
            assert text.startswith("".join(one for one in sections if one in SECTIONS).rstrip("\n").replace("\n", end))
            assert read_room(path).desk() == room.desk()
            assert read_room(path).taken == room.taken


def test_nothing_taken_and_nothing_lacking_is_no_fault(tmp_path: Path) -> None:
    path = tmp_path / "tabletop.yaml"
    path.write_text("displays: [{area: 800x600+0+0}]\nkeyboard: {taken: []}\nlacks: []\nwindows:\nprograms:\n")
    assert (read_room(path).taken, read_room(path).standing) == ({}, {})


def test_what_could_not_be_kept_is_refused_before(tmp_path: Path) -> None:
    path = tmp_path / "tabletop.yaml"
    path.write_text("{displays: [{area: 800x600+0+0}], shelves: 3}\n")
    with pytest.raises(StoreError, match=r"all in braces.*no key called 'shelves'"):
        read_room(path)


def test_the_users_part_of_the_file_stays(tmp_path: Path) -> None:
    path = tmp_path / "tabletop.yaml"
    path.write_text(HEAD)
    first = Tabletop.open(path)
    first.close()
    assert path.read_text() == HEAD  # only looked at
    for _ in range(2):
        table = Tabletop.open(path)
        table.room.add(table.room.programs["berth-board"])
        table.apply([])
        table._changed = True
        table.close()
    text = path.read_text()
    assert text.startswith(HEAD[: HEAD.index("windows:")])
    assert text.count("# --- the desk as it was left") == 1
    assert len(read_room(path).standing) == 3
    assert read_room(path).displays[1].rect.x == -1920


def test_a_tabletop_needs_displays() -> None:
    room, found = read_tabletop(SourceFile("t.yaml", "tabletop: pier\n"))
    assert room is None
    assert [(one.code, one.spot.line, "displays" in one.cause) for one in found] == [("JK106", 1, True)]


def test_a_simulated_keyboard_tells_what_its_keys_type_and_when_modifiers_are_let_go_of() -> None:
    keys = Tabletop(office().copy()).keyboard
    keys.grab(HearableKeys(every=True, typed=True))
    for text in ("a", "super+left"):
        for edge in (KeyEdge.PRESS, KeyEdge.REPEAT, KeyEdge.RELEASE):
            keys.strike(parse_chord(text), edge)
    heard = [(event.edge.value, event.typed and (event.typed.key, event.typed.text)) for event in keys.key_events()]
    assert heard == [
        ("press", ("a", "a")), ("repeat", ("a", "a")), ("release", None),
        ("press", ("super+left", "")), ("repeat", ("super+left", "")), ("release", None), ("release", ("released", "")),
    ]  # fmt: skip
