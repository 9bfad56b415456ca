"""A verb that is added in one place, with the function that does it, is known everywhere."""

from pathlib import Path

import pytest
from tools.make_actions import page
from typer.testing import CliRunner

from jaklet.checks.explaining import explanations
from jaklet.checks.run import check_config
from jaklet.cli.app import app_with
from jaklet.config.paths import locate_config
from jaklet.core.actions.begin import BEGINS
from jaklet.core.actions.candidates import CandidateSources, app_candidates, windows
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, outcome
from jaklet.core.language.event_kinds import FOCUS, OPENS
from jaklet.core.language.verbs import KEYS_OF_APPS, PLAIN, VERBS, Cause, FocusAfter, Traits, Verb, VerbLoss, WindowNeed
from jaklet.core.values.chords import parse_chord
from jaklet.core.values.sentences import Action
from jaklet.drawing.app_tables import app_keys
from jaklet.installed.programs import InstalledPrograms
from jaklet.rehearsal.proving import prove
from jaklet.rehearsal.stage import Rehearsal
from tests.rehearsal.test_proving import basis_of

BINDINGS = """\
bindings: {super+1: recall one, super+h: hoist board, super+b: go board}
macros: {raise: [hoist log, type "x", minimise, type "y"]}
events: {window of board opens: hoist board}
"""


@pytest.fixture
def hoisted(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """What was hoisted by the new verb so far."""
    done: list[str] = []

    def hoist(action: Action, _context: TaskContext, _moment: Moment) -> Task:
        done.append(action.refs[0].name)
        return outcome(True, f"{action.refs[0].name} is hoisted")

    traits = PLAIN._replace(
        causes=(Cause(OPENS, "APP"), Cause(FOCUS, "APP")), focus=FocusAfter.GOES, opens=WindowNeed.ITS_APP,
        loses=VerbLoss.LAYOUT, listed=("windows", "apps", KEYS_OF_APPS),
    )  # fmt: skip
    monkeypatch.setitem(VERBS, "hoist", Verb("hoist", "APP", "hoist a flag", "hoist berths", traits))
    monkeypatch.setitem(BEGINS, "hoist", hoist)
    return done


def test_a_new_verb_is_known_everywhere(hoisted: list[str], tmp_path: Path) -> None:
    basis, room = basis_of(tmp_path, BINDINGS)
    assert (
        "hoist APP" in CliRunner().invoke(app_with(["act"]), ["act"], env={"COLUMNS": "200"}).stdout
    )  # the list of actions
    assert "| `hoist APP` | hoist a flag | `hoist berths` |" in page()  # the manual
    assert app_keys(basis.config)["board"] == ["super+h", "super+b"]  # the drawing of apps

    stage = Rehearsal(basis, room)
    act = stage.press(parse_chord("super+b"))  # the rehearsal: the event hoists what opens
    assert hoisted == ["board"]
    assert any("board is hoisted" in line.text for line in act.lines)
    stock = CandidateSources(basis.config, stage.desk)  # the finder
    assert next(one.keys for one in app_candidates(stock)) == ("super+h", "super+b")
    assert [one.keys for one in windows(stock)] == [("super+h", "super+b")]

    hoisted.clear()
    prove(basis, room)  # the proof: it may bring another app to the front, so that it is tried in each situation
    assert len(hoisted) > 1

    found = check_config(locate_config(str(tmp_path)), InstalledPrograms(["berth-board", "radio-log"])).findings
    told = {one.code: one.cause for one in found}
    assert "hoist board" in told["JK608"]  # the check of circles of events
    assert "JK605" in told  # it gives the focus to an app, so that only what comes after `minimise` is in doubt
    assert [one.code for one in found].count("JK605") == 1


def test_what_is_new_answers_every_question_about_it() -> None:
    """A trait that is forgotten is an error of types, as none has a default; and each verb has what does it."""
    assert not Traits._field_defaults
    assert not Verb._field_defaults
    assert {*BEGINS} == {*VERBS}


def test_the_manual_has_every_finding_and_every_verb() -> None:
    pages = {name: (Path(__file__).parent.parent / "docs" / name).read_text() for name in ("actions.md", "findings.md")}
    assert pages["actions.md"] == page()
    assert [code for code in explanations() if f"### {code}" not in pages["findings.md"]] == []
