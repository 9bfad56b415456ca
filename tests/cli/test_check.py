"""`check` as it is met: keyboards, parts, silences, formats, free chords put in; and what `keys` knows of a chord."""

import json
import os
import signal
import stat
import subprocess
from pathlib import Path

import jsonschema
import pytest

from tests.conftest import JAKLET, Office
from tests.xserver import until

SCHEMA = json.loads((Path(__file__).parents[1] / "data" / "sarif-2.1.0-rtm.5.json").read_text())


def codes(office: Office, *words: str, status: int | None = None) -> list[str]:
    found = json.loads(office.jaklet("check", *words, "--format", "json", status=status).stdout)["findings"]
    return [one["code"] for one in found]


def test_warnings_count_where_it_is_strict_and_notes_never(office: Office) -> None:
    office.edit("  super+z: focus last", "  ctrl+c: focus last")
    assert codes(office, status=0) == ["JK212"]
    assert codes(office, "--strict", status=1) == ["JK212"]
    office.edit("  ctrl+c: focus last\n", "")
    office.edit("    super+s <n>: save <n>  ", "    super+shift+<n>: save <n>  ")
    assert codes(office, "--strict", status=0) == ["JK220"]
    assert "nothing is wrong: 72 bindings" in office.jaklet("check").stdout


def test_keyboards_are_named_in_the_settings_or_asked_for(office: Office) -> None:
    office.edit("    super+s <n>: save <n>  ", "    # silence JK220: as a test\n    super+shift+<n>: save <n>  ")
    assert codes(office, "--keyboard", "fr") == ["JK205"]
    assert codes(office, "--keyboard", "us", "--keyboard", "de small laptop") == []
    office.edit("  keyboard: us", "  keyboard: [us, fr]")
    (found,) = json.loads(office.jaklet("check", "--format", "json").stdout)["findings"]
    assert found["cause"].startswith("super+shift+1 is the same key as super+1 on fr, and cannot be told from it")
    assert "did you mean fr" in office.jaklet("check", "--keyboard", "frr", status=2).stderr
    assert "DISPLAY" in office.jaklet("check", "--keyboard", "this", status=1).stderr


def test_parts_are_included_for_this_host_or_keyboard_alone(office: Office) -> None:
    text = office.config.read_text()
    parts = "include:\n- more.yaml\n- {file: far.yaml, host: far-away}\n- {file: here.yaml, host: '*'}\n"
    office.config.write_text(parts + "- {file: french.yaml, keyboard: fr}\n" + text)
    for name, key in {"more": "super+f2", "far": "super+f3", "here": "super+f4", "french": "super+f6"}.items():
        (office.folder / f"{name}.yaml").write_text(f"bindings:\n  {key}: focus last\n")
    said = office.jaklet("check").stdout
    assert "no findings: 75 bindings" in said
    assert "left out: far.yaml is for host far-away" in said
    assert "left out: french.yaml is for keyboard fr" in said
    assert "super+f6" in office.jaklet("keys", "why", "super+f6", "--keyboard", "fr").stdout
    assert "focus last" in office.jaklet("keys", "why", "super+f6", "--keyboard", "fr").stdout
    # A binding of the file itself takes the place of one of its parts if it says so, and only then.
    (office.folder / "more.yaml").write_text("bindings:\n  super+b: focus last\n")
    assert codes(office) == ["JK203"]
    office.edit("  super+b: go berths\n", "  super+b: {do: go berths, instead: true}\n")
    assert codes(office) == []
    assert "super+b: go berths" in office.jaklet("fire", "super+b").stdout


def test_a_free_chord_is_put_in_and_nothing_else_changes(office: Office) -> None:
    """Comments, order, spacing, quotes, line ends and the byte order mark stay; so do the mode and a link."""
    real = office.folder / "real.yaml"
    text = "\ufeff# Häfen\r\nbindings:   # keys\r\n  super+b :  close   # one\r\n  'Super+B': minimise # two\r\n\r\n  super+ctrl+b: close\r\n"
    real.write_bytes(text.encode())
    real.chmod(0o640)
    office.config.unlink()
    office.config.symlink_to(real)
    refused = office.jaklet("check", "--fix", status=2)
    assert "add --yes" in refused.stderr
    assert real.read_bytes() == text.encode()
    done = office.jaklet("check", "--fix", "--yes", status=1)  # the layout names apps that this config lacks
    assert done.stdout.startswith("jaklet.yaml:4:4: Super+B is now super+alt+b (JK203)\n1 chord changed\n")
    assert real.read_bytes() == text.replace("Super+B", "super+alt+b").encode()
    assert stat.S_IMODE(real.stat().st_mode) == 0o640
    assert office.config.is_symlink()


