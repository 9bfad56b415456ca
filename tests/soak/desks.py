"""The desks of a made-up day: a server with a window manager, and KWin on Wayland, with hands and displays."""

import contextlib
import os
import subprocess
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Protocol

from tests import plasma
from tests.conftest import Office
from tests.fake_input import Hand
from tests.listener.witness import Keyboard
from tests.xserver import MANAGERS, Head, XServer, until, with_heads

HEADS = (Head(0, 0, 1920, 1080), Head(1920, 0, 1920, 1080))
NAMES = {*"abcdefghijklmnopqrstuvwxyz123", "super", "alt", "shift", "left", "escape"}


class SoakDesk(Protocol):
    """A desk, with a hand on its keyboard. `x`: the server on which its windows can be read."""

    x: XServer
    kind: str
    connectors: tuple[str, str]
    env: dict[str, str]

    def tap(self, chord: str) -> None: ...
    def second_display(self, on: bool) -> None: ...
    def replace_manager(self) -> None: ...
    def holds_nothing(self) -> bool: ...


class ManagedServer:
    """An X server with outputs that come and go, and a window manager."""

    kind, connectors = "x11", ("DUMMY0", "DUMMY1")

    def __init__(self, x: XServer, manager: str) -> None:
        self.x, self.env, self._manager = x, x.env, manager
        self._keyboard = Keyboard(x, NAMES)

    def tap(self, chord: str) -> None:
        self._keyboard.tap(*chord.split("+"))

    def second_display(self, on: bool) -> None:
        if on:
            self.x.run("xrandr", "--output", "DUMMY1", "--mode", "1920x1080+1", "--pos", "1920x0")
            until(lambda: self.x.is_plugged(1, HEADS[1]), "the second display")
        else:
            self.x.unplug(1)

    def replace_manager(self) -> None:
        former = self.x.ids("_NET_SUPPORTING_WM_CHECK")
        command = [*MANAGERS[self._manager], "--replace"]
        quiet = subprocess.DEVNULL
        self.x.processes.append(subprocess.Popen(command, env=self.env, stdout=quiet, stderr=quiet))
        until(lambda: self.x.ids("_NET_SUPPORTING_WM_CHECK") not in (former, []), "another manager")

    def holds_nothing(self) -> bool:
        """Return whether no key is down, and anybody could have the keyboard."""
        return self._keyboard.is_free() and not self._keyboard.keys_down()


class KwinSession:
    """A session of KWin on Wayland. Its windows are of X, as those can be read without it."""

    kind, connectors = "plasma", ("Virtual-0", "Virtual-1")

    def __init__(self, session: plasma.Plasma) -> None:
        self.env = {**os.environ, **session.env}
        self.x = XServer(int(session.env["DISPLAY"].removeprefix(":")), [])
        self._hand = Hand(f"{session.env['XDG_RUNTIME_DIR']}/{session.env['WAYLAND_DISPLAY']}")

    def tap(self, chord: str) -> None:
        self._hand.chord(chord)

    def second_display(self, on: bool) -> None:
        env = {**self.env, "QT_QPA_PLATFORM": "wayland"}
        words = ["kscreen-doctor", f"output.2.{'enable' if on else 'disable'}"]
        subprocess.run(words, env=env, check=True, capture_output=True, timeout=30)

    def replace_manager(self) -> None:
        raise AssertionError("a compositor is not replaced: its session ends with it")

    def holds_nothing(self) -> bool:
        """Return whether one letter, and nothing else, reaches a terminal: no key is down, and nobody has them all."""
        with tempfile.TemporaryDirectory() as name:
            typed = Path(name) / "typed"
            command = ["xterm", "-e", "sh", "-c", f"stty raw -echo; cat > {typed}"]
            terminal = subprocess.Popen(command, env=self.env)
            until(lambda: typed.exists() and self.x.active() == "XTerm", "the terminal")
            self.tap("y")
            until(typed.read_bytes, "a letter")
            terminal.kill()
            terminal.wait()
            return typed.read_bytes() == b"y"


@contextlib.contextmanager
def opened(name: str, folder: Path) -> Iterator[SoakDesk]:
    """Start a desk: `kwin_wayland`, or a window manager of X."""
    if name == "kwin_wayland":
        plasma.needed("kscreen-doctor")
        with plasma.session(folder / "session") as session:
            desk = KwinSession(session)
            try:
                yield desk
            finally:
                desk._hand.close()
    else:
        with with_heads(name, HEADS, folder) as x:
            yield ManagedServer(x, name)


class GrowingText:
    """A file that grows, read on from where it was read last."""

    def __init__(self, path: Path, lives: Callable[[], bool]) -> None:
        self._path, self._lives, self._at = path, lives, path.stat().st_size

    def until(self, words: str, limit: float = 60) -> str:
        """Wait for words in what is new at the beginning of a line; return that line, and go on behind it."""
        end = time.monotonic() + limit
        while time.monotonic() < end:
            with self._path.open("rb") as file:
                file.seek(self._at)
                new = file.read().decode()
            for line in new.splitlines(keepends=True):
                if line.startswith(words) and line.endswith("\n"):
                    self._at += len(new[: new.index(line) + len(line)].encode())
                    return line.rstrip()
            assert self._lives(), new
            time.sleep(0.002)
        raise AssertionError(f"nothing that begins with {words!r}: {self._path.read_text()[-3000:]}")


def office_on(desk: SoakDesk, folder: Path, bindings: str) -> Office:
    """Return the harbour office on a desk, with more bindings."""
    office = Office(folder / "office", installed=True)
    for key in ("DISPLAY", "WAYLAND_DISPLAY", "DBUS_SESSION_BUS_ADDRESS", "XDG_CURRENT_DESKTOP", "XDG_SESSION_TYPE"):
        office.env |= {key: desk.env[key]} if key in desk.env else {}
    if desk.kind == "plasma":
        office.env |= {"XDG_RUNTIME_DIR": desk.env["XDG_RUNTIME_DIR"]}
    office.env |= {"JAKLET_DESK": desk.kind, "PATH": f"{office.folder / 'bin'}:{os.environ['PATH']}"}
    office.edit("DP-1", desk.connectors[0])
    office.edit("HDMI-1", desk.connectors[1])
    office.edit("    super+p: pause ", f"{bindings}    super+f5: pause ")
    office.edit("settings:\n", "settings:\n  notices: false\n  sequence: 20s\n")
    return office
