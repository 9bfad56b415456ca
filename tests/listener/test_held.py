"""Keys go on whatever others hold; commands say so when a listener does not answer; nothing is done behind a back."""

import signal
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.conftest import JAKLET, Office
from tests.listener.test_x11 import LEFT_TWO_THIRDS, RIGHT_THIRD, Listening
from tests.neighbours.holders import HOLDERS, halted
from tests.xserver import XServer, until

LIMIT = 20.0  # seconds for a key on a loaded machine; what is held is so for as long as the keys are pressed


@pytest.fixture
def listening(x: XServer, x_office: Office) -> Iterator[Listening]:
    x_office.edit("  super+q: ", "  super+f5: save held\n  super+f6: recall 1\n  super+f7: recall held\n  super+q: ")
    x.open("BerthBoard")
    until(lambda: x.active() == "BerthBoard", "the berth board in front")
    x_office.jaklet("layout", "save", "held", "--number", "1")
    one = Listening(x_office)
    yield one
    one.stop(signal.SIGKILL)


def place(x: XServer, chord: str, frame: tuple[int, int, int, int]) -> None:
    """Press a chord that places a window, and wait until it stands there."""
    x.press(chord)
    until(lambda: x.frame("BerthBoard") == frame, f"{chord} to be done", LIMIT)


@pytest.mark.parametrize("what", HOLDERS)
def test_keys_go_on_while_somebody_holds(what: str, x: XServer, x_office: Office, listening: Listening) -> None:
    """All that writes or reads it is pressed first; then keys that have nothing to do with it."""
    with HOLDERS[what](x_office.folder):
        for chord in ("super+f5", "super+f6", "super+f7"):
            x.press(chord)
            place(x, "super+left", LEFT_TWO_THIRDS)
            place(x, "super+right", RIGHT_THIRD)
        assert x_office.jaklet("status", status=None).returncode in (0, 1)  # it answers
        began = time.monotonic()
        assert listening.stop() == 0
        assert time.monotonic() - began < LIMIT
    assert "a fault in Jaklet itself" not in listening.says()


def test_a_key_goes_before_the_end_of_a_recall_that_reads_for_seconds(
    x: XServer, x_office: Office, listening: Listening
) -> None:
    """A recall by its number reads every layout; a key that is pressed after it is done before that has ended."""
    with HOLDERS["a layout that takes seconds to read"](x_office.folder):
        x.press("super+f6")
        x.press("super+left")
        said = listening.until_says("\nsuper+f6: ")
    assert said.index("\nsuper+left: ") < said.index("\nsuper+f6: ")


def test_a_save_that_was_given_up_is_not_done_later(x: XServer, x_office: Office, listening: Listening) -> None:
    path = x_office.folder / "layouts" / "held.yaml"
    before = path.read_text()
    with HOLDERS["the lock of saves"](x_office.folder):
        x.press("super+left")
        x.press("super+f5")
        said = listening.until_says("held is as it was before, as process")
        assert "which is stopped, is about to change layouts" in said
    x_office.jaklet("status")
    assert path.read_text() == before
    x.press("super+f5")
    listening.until_says("saved held")
    assert path.read_text() != before


MUTE = [
    "status",
    "act 'place left 1/2'",
    "undo",
    "fire super+b",
    "layout recall held",
    "layout save new",
    "desk --format json",
]


def test_commands_say_that_a_listener_does_not_answer(x: XServer, x_office: Office, listening: Listening) -> None:
    """All at once, as each of them waits for it; none of what they asked for is done when it goes on."""
    frame = x.frame("BerthBoard")
    with halted(listening.process.pid):
        commands = [
            subprocess.Popen(
                ["sh", "-c", f"{JAKLET} {words}"], cwd=x_office.folder, env=x_office.env, text=True,
                stdout=subprocess.PIPE, stderr=subprocess.PIPE,
            )
            for words in MUTE
        ]  # fmt: skip
        for words, command in zip(MUTE, commands, strict=True):
            out, err = command.communicate(timeout=30)
            assert (command.returncode, out) == (1, ""), words
            assert f"the listener (process {listening.process.pid}) does not answer" in err, (words, err)
            assert f"kill -CONT {listening.process.pid}" in err, (words, err)
        without = x_office.jaklet("act", "--desk", "x11", "place left 2/3")
        assert "BerthBoard" in without.stdout or "berths" in without.stdout
        assert x.frame("BerthBoard") == LEFT_TWO_THIRDS != frame
    x_office.jaklet("status")
    assert x.frame("BerthBoard") == LEFT_TWO_THIRDS
    assert not (x_office.folder / "layouts" / "new.yaml").exists()


def test_a_second_listener_is_refused_without_a_folder_for_sockets(x_office: Office, listening: Listening) -> None:
    env = {name: value for name, value in x_office.env.items() if name != "XDG_RUNTIME_DIR"}
    done = subprocess.run([JAKLET, "listen"], cwd=x_office.folder, env=env, text=True, capture_output=True, timeout=30)
    assert done.returncode == 1
    assert f"a listener is running on this desk already (process {listening.process.pid})" in done.stderr


@pytest.mark.parametrize("what", ["a link in the place of the lock", "a folder that others can write"])
def test_nothing_is_written_where_others_can_put_links(what: str, x: XServer, x_office: Office) -> None:
    victim = x_office.folder / "letters.txt"
    victim.write_text("all of it")
    runtime = Path(x_office.env["XDG_RUNTIME_DIR"]) / "jaklet"
    runtime.mkdir(exist_ok=True, mode=0o700)
    if what.startswith("a link"):
        (runtime / f"x11_{x.display[1:]}.lock").symlink_to(victim)
    else:
        runtime.chmod(0o777)
    done = x_office.jaklet("listen", status=1)
    assert str(runtime) in done.stderr
    assert victim.read_text() == "all of it"
