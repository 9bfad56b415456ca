"""Layout files that people write: what they say, what they build on, and what is left of them when they are saved over."""

import os
import re
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaklet.checks.run import check_config
from jaklet.config.layout_reading import read_layout
from jaklet.config.layout_writing import comments, layout_text, text_over
from jaklet.config.paths import locate_config
from jaklet.config.store import LayoutFolder
from jaklet.core.actions.layouts.comparing import compare_layouts
from jaklet.core.actions.layouts.imagining import imagine_desk, saved_displays
from jaklet.core.actions.layouts.plans import unknown
from jaklet.core.language.place_grammar import parse_place
from jaklet.core.values.errors import StoreError
from jaklet.core.values.findings import Finding
from jaklet.core.values.layouts import SKIP, WAIT, Layout, LayoutEntry, OtherWindows
from jaklet.drawing.diffs import difference_text
from jaklet.drawing.layout_tables import layout_text as table_of
from jaklet.drawing.panels import DeskPanel, panels_text
from jaklet.installed.programs import InstalledPrograms
from jaklet.yaml_files.reader import SourceFile
from tests.config.test_hostile import mutated
from tests.config.test_store import layouts, shelf_in

BY_HAND = """\
# How the office stands in the morning
layout: departures   # the first ferry
number: 1

# the mayor wants to see the berths
focus: berths
others: minimise     # nothing in the way
absent: [letters]
windows:
# the large one
- {app: berths, display: main, place: left 2/3, after: [press ctrl+1]}   # all of them
- app: radio
  place: right 1/3 on main
  # quiet at night
- {app: tides, display: quay, place: full, missing: skip}
# the end
"""


def read(text: str) -> Layout:
    found: list[Finding] = []
    layout = read_layout(SourceFile("x", text), found).layout
    assert layout, found
    return layout


def entry(app: str, place: str) -> LayoutEntry:
    return LayoutEntry(app, None, None, parse_place(place))


def test_what_a_file_written_by_hand_says() -> None:
    layout = read(BY_HAND)
    assert (layout.others, layout.absent, layout.focus) == (OtherWindows("minimise"), ("letters",), 0)
    assert [e.missing for e in layout.entries] == ["launch", "launch", SKIP]
    assert [action.text for action in layout.entries[0].after] == ["press ctrl+1"]
    assert read(layout_text(layout)) == layout


def test_a_save_over_a_file_keeps_every_line_that_says_the_same() -> None:
    layout = read(BY_HAND)
    assert text_over(BY_HAND, layout) == BY_HAND
    berths, radio, tides = layout.entries
    changed = layout._replace(
        number=None, note="New", entries=(radio, berths._replace(place=parse_place("left 1/2 on main")), tides)
    )._replace(focus=1)
    assert (
        text_over(BY_HAND, changed)
        == """\
# How the office stands in the morning
layout: departures   # the first ferry

# the mayor wants to see the berths
focus: berths
others: minimise     # nothing in the way
absent: [letters]
note: New
windows:
- app: radio
  place: right 1/3 on main
# the large one
- {app: berths, display: main, place: left 1/2, after: [press ctrl+1]}   # all of them
  # quiet at night
- {app: tides, display: quay, place: full, missing: skip}
# the end
"""
    )


marks = st.sampled_from(["# one", "# two: three", "  # four", "", "# - {app: five}"])


@given(layouts(), layouts(), st.lists(marks, max_size=6), st.randoms())
def test_comments_survive_any_save_over_them(old: Layout, new: Layout, notes: list[str], rng: object) -> None:
    import random

    assert isinstance(rng, random.Random)
    lines = layout_text(old).splitlines()
    for note in notes:
        lines.insert(rng.randrange(len(lines) + 1), note)
    text = "\n".join(lines) + "\n"
    found: list[Finding] = []
    assert read_layout(SourceFile("x", text), found).layout == old, found
    over = text_over(text, new)
    assert read_layout(SourceFile("x", over), found).layout == new, over
    assert comments(over) == comments(text)
    assert text_over(over, new) == over


