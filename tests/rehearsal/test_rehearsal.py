"""Rehearsals, trials and proofs on the tabletop of the demo, by the installed program and from within."""

import json
import re
import xml.etree.ElementTree as ET

import pytest
import yaml

from tests.conftest import Office
from tests.terminals import screens

LEAK = "    a: {do: recall arrivals, not in: letters}\n    super+k: go letters\n"
STUCK = "  stuck:\n    stays: true\n    bindings: {escape: go berths, k: place left 1/2}\n"
TASKS = "  tasks:\n    bindings: {2: recall arrivals}\n"


@pytest.fixture
def office(office: Office) -> Office:
    office.edit(
        "  letters: {launch: letters, closing: minimise}",
        "  letters: {launch: letters, closing: minimise, types: true}",
    )
    return office


def traced(office: Office, *words: str, status: int = 0) -> list[dict[str, object]]:
    done = office.jaklet("rehearse", *words, "--trace", "-", status=status)
    return [json.loads(line) for line in done.stdout.splitlines()]


def test_a_rehearsal_tells_what_chords_do_and_touches_nothing(office: Office) -> None:
    before = {path: path.read_bytes() for path in office.folder.rglob("*") if path.is_file()}
    acts = traced(
        office, "super+b", "super+w", "left", "super+shift+3", "escape", "super+3", "super+j", "wait 30m", status=1
    )
    assert [act["meaning"] for act in acts] == [
        *(
            "go berths",
            "enter arrange",
            "place left 1/2",
            "nothing is bound to it in layer arrange",
            "the layer is left",
        ),
        *("recall 3", "it goes to berths", "time passes"),
    ]
    assert [act["layer"] for act in acts[:5]] == ["", "arrange", "arrange", "arrange", ""]
    assert acts[0]["moves"] == ["berths opened at 0,0 size 1100x700 on main", "focus: berths"]
    assert acts[6]["passed"]
    after = {path: path.read_bytes() for path in office.folder.rglob("*") if path.is_file()}
    assert {path.name for path in after.keys() - before.keys()} <= {"undo.sqlite"}
    assert all(after[path] == text for path, text in before.items())


def test_a_macro_is_shown_step_by_step_and_its_saves_are_forgotten(office: Office) -> None:
    said = office.jaklet("rehearse", "super+d", "super+s", "4", "super+4").stdout
    assert re.search(r"0\.4 s +go berths: berths \(Berth board\) is launched and in front", said)
    assert re.search(
        r"start of day is done: 8 steps\n +berths opened left 2/3 on main\n +radio opened right 1/3 on main", said
    )
    assert "1a. go berths" in said
    assert "saved layout 4" in said
    assert "recalled layout 4" in said
    assert "4" not in office.jaklet("layout", "list").stdout.split("keys without")[0]


def test_bad_chords_and_desks_are_refused_in_words(office: Office) -> None:
    for words, message in (
        (["super+"], "the key is missing"), (["wait long"], "how long"), ([], "no chord is given"),
        (["super+b", "--from", "none.yaml"], "no tabletop at none.yaml"), (["-i"], "needs a terminal"),
    ):  # fmt: skip
        assert message in office.jaklet("rehearse", *words, status=2).stderr


def test_strips_and_traces_are_written(office: Office) -> None:
    done = office.jaklet("rehearse", "super+d", "super+b", "--picture", "strip.svg", "--trace", "trace.jsonl")
    assert "the picture is in strip.svg" in done.stderr
    drawn = (office.folder / "strip.svg").read_text()
    assert "<svg" in drawn
    assert len((office.folder / "trace.jsonl").read_text().splitlines()) == 2


def test_tabletops_are_made_saved_shown_and_used(office: Office) -> None:
    office.jaklet("fire", "super+b", "super+left", "super+g", "super+up")
    said = office.jaklet("tabletop", "save", "now.yaml").stdout
    assert "2 displays, 7 programs, 2 windows" in said
    assert "add --replace" in office.jaklet("tabletop", "save", "now.yaml", status=2).stderr
    shown = json.loads(office.jaklet("tabletop", "show", "now.yaml", "--format", "json").stdout)
    own = json.loads(office.jaklet("desk", "--format", "json").stdout)
    assert [(one["app"], one["frame"]) for one in shown["windows"]] == [
        (one["app"], one["frame"]) for one in own["windows"]
    ]
    again = office.jaklet("tabletop", "new", "new.yaml", "--on", "main 1600x900").stdout
    assert "1 display, 6 programs, 0 windows" in again
    (act,) = traced(office, "super+g", "--from", "new.yaml")
    assert act["moves"] == ["ledger opened at 0,0 size 800x600 on main", "focus: ledger"]
    (act,) = traced(office, "super+r", "--from", "now")
    assert "radio opened" in str(act["moves"])


def test_trials_pass_and_fail_with_what_was_so_instead(office: Office) -> None:
    assert "3 trials passed" in office.jaklet("trial").stdout
    office.edit(
        "trials:  ",
        "trials:\n  wrong:\n    press: [super+r, super+right]\n    expect: [front is berths, radio at left 1/3 on main, nothing changed, nothing lost]\n#",
    )
    done = office.jaklet("trial", "--junit", "out.xml", status=1).stdout
    for line in (
        "- front is berths  expected",
        "+ front is radio",
        "+ radio: at right 1/3 on main",
        "+ radio opened, front is radio",
        "1 of 4 trials failed",
    ):
        assert line in done
    assert "nothing lost" not in done
    assert "2. super+right: place right 1/3" in done
    suite = ET.parse(office.folder / "out.xml").getroot()[0]
    assert (suite.get("tests"), suite.get("failures"), len(suite.findall("testcase/failure"))) == ("4", "1", 3)
    (failed,) = json.loads(office.jaklet("trial", "wrong", "--format", "json", status=1).stdout)
    assert failed["failures"][0] == {"expected": "front is berths", "instead": "front is radio"}
    assert "did you mean wrong" in office.jaklet("trial", "wrng", status=2).stderr


