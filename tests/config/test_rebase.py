"""A family of chords moved from one base modifier to another."""

from pathlib import Path

import pytest

from jaklet.checks.run import check_config
from jaklet.config.paths import locate_config
from jaklet.config.rebase import kept_chords, rebased_chords, rebased_files
from jaklet.core.values.chords import Modifier
from jaklet.installed.programs import InstalledPrograms
from tests.conftest import Office

CASES = [
    ("super+b", "ctrl+alt+b"),
    ("super+o b", "ctrl+alt+o b"),
    ("super+<n>", "ctrl+alt+<n>"),
    ("Super+Shift+left", "ctrl+alt+shift+left"),
    ("shift+super+left", "ctrl+alt+shift+left"),
    ("super+plus", "ctrl+alt+plus"),
    ("super++", "ctrl+alt++"),
    ("ctrl+b", "ctrl+b"),
    ("b", "b"),
    ("super", "super"),
    ("super+ctrl+b", "ctrl+alt+b"),
]


@pytest.mark.parametrize(("text", "after"), CASES)
def test_what_becomes_of_chords(text: str, after: str) -> None:
    assert rebased_chords(text, Modifier.SUPER, Modifier.CTRL | Modifier.ALT) == after
    assert rebased_chords(after, Modifier.SUPER, Modifier.CTRL | Modifier.ALT) == after


TEXT = """# keys of the harbour office
apps: {berths: {launch: berth-board, window: {class: BerthBoard}}}
bindings:
  super+b: go berths        # the berths
  "super+o b": {do: gather}
  windows:
    super+<side>: focus <side>
  ctrl+alt+x: focus last
include: more.yaml
"""
MORE = "bindings: {super+m: press super+q, 'super+n': gaps}\n"


def test_all_files_are_checked_as_a_whole_shown_and_written(office: Office) -> None:
    office.config.write_text(TEXT)
    more = office.folder / "more.yaml"
    more.write_text(MORE)
    refused = office.jaklet("check", "--fix", "--base", "ctrl+alt", status=2)
    assert "-  super+b: go berths        # the berths" in refused.stdout
    assert "+  ctrl+alt+b: go berths        # the berths" in refused.stdout
    assert "add --yes" in refused.stderr
    assert office.config.read_text() == TEXT
    done = office.jaklet("check", "--fix", "--base", "ctrl+alt", "--yes", status=None)
    assert "2 files written" in done.stdout
    text = office.config.read_text()
    assert text == TEXT.replace("super+b", "ctrl+alt+b").replace("super+o", "ctrl+alt+o").replace(
        "super+<side>", "ctrl+alt+<side>"
    )
    assert more.read_text() == "bindings: {ctrl+alt+m: press super+q, 'ctrl+alt+n': gaps}\n"
    again = office.jaklet("check", "--fix", "--base", "ctrl+alt", "--yes", status=None)
    assert "nothing was changed: no chord has that base" in again.stdout
    back = office.jaklet("check", "--fix", "--from", "ctrl+alt", "--base", "super", "--yes", status=None)
    assert "2 files written" in back.stdout
    assert office.config.read_text() == TEXT.replace("ctrl+alt+x", "super+x")


def test_a_move_that_would_clash_writes_nothing(office: Office) -> None:
    text = "bindings:\n  super+b: gather\n  ctrl+alt+b: focus last\n"
    office.config.write_text(text)
    done = office.jaklet("check", "--fix", "--base", "ctrl+alt", "--yes", status=1)
    assert "with that base the config would have errors" in done.stderr
    assert "ctrl+alt+b" in done.stderr
    assert office.config.read_text() == text
    wrong = office.jaklet("check", "--fix", "--base", "meta", "--yes", status=2)
    assert "is no modifier" in wrong.stderr
    for words in (("--base", "plain"), ("--base", "alt", "--from", "plain")):
        assert "a base needs a modifier" in office.jaklet("check", "--fix", *words, "--yes", status=2).stderr
    assert (
        "--fix talks to people" in office.jaklet("check", "--fix", "--base", "alt", "--format", "json", status=2).stderr
    )
    assert office.config.read_text() == text
    assert "--base is about --fix" in office.jaklet("check", "--base", "alt", status=2).stderr


def test_a_modifier_that_somebody_holds_is_told_everywhere(office: Office) -> None:
    office.env["XDG_DATA_DIRS"] = str(office.folder / "share")  # one program is installed, and no other
    entry = office.folder / "share" / "applications" / "charts.desktop"
    entry.parent.mkdir(parents=True, exist_ok=True)
    entry.write_text("[Desktop Entry]\nType=Application\nName=Charts\nExec=charts\nCategories=WebBrowser;\n")
    tabletop = office.folder / "tabletop.yaml"
    tabletop.write_text(tabletop.read_text().replace("taken: [ctrl+alt+delete]", "taken: {super: berthd}"))
    reason = "berthd holds the Super key by itself, so that no chord with super is heard"
    office.config.write_text(TEXT.replace("include: more.yaml\n", ""))
    live = office.jaklet("check", "--live", status=None).stdout
    assert live.count("JK223") == 1
    assert f"bindings cannot work: {reason}" in live
    assert "jaklet check --fix --base ctrl+alt" in live
    assert reason in office.jaklet("keys", "why", "super+b").stdout
    assert reason in office.jaklet("fire", "super+b", status=1).stderr
    first = office.jaklet("init", "--print").stdout
    assert "super+" not in first
    assert "ctrl+alt+b: " in first
    office.jaklet("check", "--fix", "--base", "ctrl+alt", "--yes", status=None)
    assert "JK223" not in office.jaklet("check", "--live", status=None).stdout


def test_a_chord_that_would_be_another_ones_stays(tmp_path: Path) -> None:
    """All others move, so that the config has no error afterwards."""
    (tmp_path / "jaklet.yaml").write_text(
        "bindings:\n  super+<side>: place <side> 1/2\n  super+alt+right: undo\n  super+alt+x: gather\n"
    )
    result = check_config(locate_config(str(tmp_path)), InstalledPrograms())
    old, new = int(Modifier.SUPER), int(Modifier.CTRL | Modifier.ALT)
    (text,) = rebased_files(result.reading, old, new).values()
    assert text == "bindings:\n  ctrl+alt+<side>: place <side> 1/2\n  super+alt+right: undo\n  ctrl+alt+x: gather\n"
    assert kept_chords(result.reading, old, new) == ["super+alt+right"]
    (tmp_path / "jaklet.yaml").write_text(text)
    assert check_config(locate_config(str(tmp_path)), InstalledPrograms()).usable