STRANGE = [
    "{layout: departures, windows: [{app: berths, place: full}]}\n",
    "---\nlayout: departures\nwindows:\n- {app: berths, place: full}\n...\n",
    "layout: departures\nwindows: [{app: berths, place: full}]  # flow\n# kept\n",
    "layout: 'departures'\nwindows:\n    - app: berths\n      place: full\n    - {app: radio, place: full}",
    "windows:\n- {app: berths, place: full}\nlayout: departures\n",
    "layout: departures\r\nwindows:\r\n- {app: berths, place: full}\r\n",
    "layout: departures\nnote: >\n  two\n  lines\nwindows:\n- &a {app: berths, place: full}\n- *a\n",
]


@pytest.mark.parametrize("text", STRANGE)
def test_files_of_any_shape_can_be_saved_over(text: str) -> None:
    old = read(text)
    new = old._replace(entries=(entry("tides", "left 1/2"), *old.entries), number=7)
    over = text_over(text, new)
    assert read(over) == new
    assert comments(over) == comments(text)


# Layouts that build on others ----------------------------------------------------------------------------------------

EVERYDAY = """\
layout: everyday
focus: berths
others: minimise
windows:
- {app: berths, display: main, place: left 2/3}
- {app: radio, display: main, place: right 1/3}
- {app: tides, display: quay, place: full}
"""


def with_base(folder: Path, own: str) -> LayoutFolder:
    shelf = shelf_in(folder)
    shelf.folder.mkdir(parents=True)
    (shelf.folder / "everyday.yaml").write_text(EVERYDAY)
    (shelf.folder / "sunday.yaml").write_text("layout: sunday\nbase: everyday\n" + own)
    return shelf


BUILT = [
    ("", ["berths left 2/3 on main", "radio right 1/3 on main", "tides full on quay"]),
    ("without: [radio]\n", ["berths left 2/3 on main", "tides full on quay"]),
    ("windows:\n- {app: radio, place: right 1/2}\n", ["radio right 1/2 on main", "berths left 2/3 on main", "tides full on quay"]),
    ("windows:\n- {app: letters, place: full}\n", ["letters full", "berths left 2/3 on main", "radio right 1/3 on main", "tides full on quay"]),
]  # fmt: skip


@pytest.mark.parametrize(("own", "entries"), BUILT)
def test_a_layout_changes_only_what_differs_from_its_base(own: str, entries: list[str], tmp_path: Path) -> None:
    layout = with_base(tmp_path, own).find("sunday")
    assert layout
    assert [f"{e.label} {e.place}" for e in layout.entries] == entries
    assert layout.others == OtherWindows("minimise")
    assert layout.entries[layout.focus or 0].label == "berths"


def test_what_shares_a_display_without_one_of_its_windows_keeps_its_shares(tmp_path: Path) -> None:
    shelf = with_base(tmp_path, "without: [radio]\n")
    more = "arranged:\n- {display: main, form: columns, order: [berths, radio, tides], shares: [1/2, 1/3, 1/6]}\n"
    (shelf.folder / "everyday.yaml").write_text(EVERYDAY.replace("windows:", f"{more}windows:"))
    layout = shelf.find("sunday")
    assert layout
    (shared,) = layout.arranged
    assert [layout.entries[i].label for i in shared.order] == ["berths", "tides"]
    assert shared.shares == (Fraction(1, 2), Fraction(1, 6))


def test_a_save_over_a_layout_with_a_base_writes_what_differs(tmp_path: Path) -> None:
    shelf = with_base(tmp_path, "# mine\nwindows:\n- {app: radio, place: right 1/2}   # wide\n")
    layout = shelf.find("sunday")
    assert layout
    radio, berths, tides = layout.entries
    shelf.keep(layout._replace(entries=(radio._replace(missing=WAIT), berths, tides)))
    text = (shelf.folder / "sunday.yaml").read_text()
    assert text == (
        "layout: sunday\nbase: everyday\n# mine\nwindows:\n"
        "- {app: radio, display: main, place: right 1/2, missing: wait}   # wide\n"
    )
    for entries in ((berths, radio, tides), (berths,), (tides, radio)):
        shelf.keep(layout._replace(entries=entries, focus=None))
        now = shelf.find("sunday")
        assert now
        assert now.entries == entries, (shelf.folder / "sunday.yaml").read_text()


