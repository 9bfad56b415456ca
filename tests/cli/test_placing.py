"""Placing by commands, each a process of its own: undo reaches over them, and what is drawn is true."""

import json
import struct
from pathlib import Path

import pytest

from tests.conftest import Office


def frames(office: Office) -> dict[str, tuple[int, ...]]:
    told = json.loads(office.jaklet("desk", "--format", "json").stdout)["windows"]
    return {one["app"]: tuple(one["frame"].values()) for one in told}


def test_undo_steps_back_over_processes_and_names_what_is_gone(office: Office) -> None:
    office.jaklet("fire", "super+b", "super+r")
    before = frames(office)
    office.jaklet("act", "pair left 2/3")
    paired = frames(office)
    office.jaklet("act", "spread rows")
    office.jaklet("layout", "recall", "arrivals", status=None)
    steps = json.loads(office.jaklet("undo", "--list", "--format", "json").stdout)
    assert [step["action"] for step in steps] == ["recall arrivals", "spread rows", "pair left 2/3"]
    dry = office.jaklet("undo", "--dry-run").stdout
    assert "would put" in dry
    assert len(json.loads(office.jaklet("undo", "--list", "--format", "json").stdout)) == 3
    office.jaklet("undo")
    office.jaklet("undo")
    assert {app: frames(office)[app] for app in paired} == paired
    office.jaklet("act", "close radio")
    listed = office.jaklet("undo", "--list").stdout
    assert "radio (Radio log) (gone)" in listed
    told = office.jaklet("undo").stdout
    assert "undone: pair left 2/3 (1 window put back)" in told
    assert "gone since, and left out: radio (Radio log)" in told
    assert frames(office)["berths"] == before["berths"]
    assert "there is nothing to undo" in office.jaklet("undo", status=1).stderr


def test_what_new_windows_are_to_do_is_done_by_commands_too(office: Office) -> None:
    office.jaklet("act", "go charts")
    assert frames(office)["charts"] == (518, 187, 1523, 1106)  # centre 60% x 80% of 2560x1400, with a gap of 8
    office.jaklet("act", "place charts full")
    office.jaklet("act", "go charts")
    assert frames(office)["charts"] == (8, 48, 2544, 1384)


def test_check_warns_of_workspaces_that_the_desk_does_not_have(office: Office) -> None:
    office.edit("  super+q: place full on quay", "  super+q: place full on quay\n  super+f9: workspace 7")
    assert "JK309 there is no workspace 7: there are 4" in office.jaklet("check").stdout
    assert "there is no workspace 7" in office.jaklet("fire", "super+f9", status=1).stderr
    office.edit("  gap: 8", "  gap: 8\n  missing workspaces: create")
    assert "JK309" not in office.jaklet("check").stdout
    assert "workspace 7 is shown" in office.jaklet("fire", "super+f9").stdout


def test_the_desk_marks_lost_covered_and_kept_above(office: Office) -> None:
    office.jaklet("fire", "super+b", "super+r", "super+t")
    office.jaklet("act", "place berths at 9000,50 size 500x400")
    office.jaklet("act", "place tides full")
    office.jaklet("act", "keep tides above")
    text = office.jaklet("desk").stdout
    assert "1 window out of reach: it is not drawn; `jaklet act gather` brings it back" in text
    states = {line.split()[1]: line for line in text.splitlines() if line[:1].isdigit()}
    assert "lost" in states["berths"]
    assert "covered" in states["radio"]
    assert "kept above" in states["tides"]
    assert "berths (Berth board) on" in office.jaklet("act", "gather").stdout
    office.jaklet("act", "sweep above")
    assert "tides" not in frames(office)


def test_places_are_drawn_before_they_are_used(office: Office) -> None:
    drawn = office.jaklet("place", "draw", "left 2/3", "right 1/3, right 1/2").stdout
    for wanted in ("1 left 2/3", "2 right 1/3", "3 right 1/2", "1693x1384", "8,48", "65%"):
        assert wanted in drawn
    assert "wide" in office.jaklet("place", "draw").stdout
    told = json.loads(office.jaklet("place", "draw", "wide", "--on", "quay", "--format", "json").stdout)
    assert told["places"][0]["place"] == "full"
    grid = json.loads(office.jaklet("place", "draw", "--grid", "6x4", "--size", "1200x800", "--format", "json").stdout)
    assert [*grid["cells"]][:3] == ["A1", "B1", "C1"]
    assert grid["cells"]["F4"] == {"x": 1001, "y": 602, "width": 191, "height": 190}
    text = office.jaklet("place", "draw", "--grid", "3x2").stdout
    assert all(cell in text for cell in ("A1", "C1", "A2", "C2"))
    shot = office.folder / "grid.png"
    office.jaklet("place", "draw", "--grid", "6x4", "cells B2:D3 of 6x4", "--picture", "grid.png")
    assert shot.read_bytes()[:4] == b"\x89PNG"
    assert struct.unpack(">I", shot.read_bytes()[16:20]) == (1280,)
    office.jaklet("desk", "--picture", "desk.png")
    assert Path(office.folder / "desk.png").stat().st_size > 2000


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (("draw", "lft 1/2"), "did you mean left"),
        (("draw", "redding"), "did you mean reading"),
        (("draw", "--grid", "6"), "write it like 6x4"),
        (("draw", "full", "--on", "pier"), "displays are main or quay"),
        (("draw", "same place on quay"), "another one for each window"),
        (("draw", "full", "--picture", "/nowhere/x.png"), "the picture cannot be written"),
    ],
)
def test_what_cannot_be_drawn_is_told(words: tuple[str, ...], told: str, office: Office) -> None:
    assert told in office.jaklet("place", *words, status=None).stderr
