"""A KWin of its own: Wayland, two virtual outputs and Xwayland, with a session bus and folders of its own."""

import contextlib
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import NamedTuple

import pytest
from jeepney import DBusAddress, new_method_call
from jeepney.io.blocking import open_dbus_connection
from jeepney.wrappers import DBusErrorResponse, unwrap_msg
from PIL import Image

from jaklet.core.values.geometry import Rect
from tests.xserver import until

PACKAGES = "kwin-wayland xwayland kwin-style-breeze dbus libkf5screen-bin qtwayland5 libkf5service-bin"
SHOT = DBusAddress("/org/kde/KWin/ScreenShot2", "org.kde.KWin", "org.kde.KWin.ScreenShot2")
SIZE = (3840, 1080)  # of both outputs, one beside the other
# Without a menu KDE's libraries of version 6 know no desktop entries (Desktop Menu Specification); Plasma brings one.
MENU = "<Menu><Name>Applications</Name><DefaultAppDirs/><Include><All/></Include></Menu>\n"
NEEDED = ("kwin_wayland", "Xwayland", "dbus-run-session")


class Edges(NamedTuple):
    """How wide a frame is around a window, in pixels."""

    left: int
    right: int
    top: int
    bottom: int

    def around(self, x: int, y: int, width: int, height: int) -> Rect:
        """Return the frame of a window by what is within it."""
        return Rect(x - self.left, y - self.top, *self.with_content(width, height))

    def with_content(self, width: int, height: int) -> tuple[int, int]:
        """Return the size of a frame by the size of what is within it."""
        return width + self.left + self.right, height + self.top + self.bottom

    def content(self, width: int, height: int) -> tuple[int, int]:
        """Return the size of what is within a frame."""
        return width - self.left - self.right, height - self.top - self.bottom


class Plasma(NamedTuple):
    """A session: what programs in it have in their environment, and its compositor."""

    env: dict[str, str]
    kwin: subprocess.Popen[bytes]

    def jaklet_env(self, **more: str) -> dict[str, str]:
        """Return the environment of a program of the session."""
        return {**self.env, **more}


def needed(*more: str) -> None:
    """Skip what needs a KWin that is not here, or other programs."""
    missing = [name for name in (*NEEDED, *more) if not shutil.which(name)]
    if missing:
        pytest.skip(f"{', '.join(missing)} is not installed; on Debian: apt install {PACKAGES}")


@contextlib.contextmanager
def session(folder: Path, compositing: str = "Q", again: bool = False, strict: bool = False) -> Iterator[Plasma]:
    """Run KWin without a screen; end it afterwards, with all that it has started.

    `compositing`: how it draws, `O2` where pictures are to be taken; `again`: it is started again whenever it ends; `strict`: it lets
    nobody press keys who has no desktop entry that asks for it.

    The packaged program may have a capability of its file that cannot be had everywhere: a copy has none.
    """
    folder.mkdir(parents=True, exist_ok=True)
    program = folder / "kwin_wayland"
    shutil.copyfile(shutil.which("kwin_wayland") or "", program)
    program.chmod(0o700)
    with contextlib.suppress(FileExistsError):
        Path("/tmp/.X11-unix").mkdir(mode=0o1777)  # where Xwayland's socket is; a bare machine has none
    home, run = folder / "home", Path(tempfile.mkdtemp(prefix="jaklet-run-"))  # short, as sockets are in it
    (home / ".config").mkdir(parents=True)
    (home / ".config/kwinrc").write_text("[Desktops]\nNumber=4\nRows=1\n")
    (home / ".config/menus").mkdir()
    (home / ".config/menus/applications.menu").write_text(MENU)
    env = {
        "PATH": os.environ["PATH"], "LANG": "C.UTF-8", "HOME": str(home), "XDG_RUNTIME_DIR": str(run),
        "XDG_CONFIG_HOME": str(home / ".config"), "XDG_STATE_HOME": str(home / ".local/state"),
        "XDG_CURRENT_DESKTOP": "KDE", "XDG_SESSION_TYPE": "wayland", "KWIN_COMPOSE": compositing, "KWIN_SCREENSHOT_NO_PERMISSION_CHECKS": "1", "LIBGL_ALWAYS_SOFTWARE": "1",
    }  # fmt: skip
    env |= {} if strict else {"KWIN_WAYLAND_NO_PERMISSION_CHECKS": "1"}
    start = f"{program} --virtual --width 1920 --height 1080 --output-count 2 --no-lockscreen --xwayland"
    start += " --socket wayland-jaklet"
    start = f"while :; do {start}; done" if again else f"exec {start}"
    inner = f"echo $DBUS_SESSION_BUS_ADDRESS > {run}/bus-address; {start}"
    log = (folder / "kwin.log").open("wb")
    kwin = subprocess.Popen(
        ["dbus-run-session", "--", "sh", "-c", inner], env=env, stdout=log, stderr=log, start_new_session=True
    )
    try:
        address = until(lambda: _line(run / "bus-address"), "the session bus")
        env |= {"DBUS_SESSION_BUS_ADDRESS": address, "WAYLAND_DISPLAY": "wayland-jaklet"}
        until(lambda: (run / "wayland-jaklet").exists(), "the compositor")
        env["DISPLAY"] = until(lambda: xwayland_of(kwin.pid), "Xwayland")
        yield Plasma(env, kwin)
    finally:
        with contextlib.suppress(ProcessLookupError):
            os.killpg(kwin.pid, signal.SIGTERM)
        try:
            kwin.wait(10)
        except subprocess.TimeoutExpired:
            os.killpg(kwin.pid, signal.SIGKILL)
        log.close()
        shutil.rmtree(run, ignore_errors=True)


