"""Macros, events and the listener's daily life on a real X server, with programs that nobody here wrote."""

import json
import re
import shutil
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
import xcffib.xtest

from tests.conftest import Office
from tests.listener.test_x11 import LEFT_TWO_THIRDS, QUAY_FULL, Listening
from tests.xserver import KEYSYMS, LIMIT, XServer, running, until

CONFIG = """
settings: {{gap: 8, wait: 20s, notices: log}}
displays: {{main: {{name: DP-1}}, quay: {{name: HDMI-1}}}}
apps:
  letters: {{launch: [xterm, -class, Letters, -e, sh, -c, "cat > letters.txt"], in: {folder}, window: {{class: Letters}}}}
  clock: {{launch: xclock, window: {{class: XClock}}}}
  never: {{launch: [sleep, '60'], window: {{class: Never}}}}
bindings:
  super+d: run day
  super+e: run endless
  super+q: close clock
  super+p: pause
macros:
  day:
    - go clock
    - go letters
    - wait for windows of clock = 1 and letters up to 20s
    - when: display quay is there and not windows of clock > 1
      then: [place clock full on quay]
      else: [stop]
    - {{do: wait for never up to 200ms, else: [tell "never did not come"]}}
    - recall desk
    - {{do: 'type "Pier 7: 2 boats? (E-berth)\\n" into letters'}}
    - shell "echo shown > shell.txt" up to 5s
  endless: [go clock, tell it waits, wait for never up to 600s, tell no]
events:
  window of clock opens: 'shell "echo opens >> {folder}/events.txt"'
  window of clock closes: 'shell "echo closes >> {folder}/events.txt"'
  title of letters changes: tell "the letters are called something else"
  focus moves to letters: tell "letters in front"
  listener starts: tell "the day begins"
"""
LAYOUT = """layout: desk
focus: letters
windows:
- {app: letters, display: main, place: left 2/3}
- {app: clock, display: quay, place: full}
"""


@pytest.fixture
def listening(x_office: Office) -> Iterator[Listening]:
    missing = [program for program in ("xterm", "xclock") if not shutil.which(program)]
    assert not missing, f"Debian packages of {missing} are missing; `make test` installs them"
    x_office.config.write_text(CONFIG.format(folder=x_office.folder))
    (x_office.folder / "layouts" / "desk.yaml").write_text(LAYOUT)
    x_office.env["HOME"] = str(x_office.folder)
    one = Listening(x_office, "--watch")
    yield one
    print(one.says())  # for the report of a failure
    one.stop(signal.SIGKILL)


def test_a_macro_launches_waits_branches_recalls_and_types_into_a_program(
    x: XServer, x_office: Office, listening: Listening
) -> None:
    """What was typed is read back from the program that it was typed into."""
    listening.until_says("the day begins")
    x.press("super+d")
    listening.until_says("super+d: day is done: 9 steps")
    assert "never did not come" in listening.says()
    written = x_office.folder / "letters.txt"
    until(lambda: written.read_text() == "Pier 7: 2 boats? (E-berth)\n", "the text in the program")
    assert (x_office.folder / "shell.txt").read_text() == "shown\n"
    assert x.frame("XClock") == QUAY_FULL
    left, top, wide, high = x.frame("Letters")  # a terminal takes whole characters alone
    assert (left, top) == LEFT_TWO_THIRDS[:2]
    assert 0 <= LEFT_TWO_THIRDS[2] - wide < 16
    assert 0 <= LEFT_TWO_THIRDS[3] - high < 32
    events = x_office.folder / "events.txt"
    until(lambda: events.exists() and events.read_text() == "opens\n", "an event of a real window")
    (wid,) = x.of_class("Letters")
    x.run("xprop", "-id", wid, "-f", "_NET_WM_NAME", "8u", "-set", "_NET_WM_NAME", "To the pilots")
    listening.until_says("the letters are called something else")
    x.press("super+q")
    until(lambda: events.read_text() == "opens\ncloses\n", "the window's end")


def test_escape_stops_a_macro_that_waits_and_keys_go_on_meanwhile(x: XServer, listening: Listening) -> None:
    x.press("super+e")
    until(lambda: x.active() == "XClock", "the clock")
    listening.until_says("it waits")
    x.press("super+q")
    listening.until_says("super+q: ")
    x.press("super+d")
    listening.until_says("run endless is under way, and run day was not begun")
    x.press("escape")
    listening.until_says("super+e: run endless: run endless was stopped")
    assert x.can_grab("escape")


