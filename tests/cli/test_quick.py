"""Commands that the listener does: the same words, exit status and desk as when the command does them itself."""

import json
import re
import subprocess
import sys
from typing import Any

import pytest

from jaklet.__main__ import BY_LISTENER
from jaklet.cli.quick import COMMANDS
from tests.conftest import JAKLET, Office
from tests.listener.test_x11 import Listening
from tests.xserver import LIMIT, XServer

USUAL = (sys.executable, "-c", "from jaklet.cli.app import main; main()")  # what `jaklet` does where no listener can
ASKED = [
    ("act", "go radio"),
    ("act", "go charts"),
    ("act", "go nosuch"),
    ("act", "go berth"),
    ("act", "run nosuch"),
    ("act", "run morning"),
    ("act", "run stuck"),
    ("act", "place berths left 1/2"),
    ("act", "place reading2"),
    ("act", "gathr"),
    ("act", "gather"),
    ("act", 'tell "high water"'),
    ("act", "leave"),
    ("act", "kill radio"),
    ("act", "kill radio", "--sure"),
    ("act", "close charts"),
    ("act", "recall bay"),
    ("act", "recall nosuch"),
    ("act", ""),
    ("act", "--format"),
    ("act", "gather", "--sure", "more"),
    ("fire", "--sure"),
    ("layout", "recall", "--sure"),
    ("layout", "recall"),
    ("undo", "more"),
    ("fire", "super+b"),
    ("fire", "super+r", "super+left"),
    ("fire", "super+y"),
    ("fire", "super+bb"),
    ("fire", "super+o"),
    ("fire", "super+o", "b"),
    ("fire", "super+o b"),
    ("fire", "super+w", "x", "b", "escape", "b"),
    ("fire", "super+z", "super+b"),
    ("fire", "super+m"),
    ("layout", "recall", "bay"),
    ("layout", "recall", "bya"),
    ("layout", "recall", "last"),
    ("layout", "save", "bay"),
    ("layout", "save", "quay"),
    ("layout", "save", "no/name"),
    ("undo",),
    ("desk", "--format", "json"),
    ("desk", "--format", "yaml"),
    ("status",),
    ("status", "--format=json"),
]
CONFIG = """
apps:
  berths: {launch: berth-board, window: {class: BerthBoard}}
  radio: {launch: radio-log, window: {class: RadioLog}}
  charts: {launch: charts, window: {class: Charts}}
displays: {main: {name: DP-1}, quay: {name: HDMI-1}}
bindings:
  super+b: go berths
  super+r: go radio
  super+left: place left 1/2
  super+z: close charts
  super+o b: go berths
  super+w: enter tidy
  super+m: run morning
layers: {tidy: {stays: true, bindings: {b: go berths}}}
macros:
  morning: [go radio, tell "high water", place right 1/3]
  stuck: [go berths, close charts, tell "never"]
"""


def desk_of(x: XServer) -> Any:
    return sorted((cls, x.frame(cls)) for cls in x.stacking()), x.active()


def plain(text: str) -> str:
    """Return an answer without what no two runs have in common."""
    text = re.sub(r"since today [\d:]+|\(process \d+\)|'pid': \d+|\d+ ms|\d\d:\d\d:\d\d|@\d+", "", text)
    if text.startswith("{"):
        told = json.loads(text)
        for key in ("actions", "since", "windows"):
            told.pop(key, None)
        return json.dumps(told)
    return text.partition("last actions")[0]


@pytest.mark.parametrize("kind", ["act", "other"])
def test_both_ways_say_and_do_the_same(kind: str, x: XServer, x_office: Office) -> None:
    """One listener for all of the table: it has done what it was asked, and not what the other way did."""
    x_office.config.write_text(CONFIG)
    x_office.jaklet("fire", "super+r", "super+b", "super+left")
    for _ in range(2):
        x_office.jaklet("layout", "save", "bay")
    listening = Listening(x_office)
    for words in (words for words in ASKED if (words[0] == "act") == (kind == "act")):
        usual = asked(USUAL, words, x, x_office)
        before = listening.says()
        quick = asked((JAKLET,), words, x, x_office)
        assert quick == usual, words
        if words[0] in ("act", "undo") and quick[0] == 0:
            assert listening.says() != before, words
    listening.stop()


