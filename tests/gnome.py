"""A GNOME Shell of its own: Wayland without a screen, two virtual monitors, buses and folders of its own."""

import contextlib
import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any, NamedTuple

import pytest
from jeepney import DBusAddress, new_method_call
from jeepney.io.blocking import DBusConnection, open_dbus_connection
from jeepney.wrappers import unwrap_msg
from PIL import Image

from tests.fake_input import KEYS
from tests.xserver import until

PACKAGES = "gnome-shell xwayland dbus libglib2.0-bin"
NEEDED = ("gnome-shell", "Xwayland", "dbus-run-session", "gsettings")
PROBE = "probe@tests"
DISPLAYS = DBusAddress(
    "/org/gnome/Mutter/DisplayConfig", "org.gnome.Mutter.DisplayConfig", "org.gnome.Mutter.DisplayConfig"
)
REMOTE = "org.gnome.Mutter.RemoteDesktop"
SETTINGS = {
    "org.gnome.shell welcome-dialog-last-shown-version": "'999'",
    "org.gnome.mutter dynamic-workspaces": "false",
    "org.gnome.mutter workspaces-only-on-primary": "false",
    "org.gnome.desktop.wm.preferences num-workspaces": "4",
    "org.gnome.desktop.background picture-uri": "''",
    "org.gnome.desktop.interface enable-animations": "false",
    "org.gnome.desktop.interface enable-hot-corners": "false",
    "org.gnome.desktop.notifications show-banners": "false",
    "org.gnome.desktop.screensaver lock-enabled": "false",
    "org.gnome.desktop.session idle-delay": "0",
}


class Gnome(NamedTuple):
    """A session: what programs in it have in their environment, and its shell."""

    env: dict[str, str]
    shell: subprocess.Popen[bytes]
    log: Path

    def probe(self, code: str) -> Any:
        """Return what an expression of JavaScript is in the shell, by an extension that only tests have."""
        return json.loads(called(self, DBusAddress("/probe", "org.gnome.Shell", "probe.Probe"), "Eval", "s", code))

    def windows(self) -> list[dict[str, Any]]:
        """Return the windows of programs from bottom to top, as the shell has them."""
        return [one for one in self.probe("windows()") if one["type"] in (0, 3, 4)]


def called(gnome: Gnome, address: DBusAddress, method: str, signature: str | None = None, *body: object) -> Any:
    """Return the first value that a method on the session's bus answers."""
    with bus_of(gnome) as bus:
        answer = unwrap_msg(bus.send_and_get_reply(new_method_call(address, method, signature, body), timeout=10))
        return answer[0] if answer else None


@contextlib.contextmanager
def bus_of(gnome: Gnome) -> Iterator[DBusConnection]:
    """Yield a connection to the session's bus."""
    bus = open_dbus_connection(gnome.env["DBUS_SESSION_BUS_ADDRESS"])
    try:
        yield bus
    finally:
        bus.close()


def needed(*more: str) -> None:
    """Skip what needs a GNOME Shell that is not here, or other programs."""
    missing = [name for name in (*NEEDED, *more) if not shutil.which(name)]
    if missing:
        pytest.skip(f"{', '.join(missing)} is not installed; on Debian: apt install {PACKAGES}")