def test_all_that_can_be_mended_is_and_the_rest_is_told(office: Office) -> None:
    done = office.jaklet("check", "clashes", "--fix", "--yes", status=0)
    assert "chords changed" in done.stdout
    # No other chord would mend the first two; the last is about a chord that works, and is moved if it is named.
    left = {"JK217", "JK219", "JK212"}
    assert set(codes(office, "clashes", status=0)) <= left
    again = office.jaklet("check", "clashes", "--fix", "--yes")
    assert again.stdout.startswith("nothing was changed")
    found = json.loads(office.jaklet("check", "clashes", "--format", "json").stdout)["findings"]
    chord = next(one["cause"].split()[0] for one in found if one["code"] == "JK212")
    named = office.jaklet("check", "clashes", "--fix", "--yes", "--chord", chord)
    assert f"{chord} is now " in named.stdout
    assert set(codes(office, "clashes", status=0)) <= {"JK217", "JK219"}


def test_of_three_equal_chords_two_get_others(office: Office) -> None:
    (office.folder / "layouts" / "arrivals.yaml").unlink()
    office.config.write_text("bindings:\n  super+b: close\n  super+B: minimise\n  Super+b: maximise\n")
    office.jaklet("check", "--fix", "--yes")
    chords = [line.partition(":")[0].strip().lower() for line in office.config.read_text().splitlines()[1:]]
    assert len(set(chords)) == 3


def test_a_chord_that_several_bindings_share_is_nobodys_to_change(office: Office) -> None:
    """Those of a list and of a family stand at one place of the file."""
    office.edit(
        "  super+z: focus last", "  super+z: [{do: close, only in: radio}, focus last]\n  ctrl+<side>: focus <side>"
    )
    before = office.config.read_text()
    assert codes(office) == ["JK203", "JK212"]
    assert office.jaklet("check", "--fix", "--yes", status=1).stdout.startswith("nothing was changed")
    assert office.config.read_text() == before


def test_one_chooses_among_free_chords_on_a_terminal(office: Office) -> None:
    import pty
    import subprocess

    from tests.conftest import JAKLET

    before = (office.folder / "clashes" / "jaklet.yaml").read_text()
    ours, theirs = pty.openpty()
    os.write(ours, b"2\ns\nq\n")
    done = subprocess.run(
        [JAKLET, "check", "clashes", "--fix"], cwd=office.folder, env=office.env, stdin=theirs, stderr=theirs,
        stdout=subprocess.PIPE, timeout=60, text=True,
    )  # fmt: skip
    os.close(theirs)
    os.close(ours)
    assert "1 chord changed" in done.stdout
    changed = (office.folder / "clashes" / "jaklet.yaml").read_text()
    assert [(a, b) for a, b in zip(before.splitlines(), changed.splitlines(), strict=True) if a != b] == [
        ("  Super+A: place right 1/3", "  super+shift+a: place right 1/3")
    ]


@pytest.mark.parametrize("path", ["clashes", "first-try", "jaklet.yaml"])
def test_sarif_is_valid_and_says_the_same(path: str, office: Office) -> None:
    log = json.loads(office.jaklet("check", path, "--format", "sarif", status=None).stdout)
    jsonschema.validate(log, SCHEMA)
    results = log["runs"][0]["results"]
    assert [one["ruleId"] for one in results] == codes(office, path)
    for one in results:
        assert log["runs"][0]["tool"]["driver"]["rules"][one["ruleIndex"]]["id"] == one["ruleId"]
    if path == "clashes":
        fix = results[0]["fixes"][0]["artifactChanges"][0]["replacements"][0]
        assert fix["deletedRegion"] == {"startLine": 14, "startColumn": 3, "endColumn": 10}


def test_keys_are_told_from_what_they_do_and_hung_on_the_wall(office: Office) -> None:
    assert "super+2  recall 2" in office.jaklet("keys", "for", "recall arrivals").stdout
    assert office.jaklet("keys", "for", "layout", "2").stdout.count("super+") == 1
    assert "super+g" in office.jaklet("keys", "ledger").stdout  # by its desktop entry
    assert office.jaklet("keys", "for", "close letters", status=1).stdout == ""
    assert "did you mean place?" in office.jaklet("keys", "for", "plce full", status=2).stderr
    for name, words in (("k.html", "50 lines"), ("k.pdf", "50 lines on 1 sheet"), ("k.csv", "50 lines")):
        assert office.jaklet("keys", "--out", name).stdout == f"wrote {name}: {words}\n"
        assert (office.folder / name).stat().st_size > 1000
    assert "names no format" in office.jaklet("keys", "--out", "k.doc", status=2).stderr
    assert "cannot be written" in office.jaklet("keys", "--out", "none/k.md", status=1).stderr


