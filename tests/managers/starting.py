"""How stock window managers are started in a private server, and how they are ended with all that they have started."""

import contextlib
import os
import shlex
import shutil
import signal
import subprocess
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Final, NamedTuple

from tests.xserver import XServer, until


class Manager(NamedTuple):
    """A window manager: its command, the Debian packages that have it, and how its command is to be run."""

    command: str
    packages: str
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


MANAGERS: Final[Mapping[str, Manager]] = {
    "metacity": Manager("metacity", "metacity"),
    "marco": Manager("marco --no-composite", "marco mate-desktop-common mate-settings-daemon-common"),
    "xfwm4": Manager("xfwm4 --compositor=off", "xfwm4 xfconf dbus", bus=True),
    "icewm": Manager("icewm", "icewm"),
    "mutter": Manager("mutter --x11 --sm-disable", "mutter dbus", bus=True),
    "kwin_x11": Manager("kwin_x11", "kwin-x11 dbus", bus=True),
    "muffin": Manager("muffin --sm-disable", "muffin cinnamon-settings-daemon cinnamon-desktop-data dbus", bus=True),
    "jwm": Manager("jwm", "jwm"),
    "wmaker": Manager("wmaker", "wmaker"),
}


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
