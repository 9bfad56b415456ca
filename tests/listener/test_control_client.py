"""The client that ships, and what the socket says of itself: beside a real listener."""

import json
import re
import shutil
import subprocess
from typing import Any

import jsonschema
import pytest

from jaklet import __version__
from jaklet.client import JakletError, Listener
from jaklet.listener.methods import METHODS
from jaklet.listener.openrpc import openrpc_document
from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.test_manual import ROOT
from tests.xserver import XServer, until


@pytest.fixture
def here(x_office: Office, monkeypatch: pytest.MonkeyPatch) -> Office:
    Listening(x_office)
    for name in ("XDG_RUNTIME_DIR", "DISPLAY", "JAKLET_DESK"):
        monkeypatch.setenv(name, x_office.env[name])
    return x_office


@pytest.mark.usefixtures("here")
def test_a_program_asks_a_listener(x: XServer) -> None:
    listener = Listener()
    ended = listener.act("go berths")
    assert (ended.done, ended.line) == (True, "berths (Berth board) is launched and in front")
    assert ended.seconds > 0
    assert x.active() == "BerthBoard"
    assert listener.save("bay").done
    assert "bay" in listener.layouts()
    assert listener.recall("bay").done
    assert listener.fire("super+left")["done"]
    assert listener.status()["layout"] == "bay"
    assert listener.desk()["windows"][0]["app"] == "berths"
    events = listener.events()  # what happens from here on is told, however late it is asked for
    assert listener.act("place left 1/2").done
    assert "place left 1/2" in str(next(one for one in events if one["what"] == "action"))
    with pytest.raises(JakletError, match="no action is called 'sail'"):
        listener.act("sail home")
    with pytest.raises(JakletError, match="lose work"):
        listener.act("kill berths")
    listener.ask("stop")
    assert [one for one in events if one["what"] == "action" and "sail" in str(one)] == []  # and they end with it
    until(lambda: not _answers(listener), "its end")


def _answers(listener: Listener) -> bool:
    try:
        listener.status()
    except JakletError:
        return False
    return True


def test_the_shell_examples_of_the_manual_work(here: Office) -> None:
    text = (ROOT / "docs" / "listener.md").read_text()
    ways = re.findall(r"^\$ (printf .*?)\n\{", text, re.DOTALL | re.MULTILINE)
    assert len(ways) == 2
    name = re.search(r"jaklet/(x11_\d+\.sock)", Listener().path)
    assert name is not None
    for way in ways:
        program = re.search(r"\| (\w+)", way)
        assert program is not None
        if not shutil.which(program[1]):
            continue
        command = way.replace("x11_0.sock", name[1])
        done = subprocess.run(
            ["sh", "-c", command], env=here.env, capture_output=True, text=True, check=True, timeout=30
        )
        assert json.loads(done.stdout)["result"]["done"] is True


ASKED: tuple[tuple[str, dict[str, Any]], ...] = (
    ("status", {}), ("act", {"action": "go radio"}), ("layouts", {}), ("reload", {}),
)  # fmt: skip


def test_the_socket_is_described_as_it_is(here: Office) -> None:
    told = openrpc_document(__version__)
    assert [one["name"] for one in told["methods"]] == [*METHODS]
    assert all(one["summary"] for one in told["methods"])
    assert json.loads(here.jaklet("schema", "socket").stdout) == told
    for name, params in ASKED:
        one = next(one for one in told["methods"] if one["name"] == name)
        given = {param["name"]: param["schema"] for param in one["params"]}
        assert {param["name"] for param in one["params"] if param["required"]} <= params.keys()
        for key, value in params.items():
            jsonschema.validate(value, given[key])
        jsonschema.validate(Listener().ask(name, **params), one["result"]["schema"])
    for method in told["methods"]:
        needed = [param["name"] for param in method["params"] if param["required"]]
        if needed:  # what is said to be needed is
            with pytest.raises(JakletError, match=f"{needed[0]} should be"):
                Listener().ask(method["name"])
