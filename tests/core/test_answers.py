"""What each action answers and does on the harbour office's desk, as transcripts that were read line by line.

Frames of each form of place were reckoned by hand from the figures below.

The desk: `main` 2560x1440 with a bar of 40 pixels at its top, `quay` 1920x1080 at its right; gaps and rims of 8 pixels.
Letters go by steps of 9x18 pixels and are minimised where others are closed; charts are brought here; the ledger fails, and
the tide gauge never shows a window; that of the pilots' notes takes no other size.
A line `> ` is an action, `! ` one that fails; its answer follows, and each window that has changed.
"""

from collections.abc import Iterable
from pathlib import Path
from typing import Any

import pytest

from jaklet.core.values.apps import App, exactly
from jaklet.core.values.desk import Desk
from jaklet.rehearsal.memory import RehearsedHistory
from tests.core.test_recall import CONFIG, Table

APPS = {name.partition("-")[0]: app._replace(name=name.partition("-")[0]) for name, app in CONFIG.apps.items()}
APPS["charts"] = APPS["charts"]._replace(bring_here=True)
APPS["letters"] = APPS["letters"]._replace(stays=True)
APPS["pilot"] = App("pilot", ("pilot-notes",), (exactly(cls="PilotNotes"),))
TROUBLE: dict[str, dict[str, Any]] = {
    "ledger": {"fails": 3, "says": "no ink"},
    "tide-gauge": {"silent": True},
    "pilot-notes": {"stubborn": True},
}
SCENES = sorted((Path(__file__).parent.parent / "data" / "answers").glob("*.txt"))


def windows(desk: Desk) -> dict[int, str]:
    """Return each window in words of its own data."""
    told = {}
    for one in desk.windows:
        x, y, width, height = one.frame
        marks = [one.shape.value] if one.shape.value != "normal" else []
        marks += ["minimised"] if one.minimised else []
        marks += ["above"] if one.above else []
        marks += [f"on {one.workspace}"] if one.workspace != 1 else []
        told[one.id] = " ".join([f"{one.id} {one.instance}", f"{x},{y} {width}x{height}", *marks])
    return told


def played(scene: Iterable[str]) -> list[str]:
    """Return the scene with what is answered and done."""
    table = Table(CONFIG._replace(apps=APPS, settings=CONFIG.settings._replace(wait=2)))
    table.history = RehearsedHistory()
    programs = table.desktop.room.programs
    table.desktop.room.programs = {name: one._replace(**TROUBLE.get(name, {})) for name, one in programs.items()}
    lines = []
    for line in scene:
        if not line.startswith(("> ", "! ")):
            continue
        before, desk = windows(table.desk()), table.desk()
        end = table.act(line[2:])
        after, now = windows(table.desk()), table.desk()
        lines += [f"{'>' if end.done else '!'} {line[2:]}", end.line, *(f"  {one}" for one in end.more)]
        lines += [f"= {told}" for wid, told in after.items() if before.get(wid) != told]
        lines += [f"= {told} is gone" for wid, told in before.items() if wid not in after]
        lines += [f"= focus {now.active or 'none'}"] if now.active != desk.active else []
        lines += [f"= workspace {now.workspace}"] if now.workspace != desk.workspace else []
    return lines


@pytest.mark.parametrize("scene", SCENES, ids=lambda scene: scene.stem)
def test_an_action_says_and_does_what_was_read(scene: Path) -> None:
    lines = scene.read_text().splitlines()
    assert played(lines) == lines