def test_what_is_known_of_a_chord(office: Office) -> None:
    office.edit("    super+s <n>: save <n>  ", "    super+shift+<n>: save <n>  ")
    text = office.jaklet("keys", "why", "super+shift+1", "--keyboard", "fr").stdout
    assert "the key super+shift+ampersand" in text  # as it is called by what stands on it
    assert "free, like it" in text
    assert "super+l" not in office.jaklet("keys", "why", "super+j").stdout.partition("free, like it")[2].split(",")[0]
    assert "save 1 (one of super+shift+<n>, under layouts)" in text
    assert "the same key as super+1" in text
    assert "JK205" in text
    known = json.loads(office.jaklet("keys", "why", "ctrl+c", "--keyboard", "us", "--format", "json").stdout)
    assert {one["owner"] for one in known["owned"]} == {"a common convention", "the terminal line"}
    assert known["bound"] == []
    assert known["keyboards"][0]["key"] == "ctrl+c"
    assert (
        json.loads(office.jaklet("keys", "why", "altgr+e", "--keyboard", "de", "--format", "json").stdout)["keyboards"][
            0
        ]["types"]
        == "eurosign"
    )
    assert "no AltGr key" in office.jaklet("keys", "why", "altgr+e", "--keyboard", "us").stdout
    assert "'hyper' is no modifier" in office.jaklet("keys", "why", "hyper+x", status=2).stderr


def test_free_chords_are_free(office: Office) -> None:
    everything = json.loads(office.jaklet("keys", "free", "--format", "json").stdout)
    assert [one["strain"] for one in everything] == sorted(one["strain"] for one in everything)
    some = json.loads(office.jaklet("keys", "free", "--with", "super", "--hand", "left", "--format", "json").stdout)
    assert {one["hand"] for one in some} == {"left"}
    assert all(one["chord"].count("+") == 1 for one in some)
    bound = {chord for line in json.loads(office.jaklet("keys", "--format", "json").stdout) for chord in line["chords"]}
    live = bound - {f"ctrl+alt+{side}" for side in ("left", "right", "up", "down")}
    assert not live & {one["chord"] for one in everything}
    for one in (everything[0], everything[len(everything) // 2], everything[-1]):  # binding it makes no finding
        office.edit("  super+z: focus last", f"  super+z: focus last\n  {one['chord']}: close")
        assert codes(office) == []
        office.edit(f"\n  {one['chord']}: close", "")
    near = office.jaklet("keys", "free", "--with", "super", "--near", "j").stdout.splitlines()
    assert near[0].startswith("best: super+j, super+k")
    assert "no hand is called 'middle'" in office.jaklet("keys", "free", "--hand", "middle", status=2).stderr


def test_every_finding_is_explained(office: Office) -> None:
    listed = office.jaklet("explain").stdout.splitlines()
    assert len(listed) > 50
    assert "A config that has it:" in office.jaklet("explain", "jk205").stdout
    assert "there is no finding JK999" in office.jaklet("explain", "JK999", status=2).stderr


def test_it_checks_again_whenever_a_file_changes(office: Office) -> None:
    """A line for each check; a layout that comes counts as well; Ctrl+C ends it."""
    log = office.folder / "checks"
    with log.open("w") as out:
        command = [JAKLET, "check", "--watch", "--format", "jsonl"]
        process = subprocess.Popen(
            command, cwd=office.folder, env=office.env, stdout=out, stderr=subprocess.STDOUT,
            preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),  # it may be ignored where tests run
        )  # fmt: skip
    try:

        def codes(number: int) -> list[str]:
            lines = until(lambda: (got := log.read_text().splitlines())[number:] and got, f"check {number}")
            return [one["code"] for one in json.loads(lines[number])["findings"]]

        assert "JK302" not in codes(0)
        text = office.config.read_text()
        office.config.write_text(text.replace("super+b: go berths", "super+b: go ferry"))
        assert "JK302" in codes(1)
        new = office.folder / "new.yaml"  # as editors do it: another file in the place of the old one
        new.write_text(text)
        new.rename(office.config)
        assert "JK302" not in codes(2)
        (office.folder / "layouts" / "night.yaml").write_text("layout: day\nwindows: []\n")
        assert "JK502" in codes(3)
    finally:
        process.send_signal(signal.SIGINT)
        assert process.wait(20) == 130
    assert "jsonl" in office.jaklet("check", "--watch", "--format", "json", status=2).stderr
