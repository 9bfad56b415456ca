"""How stock window managers are started in a private server, and how they are ended with all that they have started."""

import contextlib
import os
import shlex
import shutil
import signal
import subprocess
import time
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Final, NamedTuple

import pytest

from tests.xserver import Head, XServer, until


class Manager(NamedTuple):
    """A window manager: its command, the Debian packages that have it, and how its command is to be run."""

    name: str
    command: str
    packages: str = ""
    bus: bool = False  # it needs a session bus of its own

    @property
    def argv(self) -> list[str]:
        """The command to run."""
        words = shlex.split(self.command)
        return ["dbus-run-session", "--", *words] if self.bus else words

    @property
    def is_here(self) -> bool:
        """True if it is installed."""
        return all(shutil.which(word) for word in (self.argv[0], shlex.split(self.command)[0]))


_ALL: Final = (
    Manager("metacity", "metacity", "metacity"),
    Manager("marco", "marco --no-composite", "marco mate-desktop-common mate-settings-daemon-common"),
    Manager("xfwm4", "xfwm4 --compositor=off", "xfwm4 xfconf dbus", bus=True),
    Manager("icewm", "icewm", "icewm"),
    Manager("mutter", "mutter --x11 --sm-disable", "mutter dbus", bus=True),
    Manager("kwin_x11", "kwin_x11", "kwin-x11 dbus", bus=True),
    Manager("muffin", "muffin --sm-disable", "muffin cinnamon-settings-daemon cinnamon-desktop-data dbus", bus=True),
    Manager("jwm", "jwm", "jwm"),
    Manager("wmaker", "wmaker", "wmaker"),
)
MANAGERS: Final[Mapping[str, Manager]] = {one.name: one for one in _ALL}
QUICK: Final = ("metacity", "icewm", "xfwm4")  # those of `make test`
STAYING: Final = 0.6  # seconds in which displays that are where they should be are left there by the manager
NAMED: Final = os.environ.get("MANAGER", "")  # one that is to be tried alone: a name from above, or any command


def chosen() -> Mapping[str, Manager]:
    """Return the managers that are to be tried."""
    if not NAMED:
        return MANAGERS
    name = NAMED.split()[0].rpartition("/")[2]
    return {name: MANAGERS.get(NAMED) or Manager(name, NAMED)}


def needed(manager: Manager) -> None:
    """Skip what needs a manager that is not here."""
    if not manager.is_here:
        pytest.skip(f"{manager.name} is not installed; on Debian: apt install {manager.packages}")


def arrange(x: XServer, heads: Sequence[Head]) -> None:
    """Put the displays where they are to be, until they stay there: some managers arrange them anew.

    They do so when they begin, and a moment after displays have come or gone.
    """
    until(lambda: _stay(x, heads), f"the displays to stay at {heads}")


def are_arranged(x: XServer, heads: Sequence[Head]) -> bool:
    """Return whether all displays are where they should be."""
    return all(x.is_plugged(i, head) for i, head in enumerate(heads))


def _stay(x: XServer, heads: Sequence[Head]) -> bool:
    if not are_arranged(x, heads):
        for i, head in enumerate(heads):
            x.plug(i, head)
    end = time.monotonic() + STAYING
    while are_arranged(x, heads):
        if time.monotonic() > end:
            return True
        time.sleep(0.05)  # between two looks
    return False


def environment(folder: Path) -> dict[str, str]:
    """Return what a manager needs beside what the tests have: places of its own, and no graphics card."""
    folder.mkdir(parents=True, exist_ok=True)
    folder.chmod(0o700)
    home = str(folder)
    return {
        "HOME": home, "XDG_RUNTIME_DIR": home, "XDG_CONFIG_HOME": f"{home}/.config", "XDG_CACHE_HOME": f"{home}/.cache",
        "XDG_DATA_HOME": f"{home}/.local/share", "XDG_STATE_HOME": f"{home}/.local/state",
        "KWIN_COMPOSE": "N", "LIBGL_ALWAYS_SOFTWARE": "1",
    }  # fmt: skip


@contextlib.contextmanager
def managing(x: XServer, manager: Manager, folder: Path, *options: str) -> Iterator[subprocess.Popen[bytes]]:
    """Let a manager manage a server; end it afterwards, with all that it has started."""
    process = subprocess.Popen(
        [*manager.argv, *options],
        env={**x.env, **environment(folder)},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        start_new_session=True,
    )
    try:
        until(lambda: is_managed(x), f"{manager.command} to manage {x.display}")
        yield process
    finally:
        end(process)


def is_managed(x: XServer) -> bool:
    """Return whether a manager is there, and has said how many workspaces there are."""
    root = x.run("xprop", "-root")
    return "_NET_SUPPORTING_WM_CHECK(WINDOW)" in root and "_NET_NUMBER_OF_DESKTOPS(CARDINAL)" in root


def end(process: subprocess.Popen[bytes], number: int = signal.SIGTERM) -> None:
    """End a manager and its session."""
    for one in (number, signal.SIGKILL):
        with contextlib.suppress(ProcessLookupError):
            os.killpg(process.pid, one)
        with contextlib.suppress(subprocess.TimeoutExpired):
            process.wait(5)
    process.wait()