def test_bases_that_go_in_a_circle_or_nowhere_are_refused(tmp_path: Path) -> None:
    shelf = with_base(tmp_path, "")
    (shelf.folder / "everyday.yaml").write_text("layout: everyday\nbase: sunday\n")
    with pytest.raises(StoreError, match="builds on itself: sunday on everyday on sunday"):
        shelf.find("sunday")
    (shelf.folder / "everyday.yaml").unlink()
    with pytest.raises(StoreError, match="no layout everyday to build on"):
        shelf.find("sunday")


# Versions -------------------------------------------------------------------------------------------------------------


def notes(shelf: LayoutFolder, name: str) -> list[str | None]:
    return [past.layout.note if past.layout else None for past in shelf.past(name)]


def test_versions_are_restored_renamed_copied_and_removed_and_none_is_lost(tmp_path: Path) -> None:
    shelf = shelf_in(tmp_path)
    for note in ("one", "two", "three"):
        shelf.keep(Layout("bay", number=3, note=note, home=True))
    assert notes(shelf, "bay") == ["three", "two", "one"]
    assert shelf.restore("bay", "1") == (1, 3)
    assert notes(shelf, "bay") == ["one", "three", "two", "one"]
    copy = shelf.copy("bay", "pier")
    assert (copy.number, copy.home, copy.note) == (None, False, "one")
    shelf.rename("bay", "quay")
    assert shelf.names() == ["pier", "quay"]
    assert notes(shelf, "quay")[:4] == ["one", "one", "three", "two"]
    assert shelf.past("bay") == []
    number = shelf.remove("quay")
    assert shelf.names() == ["pier"]
    assert shelf.restore("quay") == (number, None)
    assert notes(shelf, "quay")[0] == "one"
    shelf.keep(Layout("bay", number=3), take_number=True)
    assert shelf.restore("quay", "1")[0] == 1  # from when it was called bay, and had a number that is another's now
    restored = shelf.find("quay")
    assert restored
    assert (restored.name, restored.number, restored.note) == ("quay", None, "one")
    with pytest.raises(StoreError, match="there is a layout quay already"):
        shelf.rename("pier", "quay")


def test_a_number_is_taken_from_another_layout_only_when_that_is_meant(tmp_path: Path) -> None:
    shelf = shelf_in(tmp_path)
    shelf.keep(Layout("bay", number=3))
    with pytest.raises(StoreError, match="number 3 belongs to bay"):
        shelf.keep(Layout("pier", number=3))
    assert shelf.keep(Layout("pier", number=3), take_number=True).lost_number == "bay"
    bay, pier = shelf.find("bay"), shelf.find("3")
    assert bay
    assert pier
    assert (bay.number, pier.name) == (None, "pier")
    assert shelf.find("bay@1") == Layout("bay", number=3)


# Faults of the system: strace ends the process, or lets a call fail, at one call of the system after the other --------

CALLS = "openat,write,pwrite64,fsync,fdatasync,rename,unlink,ftruncate,mkdir"
SAVE = """
import sys
from pathlib import Path
from jaklet.config.store import LayoutFolder
from jaklet.core.values.errors import StoreError
from jaklet.core.values.layouts import Layout
import sqlite3, yaml, fcntl, datetime
shelf = LayoutFolder(Path(sys.argv[1]) / "layouts", Path(sys.argv[1]) / "state", "layouts")
Path("/dev/null").stat()
sys.stderr.write("begin\\n")
try:
    shelf.keep(Layout("bay", note="new"))
except StoreError as fault:
    sys.exit(f"{fault.message}")
"""


def injectable() -> str:
    """Return why no fault can be injected; empty where it can."""
    if not shutil.which("strace"):
        return "strace is not installed"
    tried = subprocess.run(["strace", "-o", os.devnull, "true"], capture_output=True, check=False)
    return "" if tried.returncode == 0 else "this system lets nobody trace a process"


