"""A hand at the keyboard of a real server, and a terminal that tells what reaches programs."""

import shlex
import subprocess
from collections.abc import Iterable
from pathlib import Path

import xcffib
import xcffib.xproto as xp
import xcffib.xtest

from tests.xserver import KEYSYMS, XServer, until

PRESS, RELEASE = 2, 3  # events of the core protocol


class Keyboard:
    """Keys of a server that are struck by one connection. `keys`: the names of those that can be."""

    def __init__(self, x: XServer, keys: Iterable[str]) -> None:
        self.x, self.connection = x, x.connect()
        self.fake = self.connection(xcffib.xtest.key).FakeInput
        self.codes = {name: x.keycode(KEYSYMS.get(name) or ord(name)) for name in keys}

    def send(self, kind: int, name: str) -> None:
        """Press or let go; nothing is sent until something is flushed."""
        self.fake(kind, self.codes[name], 0, 0, 0, 0, 0)

    def tap(self, *names: str) -> None:
        """Press keys in turn and let them go in turn, at once."""
        for name in names:
            self.send(PRESS, name)
        for name in reversed(names):
            self.send(RELEASE, name)
        self.connection.flush()

    def is_free(self) -> bool:
        """Return whether nobody holds the keyboard."""
        core = self.connection.core
        status = core.GrabKeyboard(False, self.connection.setup.roots[0].root, 0, 1, 1).reply().status
        core.UngrabKeyboard(0)
        self.connection.flush()
        return bool(status == xp.GrabStatus.Success)

    def keys_down(self) -> list[int]:
        """Return the keycodes of the keys that are down."""
        keys = self.connection.core.QueryKeymap().reply().keys
        return [code for code in range(256) if keys[code // 8] >> code % 8 & 1]


class Keyboardist(Keyboard):
    """Strikes keys without a pause, and reads what a terminal got of them."""

    def __init__(self, x: XServer, typed: Path, keys: Iterable[str]) -> None:
        self.typed = typed
        command = ["xterm", "-e", "sh", "-c", f"stty raw -echo; cat >> {shlex.quote(str(typed))}"]
        x.processes.append(subprocess.Popen(command, env=x.env))
        until(lambda: x.active() == "XTerm" and typed.exists(), "the terminal")
        self.terminal = int(x.active_id() or "0", 16)
        super().__init__(x, keys)

    def focus(self, window: int) -> None:
        """Give a window the focus as another program does, without Jaklet."""
        self.connection.core.SetInputFocus(1, window, 0)
        self.connection.flush()

    def reaches_the_terminal(self, name: str, limit: float = 20) -> None:
        """See that a plain key gets to the program in front."""
        before = self.typed.read_bytes().count(name.encode())
        self.tap(name)
        until(lambda: self.typed.read_bytes().count(name.encode()) > before, "a plain key at the terminal", limit)