@contextlib.contextmanager
def session(
    folder: Path, again: bool = False, set_up: bool = True, settings: Mapping[str, str] = SETTINGS
) -> Iterator[Gnome]:
    """Run GNOME Shell without a screen; end it afterwards, with all that it has started.

    `again`: it is started again whenever it ends; `set_up`: with Jaklet's extension; `settings`: of GNOME's own, by schema and key.
    """
    folder.mkdir(parents=True, exist_ok=True)
    with contextlib.suppress(FileExistsError):
        Path("/tmp/.X11-unix").mkdir(mode=0o1777)
    home, run = folder / "home", Path(tempfile.mkdtemp(prefix="jaklet-run-"))  # short, as sockets are in it
    (home / ".config").mkdir(parents=True)
    env = {
        "PATH": f"{Path(sys.executable).parent}:{os.environ['PATH']}", "LANG": "C.UTF-8", "HOME": str(home), "XDG_RUNTIME_DIR": str(run),
        "XDG_CONFIG_HOME": str(home / ".config"), "XDG_DATA_HOME": str(home / ".local/share"), "XDG_STATE_HOME": str(home / ".local/state"),
        "XDG_CURRENT_DESKTOP": "GNOME", "XDG_SESSION_TYPE": "wayland", "LIBGL_ALWAYS_SOFTWARE": "1", "GSETTINGS_BACKEND": "keyfile",
        "GTK_A11Y": "none", "NO_AT_BRIDGE": "1",
    }  # fmt: skip
    extensions = home / ".local/share/gnome-shell/extensions"
    write_probe(extensions / PROBE)
    start = "gnome-shell --headless --wayland --wayland-display wayland-jaklet"
    start += " --virtual-monitor 1920x1080 --virtual-monitor 1280x1024"
    start = f"while :; do {start}; done" if again else f"exec {start}"
    lines = [f'gsettings set {name} "{value}"' for name, value in settings.items()]
    lines += [f"gsettings set org.gnome.shell enabled-extensions \"['{PROBE}']\""]
    lines += ["jaklet set-up gnome"] if set_up else []
    lines += [f"dbus-daemon --config-file=/usr/share/dbus-1/session.conf --print-address=3 --nofork 3> {run}/system &"]
    lines += [f"while ! [ -s {run}/system ]; do sleep 0.05; done; export DBUS_SYSTEM_BUS_ADDRESS=$(cat {run}/system)"]
    lines += [f"echo $DBUS_SESSION_BUS_ADDRESS > {run}/bus-address", start]
    log = folder / "shell.log"
    with log.open("wb") as out:
        shell = subprocess.Popen(
            ["dbus-run-session", "--", "sh", "-c", "\n".join(lines)],
            env=env,
            stdout=out,
            stderr=out,
            start_new_session=True,
        )
    try:
        env["DBUS_SESSION_BUS_ADDRESS"] = until(lambda: _line(run / "bus-address"), "the session bus", 20)
        env["WAYLAND_DISPLAY"] = "wayland-jaklet"
        gnome = Gnome(env, shell, log)
        until(lambda: _is_there(gnome), "the shell", 40)
        env["DISPLAY"] = gnome.probe("imports.gi.GLib.getenv('DISPLAY')")
        env["XAUTHORITY"] = until(lambda: str(next(run.glob(".mutter-Xwaylandauth*"), "")), "Xwayland's key", 20)
        until(lambda: not gnome.probe("Main.layoutManager._startingUp"), "the end of the shell's start")
        gnome.probe("Main.overview.hide()")
        until(lambda: not gnome.probe("Main.overview.visible"), "the end of the overview")
        yield gnome
    finally:
        with contextlib.suppress(ProcessLookupError):
            os.killpg(shell.pid, signal.SIGTERM)
        try:
            shell.wait(10)
        except subprocess.TimeoutExpired:
            os.killpg(shell.pid, signal.SIGKILL)
        shutil.rmtree(run, ignore_errors=True)


def _line(path: Path) -> str:
    return path.read_text().strip() if path.exists() else ""


def _is_there(gnome: Gnome) -> bool:
    assert gnome.shell.poll() is None, gnome.log.read_text()[-2000:]
    with contextlib.suppress(Exception):
        return bool(gnome.probe("true"))
    return False


