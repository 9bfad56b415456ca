"""The outputs of a compositor: where they are in the space of all windows (wl_output, xdg-output)."""

from typing import Any, Final

from pywayland.protocol.wayland import WlOutput
from pywayland.protocol.xdg_output_unstable_v1 import ZxdgOutputManagerV1

from jaklet.core.values.geometry import Rect
from jaklet.desktops.wayland.connection import Wayland

NOWHERE: Final = Rect(0, 0, 1, 1)


class Output:
    """One of them. `rect`: in logical pixels, as windows are placed."""

    def __init__(self, number: int, proxy: Any, logical: Any) -> None:
        self.number, self.proxy, self._logical = number, proxy, logical
        self.rect = NOWHERE
        logical.dispatcher["logical_position"] = lambda _proxy, x, y: self._placed(self.rect._replace(x=x, y=y))
        logical.dispatcher["logical_size"] = lambda _proxy, w, h: self._placed(self.rect._replace(width=w, height=h))

    def _placed(self, rect: Rect) -> None:
        self.rect = rect


class Outputs:
    """Those that are there. They come and go: `look` takes that in."""

    def __init__(self, wayland: Wayland) -> None:
        self._wayland = wayland
        self.every: list[Output] = []
        self.look()

    def look(self) -> None:
        """Take in which there are now."""
        numbers = [number for number, _ in self._wayland.globals.get(WlOutput.name, ())]
        known = {one.number: one for one in self.every}
        if list(known) == numbers:
            return
        manager = self._wayland.bind(ZxdgOutputManagerV1, 3)
        for number in numbers:
            if number not in known:
                proxy = self._wayland.bind_number(WlOutput, number, 4)
                known[number] = Output(number, proxy, manager.get_xdg_output(proxy))
        self.every = [known[number] for number in numbers]
        self._wayland.sync()

    def at(self, rect: Rect) -> Output | None:
        """Return the one that has most of a rectangle; None for none at all."""
        best = max(self.every, key=lambda one: one.rect.overlap(rect), default=None)
        return best if best and best.rect.overlap(rect) else None