def _line(path: Path) -> str:
    return path.read_text().strip() if path.exists() else ""


def xwayland_of(session: int) -> str:
    """Return the X display on which a session listens; empty until it does. KWin 6 starts Xwayland when somebody comes.

    Judged by the sockets that its processes hold (proc(5), net/unix).
    """
    rows = (line.split() for line in Path("/proc/net/unix").read_text().splitlines())
    sockets = {f"socket:[{row[6]}]": row[7] for row in rows if len(row) > 7 and ".X11-unix/X" in row[7]}
    for process in Path("/proc").iterdir():
        with contextlib.suppress(OSError, ValueError):
            if not (process.name.isdigit() and os.getsid(int(process.name)) == session):
                continue
            for descriptor in (process / "fd").iterdir():
                if path := sockets.get(os.readlink(descriptor)):
                    return f":{path.rpartition('X')[2]}"
    return ""


def edges_of(env: Mapping[str, str]) -> Edges:
    """Return how wide KWin's frame is around a window, by what it tells a program of X (EWMH, _NET_FRAME_EXTENTS)."""
    command = [sys.executable, "-m", "jaklet.demo.windows", "--class", "Bar", "--title", "Bar", "--size", "300x200"]
    program = subprocess.Popen(command, env={**env, "PATH": os.environ["PATH"]})

    def asked(*words: str) -> str:
        return subprocess.run([*words], env=env, capture_output=True, text=True).stdout

    def extents() -> list[int]:
        found = re.search(r"Window id: (\S+)", asked("xwininfo", "-name", "Bar"))
        told = asked("xprop", "-id", found[1], "_NET_FRAME_EXTENTS") if found else ""
        return [int(one) for one in re.findall(r"\d+", told.partition("=")[2])]

    try:
        return Edges(*until(extents, "the edges of a window"))
    finally:
        program.kill()
        program.wait()


def takes_pictures(plasma: Plasma) -> bool:
    """Return whether pictures can be taken: KWin 6 without a graphics card draws by no OpenGL, and has none."""
    try:
        taken(plasma)
    except DBusErrorResponse:
        return False
    return True


def version_of(env: Mapping[str, str]) -> int:
    """Return the first number of KWin's version."""
    with open_dbus_connection(env["DBUS_SESSION_BUS_ADDRESS"]) as bus:
        asked = new_method_call(DBusAddress("/KWin", "org.kde.KWin", "org.kde.KWin"), "supportInformation")
        told = unwrap_msg(bus.send_and_get_reply(asked))[0]
    found = re.search(r"KWin version: (\d+)", told)
    assert found
    return int(found[1])


def taken(plasma: Plasma) -> Image.Image:
    """Return what KWin shows on both outputs; it has to draw by OpenGL."""
    bus = open_dbus_connection(plasma.env["DBUS_SESSION_BUS_ADDRESS"], enable_fds=True)
    read, write = os.pipe()
    pixels = bytearray()

    def drain() -> None:
        while part := os.read(read, 1 << 20):
            pixels.extend(part)

    thread = threading.Thread(target=drain)
    thread.start()
    call = new_method_call(SHOT, "CaptureArea", "iiuua{sv}h", (0, 0, *SIZE, {}, write))
    try:
        told = unwrap_msg(bus.send_and_get_reply(call))[0]
    finally:
        os.close(write)
        thread.join()
        os.close(read)
        bus.close()
    size = told["width"][1], told["height"][1]
    return Image.frombuffer("RGB", size, bytes(pixels), "raw", "BGRX", told["stride"][1], 1)