def write_probe(folder: Path) -> None:
    """Write the extension that only tests have."""
    from jaklet.desktops.gnome.set_up import MODULES, OLD, shell_version

    data, old = Path(__file__).parent / "data/gnome_probe", str(shell_version()) in OLD
    folder.mkdir(parents=True)
    frame = (data / ("old_kind.js" if old else "modules_kind.js")).read_text()
    (folder / "extension.js").write_text(frame.replace("//@PROBE@", (data / "probe.js").read_text()))
    (folder / "metadata.json").write_text(
        json.dumps({"uuid": PROBE, "name": "Probe", "description": "for tests", "shell-version": [*OLD, *MODULES]})
    )


LEFT_BUTTON = 0x110  # of evdev


class RemoteHand:
    """A hand on a keyboard and a pointer, by Mutter's own interface for such (org.gnome.Mutter.RemoteDesktop)."""

    def __init__(self, gnome: Gnome) -> None:
        self._bus = open_dbus_connection(gnome.env["DBUS_SESSION_BUS_ADDRESS"])
        self._gnome = gnome
        path = self._call(f"/{REMOTE.replace('.', '/')}", REMOTE, "CreateSession")
        self._path = str(path)
        self._say("Start")
        self.key("shift", True)  # the first one after the start goes astray
        self.key("shift", False)

    def _call(self, path: str, face: str, method: str, signature: str | None = None, *body: object) -> Any:
        message = new_method_call(DBusAddress(path, REMOTE, face), method, signature, body)
        answer = unwrap_msg(self._bus.send_and_get_reply(message, timeout=10))
        return answer[0] if answer else None

    def _say(self, method: str, signature: str | None = None, *body: object) -> None:
        self._call(self._path, f"{REMOTE}.Session", method, signature, *body)

    def key(self, name: str, down: bool) -> None:
        """Press a key, or let it go."""
        self._say("NotifyKeyboardKeycode", "ub", KEYS[name], down)

    def chord(self, text: str) -> None:
        """Press a chord, and let it go."""
        names = text.split("+")
        for name in names:
            self.key(name, True)
        for name in reversed(names):
            self.key(name, False)

    def click(self, x: int, y: int) -> None:
        """Click somewhere."""
        at = self._gnome.probe("global.get_pointer()")
        self._say("NotifyPointerMotionRelative", "dd", float(x - at[0]), float(y - at[1]))
        until(lambda: self._gnome.probe("global.get_pointer()")[:2] == [x, y], "the pointer to be there")
        self.button(True)
        self.button(False)

    def button(self, down: bool) -> None:
        """Press the left button, or let it go."""
        self._say("NotifyPointerButton", "ib", LEFT_BUTTON, down)

    def close(self) -> None:
        self._bus.close()


def lay_out_monitors(gnome: Gnome, *monitors: tuple[int, str, float]) -> None:
    """Have these monitors and no others: how far to the right each stands, its connector and its scale."""
    with bus_of(gnome) as bus:
        state = unwrap_msg(bus.send_and_get_reply(new_method_call(DISPLAYS, "GetCurrentState")))
        modes = {one[0][0]: one[1][0][0] for one in state[1]}
        logical: list[Any] = [(x, 0, scale, 0, x == 0, [(name, modes[name], {})]) for x, name, scale in monitors]
        body: Any = (state[0], 1, logical, {})
        asked = new_method_call(DISPLAYS, "ApplyMonitorsConfig", "uua(iiduba(ssa{sv}))a{sv}", body)
        unwrap_msg(bus.send_and_get_reply(asked))


def taken(gnome: Gnome, folder: Path) -> Image.Image:
    """Return what the shell shows on all monitors."""
    path = folder / "shot.png"
    path.unlink(missing_ok=True)
    gnome.probe(
        f"const file = Gio.File.new_for_path('{path}').replace(null, false, 0, null);"
        "new Shell.Screenshot().screenshot(false, file, (shot, result) => { shot.screenshot_finish(result); file.close(null); }); 1"
    )

    def image() -> Image.Image | None:
        try:
            with Image.open(path) as found:
                return found.convert("RGB")
        except OSError:
            return None

    return until(image, "a picture of the shell")  # type: ignore[return-value]
