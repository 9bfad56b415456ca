"""What a command loads: its own modules, and nothing large that it can do without."""

import re
import subprocess
import sys

import pytest

from jaklet.cli.app import COMMANDS
from tests.conftest import JAKLET, Office

USUAL = (sys.executable, "-c", "from jaklet.cli.app import main; main()")  # by way of Typer
PARSING = {
    "typer",
    "dataclasses",
    "inspect",
    "difflib",
    "subprocess",
    "tempfile",
    "random",
    "importlib.resources",
    "socket",
}
DESKS = {"xcffib", "jeepney", "pywayland", "PIL", "rich", "prompt_toolkit", "sqlite3", "asyncio"}
# What is written, how many of our own modules it may load, and what it never does.
BUDGETS = {
    "check": (125, PARSING | DESKS | {"jaklet.cli.check", "jaklet.cli.options", "jaklet.listener.control_client"}),
    "check --strict": (125, PARSING | DESKS),
    "check --format json": (129, DESKS | {"socket", "tempfile"}),
    "--version": (13, DESKS | {"yaml", "json", "fractions"}),
    "act --help": (16, DESKS | {"yaml", "fractions"}),
    "listen --help": (16, DESKS | {"yaml", "json", "fractions"}),
    "keys": (130, DESKS - {"rich"} | {"socket", "tempfile"}),
    "explain JK203": (22, DESKS | {"fractions", "json"}),
}


def loaded(office: Office, words: str) -> set[str]:
    env = office.env | {"PYTHONPROFILEIMPORTTIME": "1"}
    env["PATH"] = f"{office.folder / 'bin'}:{env['PATH']}"  # nothing is missing, so that no name has to be looked for
    del env["JAKLET_DESK"]  # none is here
    done = subprocess.run([JAKLET, *words.split()], cwd=office.folder, env=env, capture_output=True, text=True)
    lines = [line for line in done.stderr.splitlines() if line.startswith("import time:")]
    return {line.rpartition("|")[2].strip() for line in lines}


@pytest.mark.parametrize("words", BUDGETS)
def test_a_command_loads_what_it_needs(office: Office, words: str) -> None:
    most, never = BUDGETS[words]
    modules = loaded(office, words)
    assert modules & never == set()
    assert len([name for name in modules if name.startswith("jaklet")]) <= most


def test_no_command_loads_another(office: Office) -> None:
    """But for what its own module takes from another's."""
    own = {name: {f"jaklet.cli.{part}" for part in parts} for name, parts in COMMANDS.items()}
    shared = {
        "app",
        "about",
        "options",
        "terminal",
        "checking",
        "listening",
        "picking",
        "quick",
        "rehearse",
        "listener_calls",
    }
    for name, parts in own.items():
        others = {module for module in loaded(office, f"{name} --help") if module.startswith("jaklet.cli.")}
        extra = others - parts - {f"jaklet.cli.{one}" for one in shared}
        assert not extra, (name, extra)


def test_help_says_of_each_command_a_whole_sentence(office: Office) -> None:
    """On a terminal of 80 columns, nothing is cut."""
    groups = ["", *(name for name in COMMANDS if "Commands:" in office.jaklet(name, "--help").stdout)]
    assert len(groups) > 5
    for group in groups:
        said = office.jaklet(*group.split(), "--help", COLUMNS="80").stdout
        lines = re.findall(r"^  \w.*", said.rpartition("  --help")[2], re.M)
        assert lines
        assert group or {line.split()[0] for line in lines} == {*COMMANDS} - {"overlay"}
        for line in lines:
            assert len(line) <= 80
            assert line.endswith("."), (group, line)
            assert not line.endswith("..."), (group, line)


WRITTEN = [
    [],
    ["jaklet.yaml"],
    ["."],
    ["--strict"],
    [".", "--strict"],
    ["--strict", "--strict"],
    ["nosuch.yaml"],
    ["nosuch/"],
    [""],
    ["jaklet.yaml", "more"],
    ["--stict"],
    ["--", "jaklet.yaml"],
]


def both_ways(office: Office, named: dict[str, str], *words: str) -> list[tuple[int, str, str]]:
    """Return the status and what is said: straight, and by way of Typer."""
    env = office.env | named
    every = [
        subprocess.run([*command, *words], cwd=office.folder, env=env, capture_output=True, text=True)
        for command in ((JAKLET,), USUAL)
    ]
    return [(done.returncode, done.stdout, done.stderr) for done in every]


LISTENING = [
    "",
    "--watch",
    "--config nosuch --keyboard fr --keyboard de",
    "--config=nosuch",
    "--keyboard nosuch",
    "--desk tabletop:tabletop.yaml --restart",
    "--desk",
    "--desk --watch",
    "--wach",
    "more",
]


def test_what_is_not_listened_to_is_said_in_both_ways(office: Office) -> None:
    """No display is here: each ends with a word on what is wrong, the same one."""
    refused = {1, 2}
    for named in ({"JAKLET_DESK": ""}, {"JAKLET_DESK": "", "JAKLET_CONFIG": "elsewhere"}, {}):
        for words in LISTENING:
            straight, usual = both_ways(office, named, "listen", *words.split())
            assert straight == usual, (named, words)
            assert straight[0] in refused
            assert straight[2]


@pytest.mark.parametrize("broken", [False, True])
def test_a_check_says_the_same_in_both_ways(office: Office, broken: bool) -> None:
    """Straight, and by way of Typer: the same words, the same status."""
    if broken:
        office.edit("super+b: go berths\n", "super+b: go berth\n")
    for named in (
        {},
        {"JAKLET_CONFIG": "elsewhere.yaml"},
        {"JAKLET_DESK": "tabletop:tabletop.yaml"},
        {"JAKLET_CONFIG": ""},
    ):
        for words in WRITTEN:
            straight, usual = both_ways(office, named, "check", *words)
            assert straight == usual, (named, words)
