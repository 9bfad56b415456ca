"""One connection to a compositor of Wayland: its globals, and what it sends; nothing here waits for long."""

import atexit
import os
import select
from typing import Any, Final

from pywayland.client import Display
from pywayland.protocol.wayland import WlCompositor, WlShm
from pywayland.protocol_core import Interface

from jaklet.core.values.errors import DeskError, GoneError
from jaklet.desktops.wayland.layer_shell import ZwlrLayerShellV1

GONE: Final = "the compositor has gone away"
AGAIN: Final = "start Jaklet again when it is back"


class Wayland:
    """A connection. Objects are pywayland's; what they tell comes in `take` and `sync`, and nowhere else."""

    def __init__(self, name: str | None = None) -> None:
        """Connect to $WAYLAND_DISPLAY or the one of this name; raises `DeskError`."""
        self._display = Display(name)
        try:
            self._display.connect()
        except ValueError as fault:
            where = name or os.environ.get("WAYLAND_DISPLAY", "wayland-0")
            raise DeskError(f"the compositor at {where} cannot be reached", "see to WAYLAND_DISPLAY") from fault
        self.globals: dict[str, list[tuple[int, int]]] = {}  # by interface: number and version, oldest first
        self._registry: Any = self._display.get_registry()
        self._registry.dispatcher["global"] = self._came
        self._registry.dispatcher["global_remove"] = self._went
        self._bound: dict[str, Any] = {}
        # What is left to the end of the interpreter is taken apart in any order, and crashes.
        atexit.register(self.close)
        try:
            self.sync()
        except DeskError:
            self.close()
            raise

    def _came(self, _registry: Any, number: int, interface: str, version: int) -> None:
        self.globals.setdefault(interface, []).append((number, version))

    def _went(self, _registry: Any, number: int) -> None:
        for every in self.globals.values():
            every[:] = [one for one in every if one[0] != number]

    def has(self, interface: type[Interface]) -> bool:
        """Return whether the compositor offers this."""
        return bool(self.globals.get(interface.name))

    def bind(self, interface: type[Interface], most: int) -> Any:
        """Return the first global of an interface, of this version at the most; raises `DeskError` for none."""
        if interface.name not in self._bound:
            offers = self.globals.get(interface.name)
            if not offers:
                raise DeskError(f"the compositor has no {interface.name}")
            number, version = offers[0]
            self._bound[interface.name] = self._registry.bind(number, interface, min(version, most))
        return self._bound[interface.name]

    def bind_anew(self, interface: type[Interface], most: int) -> Any:
        """Return the same for one caller alone: some tell how they are at once, and never again."""
        self._bound.pop(interface.name, None)
        found = self.bind(interface, most)
        del self._bound[interface.name]
        return found

    def bind_number(self, interface: type[Interface], number: int, most: int) -> Any:
        """Return the global of this number, which is one of several of its interface."""
        version = dict(self.globals[interface.name])[number]
        return self._registry.bind(number, interface, min(version, most))

    @property
    def compositor(self) -> Any:
        """Makes surfaces."""
        return self.bind(WlCompositor, 4)

    @property
    def memory(self) -> Any:
        """Shares pictures."""
        return self.bind(WlShm, 1)

    @property
    def layers(self) -> Any:
        """Puts surfaces over the windows."""
        return self.bind(ZwlrLayerShellV1, 3)

    @property
    def fileno(self) -> int:
        """The descriptor that can be read when something has come."""
        return self._display.get_fd()

    def flush(self) -> None:
        """Send what is asked for."""
        self._display.flush()

    def take(self) -> None:
        """Take in what has come; raises `GoneError` if the compositor is."""
        try:
            while self._display.dispatch(block=False) or select.select([self.fileno], [], [], 0)[0]:
                if select.select([self.fileno], [], [], 0)[0]:
                    self._display.read()
            self._display.flush()
        except RuntimeError as fault:
            raise GoneError(GONE, AGAIN) from fault

    def sync(self) -> None:
        """Wait until the compositor has done all that was asked, take in what it says, and send what answers that."""
        if self._display.roundtrip() < 0:
            raise GoneError(GONE, AGAIN)
        self._display.flush()

    def close(self) -> None:
        """End the connection; nothing of it may be used any more."""
        atexit.unregister(self.close)
        self._display.disconnect()