def test_the_way_in_knows_which_commands_a_listener_can_do() -> None:
    assert set(BY_LISTENER) == set(COMMANDS)


BEGIN = [("BerthBoard", (0, 0, 960, 1080)), ("RadioLog", (100, 100, 700, 500))], "BerthBoard"


def set_up(words: tuple[str, ...], x: XServer, office: Office) -> None:
    """Put the windows where each command finds them."""
    if "Charts" in x.stacking():
        office.jaklet("act", "kill charts", "--sure")
    office.jaklet("fire", "super+r")
    office.jaklet("act", "place radio at 100,100 size 700x500")
    office.jaklet("fire", "super+b", "super+left")
    assert desk_of(x) == BEGIN, words


def asked(way: tuple[str, ...], words: tuple[str, ...], x: XServer, office: Office) -> tuple[int, str, str, Any]:
    """Ask for a command in one of the two ways, on the same desk; return the answer, and the desk after it."""
    if desk_of(x) != BEGIN:
        set_up(words, x, office)
    (office.folder / "layouts" / "quay.yaml").unlink(missing_ok=True)
    if words[1:] == ("save", "bay"):
        office.jaklet("act", "place radio left 1/3")
        office.jaklet("layout", "save", "bay")  # so that there is another former version each time
        set_up(words, x, office)
    done = subprocess.run(
        [*way, *words], cwd=office.folder, env=office.env, capture_output=True, text=True, timeout=3 * LIMIT
    )
    return done.returncode, plain(done.stdout), plain(done.stderr), desk_of(x)


LEFT = [  # what the listener leaves to the command, and what the config is changed to before
    (("act", "go berths", "--dry-run"), None),
    (("act", "go berths"), "bindings: {super+b: go berths}\napps: {berths: {launch: berth-board}}\n"),
    (("act", "go berths", "--config", "other.yaml"), None),
]


@pytest.mark.parametrize(("words", "text"), LEFT)
def test_what_a_listener_leaves_to_the_command_is_not_done_by_it(
    words: tuple[str, ...], text: str | None, x_office: Office
) -> None:
    (x_office.folder / "other.yaml").write_text(CONFIG)
    listening = Listening(x_office)
    before = listening.says()
    if text:
        x_office.config.write_text(text)
    done = x_office.jaklet(*words)
    assert "berths" in done.stdout
    assert listening.says() == before
    if text:
        assert "does not go by" in x_office.jaklet("status", status=1).stdout
        x_office.jaklet("reload")
        x_office.jaklet(*words)
        listening.until_says("go: berths")  # a thread writes the log
    listening.stop()


def test_a_quick_command_loads_nothing_large_and_knows_the_layer(x: XServer, x_office: Office) -> None:
    x_office.config.write_text(CONFIG)
    listening = Listening(x_office)
    x.press("super+w")
    listening.until_says("layer tidy is on")
    fired = x_office.jaklet("fire", "b")  # without a listener it would not be bound
    assert fired.stdout == "b (tidy): go berths\nberths (Berth board) is launched and in front\n"
    for words in (("act", "gather"), ("status",), ("desk", "--format", "json"), ("undo",)):
        done = x_office.jaklet(*words, status=None, PYTHONPROFILEIMPORTTIME="1")
        loaded = {
            line.rpartition("|")[2].strip() for line in done.stderr.splitlines() if line.startswith("import time:")
        }
        large = {"typer", "click", "yaml", "xcffib", "typing", "pathlib", "dataclasses", "jaklet.cli.app"}
        assert "jaklet.cli.quick" in loaded
        assert not loaded & large, words
        assert not [name for name in loaded if name.startswith("jaklet.core.actions")]
    listening.stop()
