"""Panels over the windows of a compositor, behind `core.actions.ports.surface.Surface`: surfaces of its overlay layer.

Sizes and places are in logical pixels. Panels that take no clicks have an empty region for input.
"""

from collections.abc import Iterable, Sequence
from typing import Any, Final

from pywayland.protocol.wayland import WlSeat

from jaklet.core.actions.ports.surface import Click, Panel
from jaklet.core.values.desk import Display
from jaklet.desktops.appearance import portal_prefers_dark
from jaklet.desktops.wayland.buffers import CLEAR, SOLID, picture
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.layer_shell import LEFT, OVERLAY, TOP, KeyboardInteractivity
from jaklet.desktops.wayland.outputs import Output, Outputs
from jaklet.desktops.wayland.whole_keyboard import SCOPE

BUTTONS: Final = {0x110: 1, 0x112: 2, 0x111: 3}  # evdev's left, middle and right, as X counts them
POINTER: Final = 1  # wl_seat.capability


class _ShownPanel:
    """A panel as it is shown."""

    def __init__(self, wayland: Wayland, panel: Panel, output: Output | None) -> None:
        self._wayland, self.panel, self.output = wayland, panel, output
        self.surface: Any = wayland.compositor.create_surface()
        self._layer: Any = wayland.layers.get_layer_surface(
            self.surface, output.proxy if output else None, OVERLAY, SCOPE
        )
        self._layer.set_anchor(TOP | LEFT)
        self._layer.set_exclusive_zone(-1)
        self._layer.set_keyboard_interactivity(KeyboardInteractivity.NONE)
        self._layer.dispatcher["configure"] = self._configured
        self._is_mapped = self._is_hidden = False
        if not panel.clicked:
            region = wayland.compositor.create_region()
            self.surface.set_input_region(region)
            region.destroy()
        self._placed()
        self.surface.commit()

    def _placed(self) -> None:
        at, origin = self.panel.at, self.output.rect if self.output else self.panel.at
        self._layer.set_size(at.width, at.height)
        self._layer.set_margin(at.y - origin.y, 0, 0, at.x - origin.x)

    def _configured(self, _layer: Any, serial: int, _wide: int, _high: int) -> None:
        if self._is_hidden:  # it was told too late: a picture would be an error by now
            return
        self._layer.ack_configure(serial)
        self._is_mapped = True
        self._draw()

    def _draw(self) -> None:
        at, pixels = self.panel.at, self.panel.pixels
        drawn = (pixels, SOLID) if pixels else (bytes(4 * at.width * at.height), CLEAR)
        self.surface.attach(picture(self._wayland.memory, drawn[0], at.width, at.height, drawn[1]), 0, 0)
        self.surface.damage(0, 0, at.width, at.height)
        self.surface.commit()

    def change(self, panel: Panel) -> None:
        """Be another panel from now on, on the same output."""
        before, self.panel = self.panel, panel
        if before.at != panel.at:
            self._placed()
        if self._is_mapped:
            self._draw()

    def hide(self) -> None:
        """Be seen no more; what is said of it is still heard, as an event about nothing is an error."""
        self._is_hidden = True
        if self._is_mapped:
            self.surface.attach(None, 0, 0)
            self.surface.commit()

    def close(self) -> None:
        self._layer.destroy()
        self.surface.destroy()


class WaylandSurface:
    """Shows panels on one connection of its own."""

    def __init__(self, name: str | None = None) -> None:
        self._wayland = Wayland(name)
        self._outputs = Outputs(self._wayland)
        self._shown: dict[str, _ShownPanel] = {}
        self._clicks: list[Click] = []
        self._under: Any = None  # the surface under the pointer
        self._at = (0, 0)
        self._pointer: Any = None
        seat = self._wayland.bind(WlSeat, 5)
        seat.dispatcher["capabilities"] = self._able
        self._wayland.sync()

    def _able(self, seat: Any, abilities: int) -> None:
        if abilities & POINTER and self._pointer is None:
            self._pointer = seat.get_pointer()
            self._pointer.dispatcher["enter"] = lambda _p, _s, surface, x, y: self._moved(x, y, surface)
            self._pointer.dispatcher["motion"] = lambda _p, _time, x, y: self._moved(x, y, self._under)
            self._pointer.dispatcher["button"] = lambda _p, _s, _time, button, down: self._pressed(button, down)

    def _moved(self, x: float, y: float, surface: Any) -> None:
        self._under, self._at = surface, (int(x), int(y))

    def _pressed(self, button: int, down: int) -> None:
        name = next((name for name, one in self._shown.items() if one.surface is self._under), None)
        if down and name and button in BUTTONS:
            self._clicks.append(Click(name, *self._at, BUTTONS[button]))

    def scale_of(self, display: Display) -> float:
        """Return 1: sizes are in logical pixels, which the compositor makes larger by itself."""
        return 1.0

    def density_of(self, display: Display) -> float:
        """Return 1: what is shown is in pixels of the desk."""
        return 1.0

    def pointer(self) -> tuple[int, int, bool]:
        """Return the corner of the first output: where the pointer is, is told to the window under it alone."""
        first = next((one.rect for one in self._outputs.every), None)
        return (first.x, first.y, False) if first else (0, 0, False)

    def prefers_dark(self) -> bool:
        """Return whether to draw dark: False where the settings portal prefers light."""
        return portal_prefers_dark() is not False

    def show(self, panels: Sequence[Panel]) -> None:
        """Show exactly these; what is shown already stays untouched."""
        self._outputs.look()
        wanted, hidden = {panel.name: panel for panel in panels}, []
        for name, shown in list(self._shown.items()):
            panel = wanted.get(name)
            moved = panel is not None and (self._outputs.at(panel.at), panel.clicked) != (
                shown.output,
                shown.panel.clicked,
            )
            if panel is None or moved:
                self._shown.pop(name).hide()
                hidden.append(shown)
        for panel in panels:
            if panel.name not in self._shown:
                self._shown[panel.name] = _ShownPanel(self._wayland, panel, self._outputs.at(panel.at))
            elif self._shown[panel.name].panel != panel:
                self._shown[panel.name].change(panel)
        self._wayland.sync()  # the size of what is new is told, and its picture goes out
        for shown in hidden:
            shown.close()

    def clicks(self) -> list[Click]:
        """Return the clicks since the last call."""
        self._wayland.take()
        clicks, self._clicks = self._clicks, []
        return clicks

    def descriptors(self) -> Iterable[int]:
        """Return the connection's."""
        return (self._wayland.fileno,)

    def close(self) -> None:
        """End the connection; the panels go with it."""
        self._shown.clear()
        self._wayland.close()