def injected(folder: Path, fault: str) -> subprocess.CompletedProcess[str]:
    """Save over a layout, with a fault at a call of the system."""
    command = ["strace", "-f", "-o", str(folder / "trace"), "-e", f"trace={CALLS}", "-e", f"inject={fault}"]
    return subprocess.run(
        [*command, sys.executable, "-c", SAVE, str(folder)], capture_output=True, text=True, timeout=60, check=False
    )


def prepared(folder: Path) -> LayoutFolder:
    shelf = shelf_in(folder)
    shelf.keep(Layout("bay", note="older"))
    shelf.keep(Layout("bay", note="old"))
    return shelf


def first_call(folder: Path) -> tuple[int, int]:
    """Return which call of the system is the first of the save, and how many there are in all."""
    prepared(folder)
    injected(folder, f"{CALLS}:delay_enter=0")
    lines = [line for line in (folder / "trace").read_text().splitlines() if "(" in line]
    start = next(i for i, line in enumerate(lines) if "begin" in line)
    return start + 2, len(lines)


def _nothing_is_lost(shelf: LayoutFolder) -> str:
    now = shelf.find("bay")
    assert now
    assert now.note in ("old", "new")
    kept = {past.layout.note for past in shelf.past("bay") if past.layout}
    assert {"older", "old"} <= kept
    assert shelf.names() == ["bay"]
    with sqlite3.connect(shelf.folder.parent / "state" / "layouts.sqlite") as history:
        assert history.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    history.close()
    shelf.keep(Layout("bay", note="after"))  # and the next save goes through
    return now.note


FAULTS: list[tuple[str, Callable[[subprocess.CompletedProcess[str]], bool]]] = [
    ("signal=KILL", lambda done: done.returncode in (-signal.SIGKILL, 128 + signal.SIGKILL)),
    ("error=ENOSPC", lambda done: "was not saved" in done.stderr or done.returncode == 0),
    ("error=EIO", lambda done: "was not saved" in done.stderr or done.returncode == 0),
]


def test_a_save_is_on_the_disk_before_it_takes_the_place_of_the_former_one(tmp_path: Path) -> None:
    """In the trace of a save: the new file is written and synced, then renamed, then its folder is synced."""
    why = injectable()
    if why:
        pytest.skip(why)
    prepared(tmp_path)
    command = ["strace", "-f", "-y", "-o", str(tmp_path / "trace"), "-e", f"trace={CALLS}"]
    subprocess.run([*command, sys.executable, "-c", SAVE, str(tmp_path)], capture_output=True, timeout=60, check=True)
    lines = (tmp_path / "trace").read_text().splitlines()
    folder = tmp_path / "layouts"
    new = re.compile(rf"{re.escape(str(folder))}/\.bay\.yaml\.\d+\.new")

    def first(call: str, about: re.Pattern[str]) -> int:
        return next(i for i, line in enumerate(lines) if f" {call}(" in line and about.search(line))

    steps = [
        first("write", new), first("fsync", new), first("rename", new),
        first("fsync", re.compile(rf"<{re.escape(str(folder))}>")),
    ]  # fmt: skip
    assert steps == sorted(steps)


MARKED = [pytest.param(*one, marks=[pytest.mark.slow] if "EIO" in one[0] else [], id=one[0]) for one in FAULTS]


@pytest.mark.parametrize(("fault", "told"), MARKED)
def test_a_fault_at_any_write_of_a_save_loses_nothing(
    fault: str, told: Callable[[subprocess.CompletedProcess[str]], bool], tmp_path: Path
) -> None:
    why = injectable()
    if why:
        pytest.skip(why)
    first, last = first_call(tmp_path / "count")
    found = set()
    assert last - first > 15
    for number in range(first, last + 1):
        folder = tmp_path / str(number)
        shelf = prepared(folder)
        done = injected(folder, f"{CALLS}:{fault}:when={number}")
        assert told(done) or "KILL" in fault, (number, done.stderr)
        assert "Traceback" not in done.stderr, (number, done.stderr)
        found.add(_nothing_is_lost(shelf))
    assert found == {"old", "new"}


# Odd files -----------------------------------------------------------------------------------------------------------

