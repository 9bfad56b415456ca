"""Minutes of everything at once: no death, no dead key, no character lost, rest at rest, and the memory stays as it is.

Each part takes a minute; `pytest -m slow --minutes 10 tests/listener/test_endurance.py` takes ten. The figures are
printed (`-s`), and are in benchmarks/README.md.
"""

import json
import random
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from jaklet.listener.control_client import request
from jaklet.listener.methods import METHODS
from tests.conftest import Office
from tests.desktops.test_typing import Hand, arrives, keyboard, texts
from tests.listener.test_x11 import Listening
from tests.listener.test_x11_flow import memory
from tests.listener.witness import Keyboardist
from tests.xserver import MANAGERS, MONITORS, XServer, running, until

pytestmark = [pytest.mark.slow, pytest.mark.timeout(2400)]
GROWTH = 3_000  # kB that a listener may grow by once it has seen everything
CHORDS = [
    *("super+b", "super+r", "super+t", "super+g", "super+c", "super+shift+b", "super+m", "super+z", "super+n"),
    *("super+h", "super+l", "super+left", "super+right", "super+up", "super+q", "super+1", "super+2"),
    *(
        "super+w",
        "left",
        "shift+left",
        "k",
        "w",
        "p",
        "s",
        "x",
        "d",
        "m",
        "r",
        "g",
        "u",
        "escape",
        "super+d",
        "super+x",
    ),
    *("super+s", "1", "2", "ctrl+e", "super+j", "super+o", "super+y", "a", "b", "shift+a"),
]
MORE = """\
    super+j: {do: tell "j", only in: radio}
    super+o: {do: tell "up", on release: true}
    super+y super+j: tell "y"
"""


@pytest.fixture
def seconds(request: pytest.FixtureRequest) -> float:
    return 60 * float(request.config.getoption("--minutes"))


class Witness:
    """A listener on a server of its own, a terminal that tells what reaches programs, and a hand at the keyboard."""

    def __init__(self, x: XServer, office: Office) -> None:
        self.x, self.office = x, office
        office.edit("    super+p: pause ", f"{MORE}    super+f5: pause ")
        office.edit("settings:\n", "settings:\n  notices: false\n")
        self.hand = Keyboardist(
            x, office.folder / "typed", {name for chord in (*CHORDS, "f5") for name in chord.split("+")}
        )
        self.listening = Listening(office)
        self.pid = self.listening.process.pid
        (self.socket,) = (office.folder / "run" / "jaklet").glob("*.sock")

    def tap(self, chord: str) -> None:
        self.hand.tap(*chord.split("+"))

    def ticks(self) -> int:
        """Return the processor time that the listener has used, in hundredths of a second."""
        fields = Path(f"/proc/{self.pid}/stat").read_text().rpartition(")")[2].split()
        return int(fields[11]) + int(fields[12])

    def lives(self) -> None:
        assert self.listening.process.poll() is None, self.listening.says()[-2000:]
        assert "Traceback" not in self.listening.says()

    def hears_keys(self, limit: float = 20) -> None:
        """A plain key reaches the program in front, and a chord is told of; both with no help but time."""
        self.hand.focus(self.hand.terminal)
        told = self.listening.says().count("\nsuper+up: ")
        self.hand.reaches_the_terminal("a", limit)
        self.tap("super+up")
        until(lambda: self.listening.says().count("\nsuper+up: ") > told, "a chord that does something", limit)

    def comes_to_rest(self) -> dict[str, float]:
        """All is as if nothing had been: return how many ticks five seconds at rest take, and the memory in kB."""
        self.tap("escape")
        until(lambda: not request(self.socket, "status")["under_way"], "the end of all tasks")
        self.tap("escape")
        until(lambda: not request(self.socket, "status")["layer"], "the end of layers")
        until(self.hand.is_free, "a free keyboard")
        until(lambda: not request(self.socket, "status")["keyboard"], "no reason to hold it")
        assert not self.hand.keys_down(), "no key is down"
        self.lives()
        self.hears_keys()
        until(lambda: not request(self.socket, "status")["under_way"], "the end of the last task")

        def at_rest() -> bool:
            before = self.ticks()
            time.sleep(1)  # how long it is looked at
            return self.ticks() == before

        until(at_rest, "a second without work")
        before = self.ticks()
        time.sleep(5)  # how long it is looked at
        return {"ticks at rest": self.ticks() - before, "memory": memory(self.pid)}

    def end(self) -> None:
        self.hand.connection.disconnect()
        assert self.listening.stop() == 0