def test_the_listener_is_asked_told_paused_and_stopped_by_others(
    x: XServer, x_office: Office, listening: Listening
) -> None:
    told = json.loads(x_office.jaklet("status", "--format", "json").stdout)
    assert (told["paused"], told["watching"], told["pending"]["added"]) == (False, True, [])
    path = next((x_office.folder / "run" / "jaklet").glob("*.sock"))
    with socket.socket(socket.AF_UNIX) as client:
        client.settimeout(LIMIT)
        client.connect(str(path))
        answers = client.makefile("rb")

        def ask(method: str, **params: object) -> None:
            client.sendall(
                json.dumps({"jsonrpc": "2.0", "id": method, "method": method, "params": params}).encode() + b"\n"
            )

        def hear(wanted: Callable[[dict[str, object]], bool]) -> dict[str, object]:
            while True:
                message: dict[str, object] = json.loads(answers.readline())
                if wanted(message):
                    return message

        ask("follow")
        ask("act", action="go clock")
        result = hear(lambda message: message.get("id") == "act")["result"]
        assert isinstance(result, dict)
        assert result["done"], result
        x.press("super+q")
        hear(lambda message: message.get("params", {}).get("event") == "closes")  # type: ignore[attr-defined]
        ask("desk")
        desk = hear(lambda message: message.get("id") == "desk")["result"]
        assert isinstance(desk, dict)
        assert [display["name"] for display in desk["displays"]] == ["main", "quay"]
        for action, code in (("go clok", -32000), ("fly", -32000), ("kill clock", -32001), ("enter x", -32000)):
            ask("act", action=action)
            error = hear(lambda message: message.get("id") == "act")["error"]
            assert isinstance(error, dict)
            assert error["code"] == code, error
    x_office.jaklet("pause")
    assert x_office.jaklet("status", status=1).stdout.startswith("paused")
    assert x.can_grab("super+d")
    x.press("super+p")  # stays live, and ends the pause
    until(lambda: not x.can_grab("super+d"), "the keys to be heard again")
    x_office.edit("super+q: close clock", "super+f6: close clock")
    listening.until_says("reloaded: 4 bindings")  # nobody asked for it: the file is watched
    assert "super+p" in x_office.jaklet("status").stdout
    assert "stopped: all chords are free again" in x_office.jaklet("stop").stdout
    assert listening.process.wait(LIMIT) == 0
    assert "no listener is running" in x_office.jaklet("status", status=3).stderr
    log = (x_office.folder / "state" / "jaklet" / "listener.log").read_text()
    assert re.search(r"^\d{4}-\d\d-\d\d \d\d:\d\d:\d\d stopped: all chords are free again$", log, re.MULTILINE)


def memory(pid: int) -> int:
    """Return how many kB a process has in memory."""
    found = re.search(r"VmRSS:\s+(\d+)", Path(f"/proc/{pid}/status").read_text())
    assert found
    return int(found[1])


@pytest.mark.parametrize("number", [150, pytest.param(10_000, marks=pytest.mark.slow)])
def test_chords_in_a_row_are_neither_lost_nor_remembered(number: int, x: XServer, x_office: Office) -> None:
    """50 a second: each is told of, and the memory stays as it is."""
    one = Listening(x_office)
    x.open("BerthBoard")
    connection = x.connect()
    fake = connection(xcffib.xtest.key).FakeInput
    hold, keys = x.keycode(KEYSYMS["super"]), [x.keycode(KEYSYMS[key]) for key in ("left", "right", "up")]
    pressed = 0

    def press(times: int) -> None:
        nonlocal pressed
        for _ in range(times):
            key = keys[pressed % 3]
            for kind, code in ((2, hold), (2, key), (3, key), (3, hold)):
                fake(kind, code, 0, 0, 0, 0, 0)
            connection.flush()
            pressed += 1
            time.sleep(0.02)  # the pace that is asked for, not a wait
        until(
            lambda: len(re.findall(r"^super\+(left|right|up): ", one.says(), re.MULTILINE)) >= pressed,
            f"{pressed} chords",
        )

    press(100)
    before = memory(one.process.pid)
    press(number)
    assert memory(one.process.pid) - before < 2_000
    connection.disconnect()
    assert one.stop() == 0