ODD = [
    b"[", b"]", b"{", b"}", b"\n", b"- ", b": ", b"'", b"#", b"&a ", b"*a", b"app: ", b"class: x", b"title: '*'", b"nth: 0",
    b"nth: 999", b"place: at 0,0 size 1x1", b"place: at -99999,99999 size 99999x99999", b"0x0+0+0", b"99999x99999+9+9",
    b"1x1+-5+-5", b"base: departures", b"without: [x]", b"variants:\n- displays: {main: 9x9+0+0}\n", b"- {displays: {}}\n",
    b"holds: []", b"others: workspace 3", b"only on: nowhere", b"focus: berths 2", b"workspace: all", b"state: tiled",
    b"missing: wait", b"after: [press ctrl+1, close]", b"above: true", b"\xff", b"\x00", b"\xe2\x80\xa8", b"\t", b"---", b"...",
]  # fmt: skip
odd_edits = st.lists(st.tuples(st.floats(0, 1), st.integers(0, 14), st.sampled_from(ODD)), max_size=6)
CONFIG = """
displays: {main: {name: DP-1}, quay: {name: HDMI-1, else: main}}
apps: {berths: {launch: sh, least: 900x500, types: true}, radio: {launch: sh}, tides: {launch: sh}, letters: {launch: sh}}
bindings: {super+1: recall 1, super+b: go letters, f: {do: close, only in: radio}}
"""


def looked_at(data: bytes) -> None:
    """Do with a layout file all that is done with one."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "layouts").mkdir()
        (folder / "jaklet.yaml").write_text(CONFIG)
        (folder / "layouts" / "departures.yaml").write_bytes(data)
        result = check_config(locate_config(str(folder)), InstalledPrograms(["sh"]))
        assert result.usable
        for laid in result.reading.laid:
            layout, config = laid.layout, result.config
            layout_text(layout)
            if unknown(layout, config):
                continue
            desk = imagine_desk(layout, saved_displays(layout, config), config)
            panels_text([DeskPanel("x", desk, layout)], config, 80, figures=True)
            difference = compare_layouts(layout, layout._replace(entries=layout.entries[1:], focus=None))
            difference_text(difference, ("a", "b"), config, 80)
            table_of(layout, 80)
            over = text_over(data.decode("utf-8-sig"), layout._replace(number=5))
            assert read(over).number == 5
            shelf = LayoutFolder(folder / "layouts", folder / "state")
            if layout.name == "departures":
                shelf.keep(layout._replace(number=6))
                assert shelf.find("6") == layout._replace(number=6)


@given(odd_edits)
def test_no_change_of_a_layout_is_too_odd(changes: list[tuple[float, int, bytes]]) -> None:
    looked_at(mutated(BY_HAND.encode(), changes))


@pytest.mark.slow
@settings(max_examples=10_000)
@given(odd_edits)
def test_no_change_of_a_layout_is_too_odd_for_minutes(changes: list[tuple[float, int, bytes]]) -> None:
    looked_at(mutated(BY_HAND.encode(), changes))


def test_comments_outlive_the_windows_that_they_are_about() -> None:
    """Each stays where its line stays; one whose line goes is kept, once."""
    text = (
        "layout: bay\nwindows:\n# the board of the day\n- {app: berths, place: left 1/2}\n"
        "# the first log\n- {app: radio, place: right 1/2}\n# the second\n- {app: radio, place: full}  # on top\n"
    )
    layout = read_layout(SourceFile("bay", text), []).layout
    assert layout
    assert text_over(text, layout) == text
    board, first, second = layout.entries
    above = second._replace(above=True)
    lines = {
        board: "# the board of the day\n- {app: berths, place: left 1/2}\n",
        first: "# the first log\n- {app: radio, place: right 1/2}\n",
        second: "# the second\n- {app: radio, place: full}  # on top\n",
        above: "- {app: radio, place: full, above: true}\n",
    }
    for entries, left in (
        ((board, first), "# the second\n"),
        ((board, second), "# the first log\n"),
        ((second, first), "# the board of the day\n"),
        ((above, first, board), "# the second\n"),
    ):
        written = text_over(text, layout._replace(entries=entries))
        assert written == "layout: bay\nwindows:\n" + "".join(lines[one] for one in entries) + left