@pytest.mark.parametrize("sentence", ["gaps off", "focus last", "place left 1/3", "workspace 2", "minimise"])
def test_whatever_a_person_can_see_is_a_change(office: Office, sentence: str) -> None:
    """A trial that expects no change fails for the order alone, for gaps alone, and for each other thing alone."""
    office.edit("  super+b: go berths\n", f"  super+b: go berths\n  super+f8: {sentence}\n")
    office.edit(
        "trials:  ", "trials:\n  still:\n    from: tabletop.yaml\n    press: super+f8\n    expect: nothing changed\n#"
    )
    office.jaklet("fire", "super+b", "super+r")
    assert "1 of 1 trial failed" in office.jaklet("trial", "still", status=1).stdout


def test_trials_run_on_every_set_of_displays_and_every_keyboard(office: Office) -> None:
    office.edit(
        "  keyboard: us\n",
        "  keyboard: [us, de]\n  display sets: {office: 'main 2560x1440, quay 1920x1080', road: main 1280x800}\n",
    )
    office.edit(
        "trials:  ",
        "trials:\n  odd key:\n    displays: road\n    press: super+odiaeresis\n    expect: nothing changed\n#",
    )
    said = office.jaklet("trial", status=1).stdout
    assert re.search(r"failed  odd key \(road\)\n.*\n  - super\+odiaeresis can be pressed on us", said)
    assert "passed  the day begins with one key (office)" in said
    assert "failed  the day begins with one key (road)" in said
    assert "can be pressed on de" not in said


def test_a_recorded_trial_passes_until_the_config_changes(office: Office) -> None:
    office.jaklet("fire", "super+r", "super+right")
    said = office.jaklet("trial", "--write", "super+b", "super+left", "super+m", "--name", "radio by name").stdout
    assert "radio at right 1/3 on main" in said
    written = yaml.safe_load((office.folder / "trials" / "radio-by-name.yaml").read_text())
    assert written["trials"]["radio by name"]["press"] == ["super+b", "super+left", "super+m"]
    assert "passed  radio by name" in office.jaklet("trial", "radio by name").stdout
    office.edit("super+left: place left 2/3", "super+left: place left 1/2")
    assert "+ berths: at left 1/2 on main" in office.jaklet("trial", "radio by name", status=1).stdout
    assert (
        "is called 'radio by name' already"
        in office.jaklet("trial", "--write", "super+b", "--name", "radio by name", status=2).stderr
    )


def test_what_is_wrong_in_a_trial_is_told_by_check(office: Office) -> None:
    (office.folder / "trials").mkdir()
    text = "trials:\n  odd:\n    press: supr+b\n    expect: [front is berth, nothing lots]\n  bare: {press: super+b}\nother: 1\n"
    (office.folder / "trials" / "odd.yaml").write_text(text)
    found = {
        (one["code"], one["line"])
        for one in json.loads(office.jaklet("check", "--format", "json", status=1).stdout)["findings"]
    }
    assert found == {("JK201", 3), ("JK302", 4), ("JK314", 4), ("JK106", 5), ("JK103", 6)}


def counterexamples(office: Office) -> list[tuple[str, str]]:
    status = office.jaklet("trial", "--prove", "--format", "json", status=None)
    told = json.loads(status.stdout)
    assert told["holds"] == (status.returncode == 0) == (not told["counterexamples"])
    return [(" ".join(one["press"]), one["problem"]) for one in told["counterexamples"]]


def test_a_proof_finds_traps_as_keys_that_can_be_pressed_and_passes_the_cured_config(office: Office) -> None:
    assert counterexamples(office) == []
    office.edit(
        "    super+w: enter arrange  ",
        f"{LEAK}    super+j: enter stuck\n    super+u: enter tasks\n    super+w: enter arrange  ",
    )
    office.edit("layers:\n", f"layers:\n{STUCK}{TASKS}")
    found = dict(counterexamples(office))
    assert {*found.values()} == {"a is typed into letters", "no key leaves layer stuck"}
    assert "super+j" in found
    trap = next(keys for keys in found if keys.endswith("a"))
    acts = traced(office, *trap.split())  # the user can press it, and sees the same
    assert acts[-1]["passed"]
    office.edit("escape: go berths, k", "escape: leave, k")
    office.edit("    a: {do: recall arrivals, not in: letters}\n", "    super+a: recall arrivals\n")
    assert counterexamples(office) == []


def test_a_proof_finds_what_is_typed_after_a_layer_is_over(office: Office) -> None:
    office.edit("    super+w: enter arrange  ", "    super+u: enter tasks\n    super+w: enter arrange  ")
    office.edit("layers:\n", f"layers:\n{TASKS}")
    layout = office.folder / "layouts" / "arrivals.yaml"
    layout.write_text(re.sub("^focus: .*", "focus: letters", layout.read_text(), flags=re.MULTILINE))
    assert ("super+u 2 2", "after arrivals, 2 is typed into letters, as the layer is over") in counterexamples(office)


def test_keys_of_a_terminal_are_pressed_with_the_modifier_of_the_config(office: Office) -> None:
    """The interactive view, on a terminal of its own."""
    with screens(office) as show:
        one = show("rehearse", "-i")
        one.until_shows("keys are pressed with super")
        one.type("b")
        one.until_shows("focus: berths")
        one.type("w")
        one.until_shows("enter arrange")
        one.type("\x1b[D")
        one.until_shows("place left 1/2")
        one.type("\x03")
        assert one.end()[0] == 0