@pytest.mark.parametrize("seconds", [3, pytest.param(60, marks=pytest.mark.slow)])
def test_an_idle_listener_sleeps(seconds: int, listening: Listening) -> None:
    """Not once is it woken, though it waits for events of windows, files and clients."""
    begun = time.monotonic()
    listening.until_says("the day begins")
    until(lambda: time.monotonic() > begun + 4, "what it looks at once more after a login")

    def switches() -> int:
        found = re.search(
            r"^voluntary_ctxt_switches:\s+(\d+)",
            Path(f"/proc/{listening.process.pid}/status").read_text(),
            re.MULTILINE,
        )
        assert found
        return int(found[1])

    def still() -> bool:
        before = switches()
        time.sleep(0.3)  # how long it is looked at, not a wait
        return switches() == before

    until(still, "the listener at rest")
    before = switches()
    time.sleep(seconds)  # as above
    assert switches() == before


def test_a_server_that_goes_away_ends_the_listener_with_a_clear_word(tmp_path: Path) -> None:
    with running() as x:
        office = Office(tmp_path / "office", x)
        one = Listening(office)
        assert "is running on this desk already" in office.jaklet("listen", status=1).stderr
        x.processes[0].kill()
        assert one.process.wait(LIMIT) == 1
        assert "the X server has gone away" in one.says()
        assert "Traceback" not in one.says()


SERVER = """
import sys
from jeepney import HeaderFields, MessageType, new_method_return
from jeepney.bus_messages import message_bus
from jeepney.io.blocking import open_dbus_connection
bus = open_dbus_connection(bus="SESSION")
bus.send_and_get_reply(message_bus.RequestName("org.freedesktop.Notifications"))
print("ready", flush=True)
number = 0
while True:
    message = bus.receive()
    if message.header.message_type is MessageType.method_call:
        number += 1
        name, replaces, _, title, text, _, hints, stays = message.body
        print(title, replaces, hints["urgency"][1], text, flush=True)
        bus.send(new_method_return(message, "u", (number,)))
"""


@pytest.mark.skipif(not shutil.which("dbus-daemon"), reason="needs dbus-daemon of the Debian package dbus")
def test_notices_reach_the_desktop_and_a_bus_that_is_gone_holds_up_nothing(x: XServer, x_office: Office) -> None:
    daemon = subprocess.Popen(
        ["dbus-daemon", "--session", "--nofork", "--print-address"], stdout=subprocess.PIPE, text=True
    )
    assert daemon.stdout
    with daemon.stdout:
        address = daemon.stdout.readline().strip()
    x_office.env["DBUS_SESSION_BUS_ADDRESS"] = address
    log = x_office.folder / "notices.log"
    with log.open("w") as out:
        server = subprocess.Popen([sys.executable, "-c", SERVER], env=x_office.env, stdout=out)
    until(lambda: "ready" in log.read_text(), "a notification server")
    x_office.edit("macros:\n", 'macros:\n  odd: [tell "5 < 6 & more", wait for ledger up to 10ms]\n')
    x_office.edit("    super+p: pause", "    super+f5: run odd\n    super+p: pause")
    x_office.edit("settings:\n", "settings:\n  notices: desktop\n")
    one = Listening(x_office)
    x.press("super+f5")
    x.press("super+w")
    one.until_says("layer arrange is on")  # or the server may not have the grab of the layer's escape yet
    x.press("escape")
    until(lambda: log.read_text().count("\n") >= 5, "the notices")
    assert sorted(log.read_text().splitlines()[1:]) == sorted([
        "Jaklet 0 1 5 &lt; 6 &amp; more",
        "Jaklet 0 2 odd stopped: wait for ledger up to 10ms: ledger did not come within 0.01 s",
        "Jaklet 0 1 layer arrange is on",
        f"Jaklet {log.read_text().splitlines()[1:].index('Jaklet 0 1 layer arrange is on') + 1} 1 no layer is on",
    ])  # fmt: skip
    for process in (server, daemon):
        process.kill()
        process.wait()
    x.press("super+f5")
    one.until_says("notices stand in this log alone")
    x.press("super+b")
    one.until_says("super+b: berths (Berth board) is launched and in front")
    assert one.stop() == 0