@pytest.fixture(params=["metacity", "xfwm4"])
def witness(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Witness]:
    with running(request.param) as x:
        one = Witness(x, Office(tmp_path / "office", x))
        yield one
        one.end()
        for process in x.processes[2:]:
            process.kill()
            process.wait()


class World:
    """All that changes while keys are pressed: windows, the manager, the keyboard's map, the monitors, the config."""

    def __init__(self, one: Witness, dice: random.Random) -> None:
        self.one, self.dice, self.x = one, dice, one.x
        self.text = one.office.config.read_text()
        self.guests: list[subprocess.Popen[bytes]] = []
        self.children: list[subprocess.Popen[bytes]] = []
        self.did = dict.fromkeys(("window", "manager", "map", "monitors", "config", "focus"), 0)

    def start(self, *command: str) -> subprocess.Popen[bytes]:
        process = subprocess.Popen(command, env=self.x.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        self.children.append(process)
        return process

    def change(self, what: str) -> None:
        self.did[what] += 1
        if what == "window":
            if len(self.guests) > 3:
                guest = self.guests.pop(0)
                guest.kill()
                guest.wait()
            cls = self.dice.choice(["Guest", "RadioLog"])
            self.guests.append(self.start(sys.executable, "-m", "jaklet.demo.windows", "--class", cls))
        elif what == "manager":
            self.x.processes[1].terminate()
            self.x.processes[1].wait()
            command = MANAGERS[self.dice.choice(["metacity", "xfwm4"])]
            self.x.processes[1] = self.start(*command)
        elif what == "map":
            self.start("setxkbmap", "-layout", self.dice.choice(["us", "de", "fr", "us,de"]))
        elif what == "monitors":
            if self.did[what] % 2:
                self.start("xrandr", "--delmonitor", "HDMI-1")
            else:
                self.start("xrandr", "--setmonitor", *MONITORS[1])
        elif what == "config":
            other = self.text.replace('tell "j", only in: radio', 'tell "jj"').replace("super+q:", "super+i:")
            self.one.office.config.write_text(self.dice.choice([self.text, other, self.text + "nonsense: ["]))
        else:
            wid = int(self.dice.choice(self.x.ids() or [hex(self.one.hand.terminal)]), 16)
            self.one.hand.focus(wid)
        self.children = [child for child in self.children if child.poll() is None]

    def calm_down(self) -> None:
        """Be as at the beginning: one manager, both monitors, the first map and config, no guests."""
        for guest in self.guests:
            guest.kill()
            guest.wait()
        self.guests.clear()
        self.one.office.config.write_text(self.text)
        self.x.run("setxkbmap", "-layout", "us")
        self.x.run("xrandr", "--setmonitor", *MONITORS[1])
        until(lambda: self.x.ids("_NET_SUPPORTING_WM_CHECK") and self.x.active_id() is not None, "a manager")
        until(lambda: not request(self.one.socket, "status")["refused"], "the first map and config")


def storm(one: Witness, world: World, dice: random.Random, seconds: float) -> int:
    """Press 100 chords a second while the world changes some times a second; return how many were pressed."""
    began, pressed = time.monotonic(), 0
    what = [*["window"] * 3, *["map"] * 2, *["config"] * 2, *["focus"] * 4, "monitors", "manager"]
    changes = began
    while (now := time.monotonic()) < began + seconds:
        one.tap(dice.choice(CHORDS))
        pressed += 1
        if now > changes:
            world.change(dice.choice(what))
            changes = time.monotonic() + dice.choice([0.01, 0.2, 0.5, 1])
            one.lives()
        time.sleep(max(0.0, began + pressed / 100 - time.monotonic()))  # the pace that is asked for
    return pressed


def test_a_storm_of_keys_while_everything_changes(witness: Witness, seconds: float) -> None:
    dice = random.Random(19)
    world = World(witness, dice)
    storm(witness, world, dice, 20)  # once round, so that all that is read once is read
    world.calm_down()
    before = witness.comes_to_rest()
    pressed = storm(witness, world, dice, seconds)
    world.calm_down()
    after = witness.comes_to_rest()
    print(f"\nstorm: {pressed} chords, changes {world.did}, before {before}, after {after}")
    assert after["ticks at rest"] == 0
    assert after["memory"] - before["memory"] < GROWTH


def mutated(dice: random.Random) -> bytes:
    """A request, or what was one: odd names, numbers, texts, bytes, and no end."""
    names = [name for name in METHODS if name != "stop"]  # it does what it says
    odd = ["", "²", "9" * 400, "\0", "\x1b[31m", "‮", "a" * 5000, -1, 1e308, None, True, [], {}, [[[]]]]
    actions = ["go berths", "place left 1/2", "recall 1", "recall ²", "save ²", "save 1", "run start of day", "undo"]
    actions += [
        "tell 'x'",
        "place left 0/0",
        "run nosuch",
        "repeat 3: [tell 'x']",
        "wait 9s",
        "wait for radio up to 1s",
    ]
    actions += [
        "focus window 0",
        "enter arrange",
        "pause",
        "type 'x' into nobody",
        "press super+a",
        "nudge left 99999999px",
    ]
    params: object = {"action": dice.choice([*actions, *odd])} if dice.random() < 0.8 else dice.choice(odd)
    asked: dict[str, object] = {
        "jsonrpc": "2.0",
        "id": dice.choice([1, *odd]),
        "method": dice.choice([*names, *names, *odd]),
    }
    asked["params"] = params
    text = json.dumps([asked] * dice.choice([1, 50]) if dice.random() < 0.1 else asked).encode()
    for _ in range(dice.choice([0, 0, 1, 3, 20])):
        at = dice.randrange(len(text))
        text = dice.choice([
            text[:at] + bytes([dice.randrange(256)]) + text[at + 1 :], text[:at] + text[at + 1 :], text[:at] + text[at:] * 2,
        ])  # fmt: skip
    return text + b"\n" * dice.choice([0, 1, 1, 1, 1])


def test_odd_requests_to_a_listener_at_work(witness: Witness, seconds: float) -> None:
    """Whatever is asked of it, it lives; and once `pause` and its like are taken back, every key is heard."""
    dice = random.Random(22)
    sent = looks = 0
    before: dict[str, float] = {}
    began = time.monotonic()
    calm = began + 10
    while (now := time.monotonic()) < calm + seconds:
        with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as client:
            client.settimeout(5)
            try:
                client.connect(str(witness.socket))
                for _ in range(dice.choice([1, 5, 50])):
                    client.sendall(mutated(dice))
                    sent += 1
                if dice.random() < 0.5:
                    client.recv(4096)
            except (TimeoutError, ConnectionError):
                pass  # as one is who sends no whole line and waits
        witness.lives()
        if dice.random() < 0.05 or (now > calm and not before):
            # What was asked for before is done first: an action may give the focus to another window.
            until(lambda: not request(witness.socket, "status")["under_way"], "the end of all tasks", 60)
            request(witness.socket, "resume")
            witness.hears_keys()
            looks += 1
            if now > calm and not before:
                before = witness.comes_to_rest()
                calm = time.monotonic()
    request(witness.socket, "resume")
    after = witness.comes_to_rest()
    print(f"\nodd requests: {sent} sent, {looks} looks at keys, before {before}, after {after}")
    assert after["ticks at rest"] == 0
    assert after["memory"] - before["memory"] < GROWTH


LAYOUTS = ["us", "de", "fr", "us:-variant:dvorak", "us,de"]


def test_text_for_minutes_on_every_keyboard(x: XServer, x_office: Office, seconds: float, tmp_path: Path) -> None:
    """Caps Lock on and off, modifiers held, keyboards in turn: what a terminal gets is what was typed, to the letter."""
    dice, typed, number = random.Random(18), tmp_path / "typed", 0
    command = ["xterm", "-e", "sh", "-c", f"stty raw -echo; cat >> {typed}"]
    x.processes.append(subprocess.Popen(command, env=x.env | {"LANG": "C.UTF-8"}))
    until(lambda: x.active() == "XTerm" and typed.exists(), "the terminal")
    began, locked = time.monotonic(), False
    while time.monotonic() < began + seconds:
        text = texts(dice.randrange(1 << 30), dice.choice([10, 100, 1000, 3000]))
        with keyboard(x, dice.choice(LAYOUTS)):
            if dice.random() < 0.3:
                Hand(x).tap("caps")
                locked = not locked
            if dice.random() < 0.5:
                Hand(x).send(2, dice.choice(["shift", "ctrl", "alt", "super"]))
            arrives(x, x_office, typed, text)
        number += len(text)
    print(f"\ntyped: {number} characters, none lost, none more")
    if locked:
        Hand(x).tap("caps")
