"""The harbour office in a session of a compositor: its listener, a hand, and a terminal that notes what it gets."""

import contextlib
import os
import re
import shutil
import signal
import subprocess
from collections.abc import Iterator
from pathlib import Path
from typing import Protocol

from jaklet.demo.harbour import WAYLAND_WINDOWS, X11_WINDOWS
from jaklet.listener.control_client import request
from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.xserver import until

OF_WAYLAND = ("berth-board", "letters", "charts")  # the others are programs of X


class PersonsHand(Protocol):
    """Keys and clicks that a compositor takes for a person's."""

    def key(self, name: str, down: bool) -> None: ...
    def chord(self, text: str) -> None: ...
    def click(self, x: int, y: int) -> None: ...
    def close(self) -> None: ...


class CompositorOffice:
    """The office. `kind`: of its desk; `connectors`: of the two displays; `env`: of programs of the session."""

    def __init__(
        self,
        kind: str,
        connectors: tuple[str, str],
        env: dict[str, str],
        hand: PersonsHand,
        folder: Path,
        config: str = "",
    ) -> None:
        self.env, self.kind, self.hand = env, kind, hand
        self.office = Office(folder / "office", installed=True)
        self.office.env |= env | {"PATH": f"{self.office.folder / 'bin'}:{os.environ['PATH']}"}
        self.office.env |= {"XDG_STATE_HOME": str(folder / "state"), "JAKLET_DESK": kind}
        self.office.edit("DP-1", connectors[0])
        self.office.edit("HDMI-1", connectors[1])
        for program in OF_WAYLAND:
            script = self.office.folder / "bin" / program
            script.write_text(script.read_text().replace(X11_WINDOWS, WAYLAND_WINDOWS))
        if config:
            self.office.config.write_text(config)
            shutil.rmtree(self.office.folder / "layouts")
        self.notes = folder / "typed"
        self.terminal: subprocess.Popen[bytes] | None = None
        self.listening: Listening | None = None
        OPEN.append(self)

    def listen(self) -> Listening:
        self.listening = Listening(self.office)
        return self.listening

    def open_terminal(self) -> None:
        """Open a terminal that notes what reaches it, in raw mode."""
        command = ["xterm", "-e", "sh", "-c", f"stty raw -echo; cat > {self.notes}"]
        self.terminal = subprocess.Popen(command, env=self.office.env)
        until(lambda: self.notes.exists() and self.front() == "terminal", "the terminal")

    def typed(self, text: str) -> None:
        until(lambda: self.notes.read_text() == text, f"{text!r}; so far {self.notes.read_text()!r}")

    def front(self) -> str:
        found = re.search(r"focus: (\S+)", self.office.jaklet("desk").stdout)
        return found[1] if found else ""

    def has_keyboard(self) -> bool:
        """Return whether the listener has the whole keyboard, as it says itself."""
        run, display = self.env["XDG_RUNTIME_DIR"], self.env["WAYLAND_DISPLAY"]
        return bool(request(f"{run}/jaklet/{self.kind}-{display}.sock", "status")["keyboard"])

    def close(self) -> None:
        if self.listening:
            self.listening.stop(signal.SIGTERM)
            print(self.listening.says())
        clear(self.env)
        until(lambda: "0 windows" in self.office.jaklet("desk").stdout, "an empty desk")
        self.let_go()

    def let_go(self) -> None:
        """End what is ours, whether or not there is a session still."""
        OPEN.remove(self)
        if self.terminal:
            self.terminal.kill()
            self.terminal.wait()
        self.hand.close()


OPEN: list[CompositorOffice] = []


@contextlib.contextmanager
def nothing_left_open() -> Iterator[None]:
    """Let go of what a test leaves open that fails: another one would be blamed for it."""
    yield
    for one in [*OPEN]:
        one.let_go()


LETTERS = [*"abcdefghijklmnopqrstuvwxyz1234567890"]
HELD = ("super+ctrl", "super+alt", "super+shift", "super+ctrl+alt", "super+ctrl+shift", "super+alt+shift", "ctrl+alt",
        "ctrl+alt+shift", "super+ctrl+alt+shift")  # fmt: skip
THREE_HUNDRED = [f"{modifiers}+{letter}" for modifiers in HELD for letter in LETTERS][:300]
CONFIG_OF_THREE_HUNDRED = "bindings:\n" + "".join(
    f'  {one}: tell "heard {n}."\n' for n, one in enumerate(THREE_HUNDRED)
)


def hears_three_hundred(desk: CompositorOffice) -> None:
    """All of them are heard, and each means what it is bound to; few are the desktop's own."""
    try:
        listening = desk.listen()
        refused = re.findall(r"(\S+) cannot be used", listening.says())
        assert len(refused) < 30, refused
        for n, chord in enumerate(THREE_HUNDRED):
            if chord not in refused:
                desk.hand.chord(chord)
                listening.until_says(f"heard {n}.")
    finally:
        desk.close()


def clear(env: dict[str, str]) -> None:
    """End the programs of a session that show windows."""
    run = f"XDG_RUNTIME_DIR={env['XDG_RUNTIME_DIR']}".encode()
    for process in Path("/proc").iterdir():
        try:
            words = (process / "cmdline").read_bytes() if process.name.isdigit() else b""
            if (b"jaklet.demo" in words or words.startswith(b"xterm")) and run in (process / "environ").read_bytes():
                os.kill(int(process.name), signal.SIGKILL)
        except OSError:
            continue
