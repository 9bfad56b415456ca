"""Completion in real shells on a terminal: names of the user's own, after Tab."""

import fcntl
import json
import os
import pty
import re
import select
import shutil
import signal
import subprocess
import termios
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from tools import make_commands

import jaklet.cli.shell
from tests.conftest import JAKLET, Office
from tests.xserver import LIMIT, until

STARTS = {
    "bash": ["bash", "--norc", "--noprofile", "-i"],
    "zsh": ["zsh", "-f", "-i"],
    "fish": ["fish", "--no-config", "-i"],
}
SETTING_UP = {
    "bash": "source ./completion",
    "zsh": "autoload -Uz compinit; compinit -u; source ./completion; unsetopt beep",
    "fish": "source ./completion",
}


class Shell:
    """A shell on a terminal, with the completion that the program prints for it."""

    def __init__(self, office: Office, name: str) -> None:
        bin_ = str(Path(JAKLET).parent)
        env = {
            **office.env,
            "PATH": f"{bin_}:{office.env['PATH']}",
            "TERM": "dumb",
            "HOME": str(office.folder),
            "PS1": "$ ",
        }
        env |= {"XDG_CACHE_HOME": str(office.folder / "cache"), "JAKLET_CONFIG": str(office.config)}
        script = subprocess.run(
            [JAKLET], env={**env, "_JAKLET_COMPLETE": f"source_{name}"}, capture_output=True, text=True, check=True
        )
        (office.folder / "completion").write_text(script.stdout)
        self.master, slave = pty.openpty()
        self.process = subprocess.Popen(
            STARTS[name], cwd=office.folder, env=env, stdin=slave, stdout=slave, stderr=slave, start_new_session=True,
            preexec_fn=lambda: fcntl.ioctl(0, termios.TIOCSCTTY, 0),
        )  # fmt: skip
        os.close(slave)
        self.printed = ""
        self.type(SETTING_UP[name] + "; echo is-r''eady\n")
        self.until("is-ready")

    def type(self, keys: str) -> None:
        os.write(self.master, keys.encode())

    def read(self) -> str:
        while select.select([self.master], [], [], 0.02)[0]:
            try:
                self.printed += os.read(self.master, 65536).decode("utf-8", "replace")
            except OSError:
                break
        return re.sub(r"\x1b\[[0-9;?]*[a-zA-Z]|\x1b\][^\x07]*\x07|\x1b[=>(][B0]?|\r", "", self.printed)

    def until(self, words: str) -> None:
        until(lambda: words in self.read(), f"{words!r}: {self.printed[-800:]!r}")

    def end(self) -> None:
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait(LIMIT)
        os.close(self.master)


@pytest.fixture(params=STARTS)
def shell(request: pytest.FixtureRequest, office: Office) -> Iterator[Shell]:
    if not shutil.which(request.param):
        pytest.skip(f"{request.param} is not installed; on Debian: apt install {request.param}")
    one = Shell(office, request.param)
    yield one
    one.end()


def test_a_shell_knows_the_names_of_the_user(shell: Shell) -> None:
    for written, known in (
        ("jaklet layout recall arr", "jaklet layout recall arrivals"),
        ("jaklet explain JK70", "jaklet explain JK701"),
        ("jaklet fire ctrl+alt+l", "jaklet fire ctrl+alt+l"),
        ("jaklet autost", "jaklet autostart"),
    ):
        shell.type(f"{written}\t")
        shell.until(known)
        shell.type("\x15")  # the line is taken away


def ask(office: Office, line: str, **env: str) -> list[str]:
    words = line.split(" ")
    asked = {"_JAKLET_COMPLETE": "complete_bash", "COMP_WORDS": line, "COMP_CWORD": str(len(words) - 1)}
    done = subprocess.run(
        [JAKLET], cwd=office.folder, env={**office.env, **asked, **env}, capture_output=True, text=True, check=True
    )
    return done.stdout.splitlines()


def test_names_are_kept_and_read_anew_when_a_file_has_changed(office: Office) -> None:
    cache = office.folder / "cache"
    env = {"XDG_CACHE_HOME": str(cache)}
    assert {"arrivals", "2"} <= {*ask(office, "jaklet layout recall ", **env)}
    (kept,) = (cache / "jaklet").iterdir()
    told = json.loads(kept.read_text())
    told["names"]["layout"]["kept"] = ""
    kept.write_text(json.dumps(told))
    assert "kept" in ask(office, "jaklet layout recall ", **env), "what is kept is what is told"
    time.sleep(0.01)
    (office.folder / "layouts" / "night.yaml").write_text("layout: night\nwindows: []\n")
    assert {"night", "arrivals"} <= {*ask(office, "jaklet layout recall ", **env)}
    assert "kept" not in ask(office, "jaklet layout recall ", **env)
    kept.write_text("{")
    assert "night" in ask(office, "jaklet layout recall n", **env)
    office.config.write_text("bindings: [")
    assert ask(office, "jaklet layout recall ni", **env) == ["night"]


def test_actions_are_told_word_by_word(office: Office) -> None:
    assert {"go", "gather"} <= {*ask(office, "jaklet act g")}
    asked = {"COMP_WORDS": 'jaklet act "go berths or mi', "COMP_CWORD": "2"}
    assert ask(office, "", **asked) == ["go berths or minimise"]
    assert {"--desk", "--dry-run"} <= {*ask(office, "jaklet act --d")}
    assert {"x11", "plasma"} <= {*ask(office, "jaklet act --desk ")}


def test_commands_options_and_their_values_are_told(office: Office) -> None:
    """From a table that is made of the commands, so that nothing large is loaded for it."""
    assert (Path(jaklet.cli.shell.__file__).with_name("commands.json")).read_text() == make_commands.text(), "make docs"
    for line, expected, never in (
        ("jaklet ", {"check", "layout", "keys"}, {"overlay"}),
        ("jaklet --", {"--version"}, {"--config"}),
        ("jaklet layout ", {"recall", "save"}, {"arrivals"}),
        ("jaklet layout recall arrivals --", {"--dry-run", "--config"}, {"--version"}),
        ("jaklet check --strict --", {"--format", "--keyboard"}, {"--strict"}),
        ("jaklet check --keyboard us --", {"--keyboard"}, set()),
        ("jaklet check --format ", {"text", "sarif"}, {"check"}),
        ("jaklet check --config office --format ", {"text", "sarif"}, {"check"}),
        ("jaklet check --keyboard ", {"us", "fr", "this"}, set()),
        ("jaklet keys ", {"why", "free"}, set()),
        ("jaklet keys --", {"--paper", "--app"}, set()),
        ("jaklet keys --app ", {"berths"}, {"why"}),
        ("jaklet keys why ", {"super+b"}, {"free"}),
        ("jaklet autostart ", {"on", "off"}, set()),
        ("jaklet autostart on ", set(), {"on", "off"}),
        ("jaklet pick ", {"windows", "layouts"}, set()),
        ("jaklet explain JK70", {"JK701"}, {"JK101"}),
        ("jaklet nosuch ", set(), {"check"}),
    ):
        told = {*ask(office, line)}
        assert expected <= told, line
        assert not told & never, line


def test_a_name_with_a_space_is_one_word_in_bash(office: Office) -> None:
    """Outside quotes its space is escaped; within them a word alone is not closed, as more can follow."""
    (office.folder / "layouts" / "layout 2.yaml").write_text("layout: layout 2\nwindows: []\n")
    assert r"layout\ 2" in ask(office, "jaklet layout recall la")
    assert ask(office, 'jaklet act "plac') == ["place", "place "]
