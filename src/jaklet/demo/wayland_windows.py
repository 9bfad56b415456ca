"""A small real window with a given app id and title, for the demo and the tests: plain Wayland, no toolkit.

Run: python -m jaklet.demo.wayland_windows --class BerthBoard --title "Berth board"
"""

import argparse
import json
import mmap
import os
import time
from pathlib import Path
from typing import Any

from pywayland.client import Display
from pywayland.protocol.wayland import WlCompositor, WlSeat, WlShm
from pywayland.protocol.xdg_activation_v1 import XdgActivationV1
from pywayland.protocol.xdg_decoration_unstable_v1 import ZxdgDecorationManagerV1
from pywayland.protocol.xdg_shell import XdgWmBase

_XRGB = 1  # wl_shm.format xrgb8888
_BY_COMPOSITOR = 2  # zxdg_toplevel_decoration_v1.mode: the title bar is the compositor's
_KEYBOARD = 2  # wl_seat.capability
_WANTED = {WlCompositor: 4, WlShm: 1, WlSeat: 5, XdgWmBase: 1, XdgActivationV1: 1, ZxdgDecorationManagerV1: 1}


def main() -> None:
    """Show windows until the last one is closed."""
    parser = argparse.ArgumentParser(description="A window with an app id and a title, and nothing in it.")
    parser.add_argument("--class", dest="cls", default="Demo")
    parser.add_argument("--title", default="Demo")
    parser.add_argument("--size", default="800x600")
    parser.add_argument("--least", default="")
    parser.add_argument("--most", default="")
    parser.add_argument("--step", default="1x1")
    parser.add_argument("--slow", type=int, default=0, help="answer a size after so many milliseconds")
    parser.add_argument("--dialog", default="", help="show a dialog with this title as well")
    parser.add_argument("--colour", default="24506b")
    parser.add_argument("--count", type=int, default=1)
    parser.add_argument("--log", default="", help="write what the compositor tells into this file, line by line")
    arguments, _ = parser.parse_known_args()
    client = DemoClient(arguments)
    client.run()


class DemoClient:
    """A connection with some windows."""

    def __init__(self, arguments: argparse.Namespace) -> None:
        self.arguments, self.log = arguments, Path(arguments.log) if arguments.log else None
        self.globals: dict[str, Any] = {}
        self.windows: list[DemoWindow] = []
        self.keyboard: Any = None
        self._display = Display()
        self._display.connect()
        registry: Any = self._display.get_registry()
        registry.dispatcher["global"] = self._came
        self._display.roundtrip()
        self.globals["xdg_wm_base"].dispatcher["ping"] = lambda base, serial: base.pong(serial)
        self.globals["wl_seat"].dispatcher["capabilities"] = self._able
        for number in range(arguments.count):
            title = arguments.title if arguments.count == 1 else f"{arguments.title} {number + 1}"
            self.windows.append(DemoWindow(self, title))
        if arguments.dialog:
            self.windows.append(DemoWindow(self, arguments.dialog, self.windows[0]))
        token = os.environ.pop("XDG_ACTIVATION_TOKEN", "")
        if token and "xdg_activation_v1" in self.globals:
            self.globals["xdg_activation_v1"].activate(token, self.windows[0].surface)
            self.write(event="activation")

    def _came(self, registry: Any, number: int, interface: str, version: int) -> None:
        for kind, most in _WANTED.items():
            if kind.name == interface:
                self.globals[interface] = registry.bind(number, kind, min(version, most))

    def _able(self, seat: Any, abilities: int) -> None:
        if abilities & _KEYBOARD and self.keyboard is None:
            self.keyboard = seat.get_keyboard()
            self.keyboard.dispatcher["keymap"] = lambda _k, _form, descriptor, _size: os.close(descriptor)
            self.keyboard.dispatcher["key"] = self._key

    def _key(self, _keyboard: Any, _serial: int, _time: int, key: int, state: int) -> None:
        self.write(event="key", key=key, down=bool(state))

    def write(self, **told: object) -> None:
        """Write down what was told."""
        if self.log:
            with self.log.open("a") as file:
                file.write(json.dumps(told) + "\n")

    def run(self) -> None:
        """Do what the compositor tells until no window is left."""
        try:
            while self.windows:
                self._display.dispatch(block=True)
        except RuntimeError:
            pass  # the compositor has ended, or has ended us
        os._exit(0)  # nothing of the library is to be taken apart in any order


class DemoWindow:
    """One window; a dialog if it has a parent."""

    def __init__(self, client: DemoClient, title: str, parent: "DemoWindow | None" = None) -> None:
        arguments = client.arguments
        self.client, self.title = client, title
        self.size = _pair("360x200" if parent else arguments.size)
        self.step = _pair(arguments.step)
        self.surface = client.globals["wl_compositor"].create_surface()
        self._role = client.globals["xdg_wm_base"].get_xdg_surface(self.surface)
        self.toplevel = self._role.get_toplevel()
        self.toplevel.set_app_id(arguments.cls)
        self.toplevel.set_title(title)
        if arguments.least and not parent:
            self.toplevel.set_min_size(*_pair(arguments.least))
        if arguments.most and not parent:
            self.toplevel.set_max_size(*_pair(arguments.most))
        if parent:
            self.toplevel.set_parent(parent.toplevel)
        if "zxdg_decoration_manager_v1" in client.globals:
            decoration = client.globals["zxdg_decoration_manager_v1"].get_toplevel_decoration(self.toplevel)
            decoration.set_mode(_BY_COMPOSITOR)
        self.toplevel.dispatcher["configure"] = self._sized
        self.toplevel.dispatcher["close"] = self._close
        self._role.dispatcher["configure"] = self._draw
        self.surface.commit()

    def _sized(self, _toplevel: Any, wide: int, high: int, _states: Any) -> None:
        if wide and high:
            across, down = self.step
            self.size = max(1, wide - wide % across), max(1, high - high % down)

    def _draw(self, role: Any, serial: int) -> None:
        time.sleep(self.client.arguments.slow / 1000)  # a program that takes its time, which is all that this is for
        role.ack_configure(serial)
        wide, high = self.size
        colour = int(self.client.arguments.colour, 16).to_bytes(4, "little")
        descriptor = os.memfd_create("window", os.MFD_CLOEXEC)
        os.ftruncate(descriptor, wide * high * 4)
        with mmap.mmap(descriptor, wide * high * 4) as view:
            view[:] = colour * (wide * high)
        pool = self.client.globals["wl_shm"].create_pool(descriptor, wide * high * 4)
        os.close(descriptor)
        buffer = pool.create_buffer(0, wide, high, wide * 4, _XRGB)
        pool.destroy()
        buffer.dispatcher["release"] = _released
        self.surface.attach(buffer, 0, 0)
        self.surface.damage(0, 0, wide, high)
        self.surface.commit()
        self.client.write(event="drawn", title=self.title, size=[wide, high])

    def _close(self, _toplevel: Any) -> None:
        self.client.write(event="closed", title=self.title)
        self.toplevel.destroy()
        self._role.destroy()
        self.surface.destroy()
        self.client.windows.remove(self)


def _released(buffer: Any) -> None:
    buffer.destroy()


def _pair(text: str) -> tuple[int, int]:
    width, _, height = text.partition("x")
    return int(width), int(height)


if __name__ == "__main__":
    main()
