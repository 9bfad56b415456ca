"""What `type` sends reaches real programs whole, whatever is held or locked, and no key stays down."""

import os
import random
import shlex
import signal
import string
import subprocess
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
import xcffib.xtest

from tests.conftest import JAKLET, Office
from tests.xserver import KEYSYMS, XServer, until

PLAIN = string.ascii_letters + string.digits + " .,;:!?-_()/\\'#+*<>=%&$@[]{}|~^`"
LOCKED = {"caps": KEYSYMS["caps"]}


@contextmanager
def keyboard(x: XServer, layout: str) -> Iterator[None]:
    """Have another keyboard for a while."""
    x.run("setxkbmap", "-layout", *layout.split(":"))
    yield
    x.run("setxkbmap", "-layout", "us")


class Hand:
    """Keys pressed and held by XTEST, as a test user's hand."""

    def __init__(self, x: XServer) -> None:
        self.x = x

    def send(self, kind: int, name: str) -> None:
        connection = self.x.connect()
        code = self.x.keycode(KEYSYMS[name])
        connection(xcffib.xtest.key).FakeInput(kind, code, 0, 0, 0, 0, 0)
        connection.core.GetInputFocus().reply()
        connection.disconnect()

    def tap(self, name: str) -> None:
        self.send(2, name)
        self.send(3, name)

    def down(self) -> list[int]:
        connection = self.x.connect()
        keys = connection.core.QueryKeymap().reply().keys
        connection.disconnect()
        return [code for code in range(256) if keys[code // 8] >> code % 8 & 1]


@pytest.fixture
def terminal(x: XServer, x_office: Office) -> Path:
    """The file into which a real terminal in front writes what it gets, byte by byte."""
    typed = x_office.folder / "typed"
    command = ["xterm", "-e", "sh", "-c", f"stty raw -echo; cat >> {shlex.quote(str(typed))}"]
    x.processes.append(subprocess.Popen(command, env=x.env | {"LANG": "C.UTF-8"}))
    until(lambda: x.active() == "XTerm" and typed.exists(), "the terminal")
    return typed


def texts(number: int, length: int) -> str:
    return "".join(random.Random(number).choices(PLAIN, k=length))


def quoted(text: str) -> str:
    return "'" + text.replace("\\", "\\\\").replace("'", "\\'") + "'"


def arrives(x: XServer, x_office: Office, terminal: Path, text: str) -> None:
    """Type a text by the installed program, and read back from the terminal that it is there, and nothing more."""
    terminal.write_bytes(b"")
    done = x_office.jaklet("act", f"type {quoted(text)}")
    assert "is typed for" in done.stdout
    x.press("f8")  # what comes behind it, so that nothing more can come
    until(lambda: terminal.read_bytes().endswith(b"\x1b[19~"), "all that was typed")
    assert terminal.read_bytes().removesuffix(b"\x1b[19~").decode() == text
    assert Hand(x).down() == []


@pytest.mark.parametrize("layout", ["us", "de", "fr", "us:-variant:dvorak", "us,de"])
def test_a_text_reaches_a_terminal_whole_on_every_keyboard(
    layout: str, x: XServer, x_office: Office, terminal: Path
) -> None:
    with keyboard(x, layout):
        arrives(x, x_office, terminal, texts(1, 400))
        Hand(x).tap("caps")
        arrives(x, x_office, terminal, texts(2, 400))
        assert "Caps Lock:   on" in x.run("xset", "q"), "it is on again"
        Hand(x).tap("caps")


@pytest.mark.parametrize("held", ["shift", "ctrl", "alt", "super"])
def test_a_modifier_that_is_held_changes_nothing(held: str, x: XServer, x_office: Office, terminal: Path) -> None:
    Hand(x).send(2, held)
    arrives(x, x_office, terminal, texts(3, 200))


@pytest.mark.slow
@pytest.mark.parametrize("layout", ["us", "de", "fr", "us:-variant:dvorak"])
def test_five_thousand_characters(layout: str, x: XServer, x_office: Office, terminal: Path) -> None:
    with keyboard(x, layout):
        for number, locked in enumerate((False, True)):
            if locked:
                Hand(x).tap("caps")
            arrives(x, x_office, terminal, texts(number, 5000))
            for held in ("shift", "ctrl", "alt", "super"):
                Hand(x).send(2, held)
                arrives(x, x_office, terminal, texts(number, 500))
        Hand(x).tap("caps")


@pytest.mark.parametrize("locked", [False, True], ids=["plain", "caps"])
def test_no_key_stays_down_whenever_the_program_is_killed(
    locked: bool, x: XServer, x_office: Office, terminal: Path
) -> None:
    """What has arrived is the beginning of the text, to the letter; Caps Lock is what it was."""
    text = texts(4, 4000)
    if locked:
        Hand(x).tap("caps")
    for pause in (0.0, 0.01, 0.03, 0.07, 0.15, 0.3):
        terminal.write_bytes(b"")
        env = x_office.env
        process = subprocess.Popen([JAKLET, "act", f"type {quoted(text)}"], cwd=x_office.folder, env=env)
        until(lambda: terminal.read_bytes() != b"", "the first letter")
        time.sleep(pause)  # anywhere in the midst of it
        os.kill(process.pid, signal.SIGKILL)
        process.wait()
        until(lambda: Hand(x).down() == [], "all keys up, once the server has read what was written", 5)
        x.press("f8")
        until(lambda: terminal.read_bytes().endswith(b"\x1b[19~"), "the end of it")
        assert text.startswith(terminal.read_bytes().removesuffix(b"\x1b[19~").decode())
        assert f"Caps Lock:   {'on' if locked else 'off'}" in x.run("xset", "q")
    if locked:
        Hand(x).tap("caps")


def test_a_text_stops_where_the_focus_goes_elsewhere(x: XServer, x_office: Office, terminal: Path) -> None:
    """Nobody else gets the rest of it."""
    other = x_office.folder / "other"
    command = ["xterm", "-class", "Other", "-e", "sh", "-c", f"stty raw -echo; cat > {shlex.quote(str(other))}"]
    x.processes.append(subprocess.Popen(command, env=x.env))
    until(lambda: x.active() == "Other" and other.exists(), "the other terminal")
    x_office.jaklet("act", f"focus window {x.of_class('XTerm')[0]}")
    text = texts(5, 4000)
    process = subprocess.Popen(
        [JAKLET, "act", f"type {quoted(text)}"],
        cwd=x_office.folder,
        env=x_office.env,
        stderr=subprocess.PIPE,
        text=True,
    )
    until(lambda: terminal.read_bytes() != b"", "the first letter")
    x_office.jaklet("act", f"focus window {x.of_class('Other')[0]}")
    assert process.wait(20) == 1
    assert process.stderr is not None
    assert "as another window has the focus" in process.stderr.read()
    process.stderr.close()
    assert text.startswith(terminal.read_text())
    assert len(other.read_bytes()) <= 1  # the one that was on its way
