"""The commands about layouts, by the installed program: what they say, what they write, and how they end."""

import json
import shutil
from pathlib import Path

import pytest

from tests.conftest import Office


@pytest.fixture(scope="module")
def morning(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with two layouts, and the desk of the first one; made once."""
    office = Office(tmp_path_factory.mktemp("morning") / "office")
    for sentence in ("go berths", "place left 2/3", "go radio", "place right 1/3", "go tides", "place full on quay"):
        office.jaklet("act", sentence)
    office.jaklet("act", "go berths")
    office.jaklet("layout", "save", "departures", "--number", "1", "--note", "Berths large")
    return office.folder


@pytest.fixture
def day(morning: Path, office: Office) -> Office:
    """The office in the morning."""
    shutil.copytree(morning, office.folder, dirs_exist_ok=True)
    return office


def text(office: Office, name: str) -> str:
    return (office.folder / "layouts" / f"{name}.yaml").read_text()


def test_what_is_kept_is_chosen_shown_before_and_marked_in_the_file(day: Office) -> None:
    preview = day.jaklet("layout", "save", "bay", "--only", "place,focus", "--app", "radio", "--preview").stdout
    assert preview.splitlines() == [
        "bay would hold: 1 window on 1 display",
        "  place: radio right 1/3 on main",
        "  workspace: not kept",
        "  order: not kept",
        "  focus: nothing has it",
        "  state: not kept",
    ]
    assert not (day.folder / "layouts" / "bay.yaml").exists()
    day.jaklet("layout", "save", "bay", "--only", "place", "--display", "quay", "--also", "charts left 1/2 on main")
    assert text(day, "bay") == (
        "layout: bay\nholds: [place]\nonly on: [quay]\ndisplays: {quay: 1920x1080+2560+0}\nwindows:\n"
        "- {app: tides, display: quay, place: full}\n"
        "- {app: charts, display: main, place: left 1/2, missing: skip}\n"
    )
    day.jaklet("layout", "save", "one", "--active")
    assert "- {app: berths, display: main, place: left 2/3}" in text(day, "one")
    for words, said in (
        (("--only", "plaice"), "did you mean place?"),
        (("--app", "berth"), "did you mean berths?"),
        (("--also", "full"), "names no app"),
        (("--number", "2"), "add --sure"),
    ):
        assert said in day.jaklet("layout", "save", "x", *words, status=None).stderr
    assert "arrivals has no number any more" in day.jaklet("layout", "save", "x", "--number", "2", "--sure").stdout


def test_the_list_marks_what_has_no_key_and_what_does_not_fit(day: Office) -> None:
    day.jaklet("layout", "copy", "departures", "spare")
    rows = day.jaklet("layout", "list").stdout.splitlines()
    assert rows[0].split() == ["number", "name", "windows", "recall", "save", "fits", "used", "note"]
    assert rows[1].split()[:8] == ["1", "departures", "3", "super+1", "super+s", "1", "yes", "today"]
    assert rows[3].split()[:5] == ["spare", "3", "no", "key", "yes"]
    assert rows[4] == "keys without a layout: super+3 (recall 3), super+4 (recall 4) and 5 more"
    tabletop = day.folder / "tabletop.yaml"
    tabletop.write_text(tabletop.read_text().replace("HDMI-1", "HDMI-9"))
    data = json.loads(day.jaklet("layout", "list", "--format", "json").stdout)
    assert {row["layout"]: row["fits"] for row in data}["departures"] == "no quay"
    lacking = day.jaklet("doctor", status=1).stdout
    assert "display quay (HDMI-1) is not connected (jaklet.yaml:8:3)" in lacking
    assert "remedy: write its connector here: HDMI-9; else its windows go to main" in lacking
    assert "saved on other displays: arrivals, departures and spare" in lacking


def test_a_machine_with_nothing_missing_and_one_with_everything(day: Office) -> None:
    assert day.jaklet("doctor").stdout.startswith("nothing is missing here")
    day.edit("launch: tide-gauge", "launch: tide-gouge")
    day.edit("super+m: go radio or minimise", "super+m: go raido")
    found = json.loads(day.jaklet("doctor", "--format", "json", status=1).stdout)
    assert [(one["kind"], one["where"]) for one in found] == [
        ("files", "jaklet.yaml:35:15"),
        ("programs", "jaklet.yaml:16:21"),
    ]


def test_differences_are_told_and_drawn_and_end_with_status_1(day: Office) -> None:
    assert day.jaklet("layout", "diff", "departures").stdout.splitlines() == [
        "3 of 3 windows of departures as saved",
        "a recall would change nothing",
    ]
    day.jaklet("act", "place berths left 1/2")
    day.jaklet("act", "close radio")
    told = day.jaklet("layout", "diff", "departures", status=1).stdout
    for line in (
        "1 of 3 windows of departures as saved",
        "  + radio appears: right 1/3 on main",
        "  ~ berths resizes: left 1/2 on main -> left 2/3 on main",
        "  move berths (Berth board) to 1693x1384 at 8,48",
        "  launch radio",
    ):
        assert line in told.splitlines()
    assert "┌ + radio" in told
    path = day.folder / "layouts" / "odd.yaml"
    path.write_text("layout: odd\nwindows:\n- {app: berths, place: reeding}\n")
    for words in (("diff", "odd"), ("draw", "odd"), ("show", "odd", "--on", "main 800x600"), ("recall", "odd")):
        assert "odd names what is not there: place reeding" in day.jaklet("layout", *words, status=1).stderr
    data = json.loads(day.jaklet("layout", "diff", "departures", "arrivals", "--format", "json", status=1).stdout)
    assert [one["app"] for one in data["appear"]] == ["charts", "letters"]
    assert [one["app"] for one in data["go"]] == ["berths", "radio"]
    assert day.jaklet("layout", "diff", "1", "departures").stdout == "1 and departures are the same\n"


def test_drawing_in_the_terminal_and_as_pictures(day: Office, tmp_path: Path) -> None:
    drawn = day.jaklet("layout", "draw", "departures", "arrivals", "--figures").stdout
    assert "1 · departures" in drawn
    assert "berths left 2/3 [super+b]" in drawn
    assert "seen: all of every window · overlap 0% · empty 2%" in drawn
    begins = {"png": b"\x89PNG", "svg": b"<?xml", "pdf": b"%PDF"}
    for kind, start in begins.items():
        out = tmp_path / f"sheet.{kind}"
        day.jaklet("layout", "draw", "departures", "arrivals", "--before-after", "--out", str(out))
        assert out.read_bytes().startswith(start)
    legend = (tmp_path / "sheet.svg").read_text()
    assert [word for word in ("berths", "focus", "1 2 3: from the front") if f"<!-- {word} -->" not in legend] == []
    assert ".png, .svg or .pdf" in day.jaklet("layout", "draw", "1", "--out", "x.gif", status=2).stderr
    small = day.jaklet("layout", "show", "departures", "--on", "main 1366x768").stdout
    assert "main DP-1 1366x768" in small
    assert "3  radio   main     right 1/3" in small
    assert small.endswith("display quay is not there: its windows stand on main\n")
    path = day.folder / "layouts" / "departures.yaml"
    kept = path.read_text()
    path.write_text(
        f"{kept}variants:\n- displays: {{main: 800x600+0+0}}\n  windows:\n  - {{app: letters, place: full on main}}\n"
    )
    drawn = day.jaklet("layout", "draw", "departures", "--on", "main 800x600").stdout
    assert "letters full" in drawn
    assert "berths" not in drawn
    path.write_text(kept)
    data = json.loads(day.jaklet("layout", "show", "1", "--on", "main 800x600", "--format", "json").stdout)
    assert all(not window["lost"] for window in data["windows"])


def test_versions_by_commands(day: Office) -> None:
    day.jaklet("act", "place berths left 1/2")
    day.jaklet("layout", "save", "departures")
    told = day.jaklet("layout", "history", "departures").stdout
    assert "in use" in told
    assert "~berths" in told
    assert "~ berths resizes" in day.jaklet("layout", "diff", "departures@1", "departures", status=1).stdout
    said = day.jaklet("layout", "restore", "departures@1").stdout
    assert said == "departures@1 is in use again; what was in use is kept as departures@2\n"
    assert "place: left 2/3" in text(day, "departures")
    said = day.jaklet("layout", "rename", "departures", "morning").stdout
    assert said == "departures is now morning\n"
    assert day.jaklet("layout", "remove", "morning").stdout.startswith("morning is removed, and kept as morning@")
    assert "removed" in day.jaklet("layout", "history").stdout
    day.jaklet("layout", "restore", "morning")
    assert "layout: morning" in text(day, "morning")
    for words in (("history", "nothing"), ("restore", "nothing"), ("remove", "nothing"), ("rename", "nothing", "x")):
        assert "remedy:" in day.jaklet("layout", *words, status=1).stderr


def test_an_edit_is_checked_before_it_counts(day: Office) -> None:
    def editor(words: str) -> str:
        script = day.folder / "editor.sh"
        script.write_text(f'#!/bin/sh\nsed -i "{words}" "$1"\n')
        script.chmod(0o755)
        return str(script)

    before = text(day, "departures")
    said = day.jaklet("layout", "edit", "departures", EDITOR=editor("s/left 2.3/left 3.4/"), status=1).stderr
    assert "departures.yaml" in said
    assert "departures is as it was" in said
    assert text(day, "departures") == before
    draft = day.folder / "layouts" / ".departures.yaml.draft"
    assert "left 3.4" in draft.read_text()
    said = day.jaklet("layout", "edit", "departures", EDITOR=editor("s#left 2/3#left 3/4#")).stdout
    assert said == "departures is changed; the former version is kept as departures@1\n"
    assert "left 3/4" in text(day, "departures")
    assert day.jaklet("layout", "edit", "departures", EDITOR="true").stdout == "departures is unchanged\n"
    assert "export EDITOR" in day.jaklet("layout", "edit", "departures", status=2).stderr
    assert "layouts" in str(draft)
    assert "departures" in day.jaklet("layout", "list").stdout  # a draft is no layout
