"""Panels over the windows of an X server, behind `core.actions.ports.surface.Surface`: windows that no manager touches.

A panel's picture is a pixmap that the server paints by itself wherever the panel comes into view again. Panels that
take no clicks have an empty input shape (SHAPE 1.1, ShapeInput).
"""

import struct
from collections.abc import Iterable, Sequence
from io import BytesIO
from typing import Any, Final

import xcffib
import xcffib.randr
import xcffib.shape
import xcffib.xproto as xp

from jaklet.core.actions.ports.surface import Click, Panel
from jaklet.core.values.desk import Display
from jaklet.core.values.errors import DeskError
from jaklet.desktops.appearance import portal_prefers_dark
from jaklet.desktops.x11.shared_memory import SharedSegments
from jaklet.desktops.x11.wire import Wire, text_of
from jaklet.desktops.x11.xsettings import theme_is_dark

DEPTHS: Final = (24, 32)  # those in which a pixel is four bytes, three of them colours
PUT_IMAGE: Final = 72  # X protocol; xcb fills in opcode and length
_PUT_IMAGE: Final = struct.Struct("=xB2xIIHHhhBB2x")
USUAL_DPI: Final = 96.0
MM_PER_INCH: Final = 25.4
STEP: Final = 0.25  # scales are rounded to it
MOST_RAISES: Final = 5  # for one picture: others may want to be on top as well
_DPI: Final = "Xft.dpi:"


class _Window:
    """A panel as it is shown."""

    def __init__(self, wid: int, panel: Panel) -> None:
        self.wid, self.panel, self.raises = wid, panel, 0


class X11Surface:
    """Shows panels on one connection of its own."""

    def __init__(self, display: str | None = None) -> None:
        self._wire = Wire(display)
        self._core, self._screen = self._wire.core, self._wire.screen
        if self._screen.root_depth not in DEPTHS:
            raise DeskError(f"nothing can be shown on a screen of depth {self._screen.root_depth}")
        self._shape: Any = self._wire.connection(xcffib.shape.key)
        self._shape.QueryVersion().reply()
        self._shared = SharedSegments(self._wire)
        self._shown: dict[str, _Window] = {}
        self._clicks: list[Click] = []
        self._pen: int = self._wire.connection.generate_id()
        self._core.CreateGC(self._pen, self._wire.root, 0, [])
        self._bytes = self._wire.connection.get_maximum_request_length() * 4
        self._dpi = self._told_dpi()

    def scale_of(self, display: Display) -> float:
        """Return the scale of a display: that of the desktop's resources (Xft.dpi), else by its size in millimetres."""
        dpi = self._dpi or self._measured_dpi(display)
        return max(1.0, round(dpi / USUAL_DPI / STEP) * STEP) if dpi > USUAL_DPI * 1.2 else 1.0

    def _told_dpi(self) -> float:
        reply = self._wire.property(self._wire.root, xp.Atom.RESOURCE_MANAGER, 1 << 16)
        for line in text_of(reply.reply()).splitlines():
            if line.startswith(_DPI):
                try:
                    return float(line.removeprefix(_DPI))
                except ValueError:
                    return 0.0
        return 0.0

    def _measured_dpi(self, display: Display) -> float:
        for monitor in self._wire.randr.GetMonitors(self._wire.root, True).reply().monitors:
            is_this = (monitor.x, monitor.y) == (display.rect.x, display.rect.y)
            if is_this and monitor.width_in_millimeters > 0:
                return float(monitor.width * MM_PER_INCH / monitor.width_in_millimeters)
        return USUAL_DPI

    def density_of(self, display: Display) -> float:
        """Return 1: what is shown is in pixels of the desk."""
        return 1.0

    def pointer(self) -> tuple[int, int, bool]:
        """Return where the pointer is, and whether one of its buttons is down."""
        return self._wire.pointer()

    def prefers_dark(self) -> bool:
        """Return whether to draw dark: by the settings portal, else by the theme's name, else True."""
        said = portal_prefers_dark()
        if said is None:
            said = theme_is_dark(self._wire)
        return said is not False

    def show(self, panels: Sequence[Panel]) -> None:
        """Show exactly these; what is shown already stays untouched."""
        wanted = {panel.name: panel for panel in panels}
        for name in self._shown.keys() - wanted.keys():
            self._core.DestroyWindow(self._shown.pop(name).wid)
        for panel in panels:
            window = self._shown.get(panel.name)
            if window is None:
                self._shown[panel.name] = self._made(panel)
            elif window.panel != panel:
                self._changed(window, panel)
        self._wire.flush()

    def _made(self, panel: Panel) -> _Window:
        wid: int = self._wire.connection.generate_id()
        if not panel.pixels:
            return self._glass(wid, panel)
        mask = xp.EventMask.ButtonPress | xp.EventMask.VisibilityChange
        values = xp.CW.BackPixmap | xp.CW.OverrideRedirect | xp.CW.SaveUnder | xp.CW.EventMask
        picture = self._pixmap(panel)
        self._core.CreateWindow(
            self._screen.root_depth, wid, self._wire.root, *panel.at, 0, xp.WindowClass.InputOutput,
            self._screen.root_visual, values, [picture, 1, 1, mask],
        )  # fmt: skip
        self._core.FreePixmap(picture)
        self._describe(wid)
        if not panel.clicked:
            self._shape.Rectangles(
                xcffib.shape.SO.Set, xcffib.shape.SK.Input, xp.ClipOrdering.Unsorted, wid, 0, 0, 0, []
            )
        self._core.MapWindow(wid)
        return _Window(wid, panel)

    def _glass(self, wid: int, panel: Panel) -> _Window:
        """Show a window that has no pixels of its own (X protocol, InputOnly)."""
        values = xp.CW.OverrideRedirect | xp.CW.EventMask
        self._core.CreateWindow(
            0, wid, self._wire.root, *panel.at, 0, xp.WindowClass.InputOnly, 0, values, [1, xp.EventMask.ButtonPress]
        )
        self._describe(wid)
        self._core.MapWindow(wid)
        return _Window(wid, panel)

    def _describe(self, wid: int) -> None:
        """Let compositors and tools know what this is (EWMH _NET_WM_WINDOW_TYPE, ICCCM WM_CLASS)."""
        wire = self._wire
        kind = [wire.atoms["_NET_WM_WINDOW_TYPE_NOTIFICATION"]]
        self._core.ChangeProperty(
            xp.PropMode.Replace, wid, wire.atoms["_NET_WM_WINDOW_TYPE"], xp.Atom.ATOM, 32, 1, kind
        )
        name = b"jaklet\0Jaklet\0"
        self._core.ChangeProperty(xp.PropMode.Replace, wid, wire.atoms["WM_CLASS"], xp.Atom.STRING, 8, len(name), name)

    def _changed(self, window: _Window, panel: Panel) -> None:
        flags = xp.ConfigWindow
        if window.panel.at != panel.at:
            self._core.ConfigureWindow(
                window.wid, flags.X | flags.Y | flags.Width | flags.Height, [v & 0xFFFFFFFF for v in panel.at]
            )
        if window.panel.pixels is not panel.pixels or window.panel.at[2:] != panel.at[2:]:
            picture = self._pixmap(panel)
            self._core.ChangeWindowAttributes(window.wid, xp.CW.BackPixmap, [picture])
            self._core.ClearArea(False, window.wid, 0, 0, 0, 0)
            self._core.FreePixmap(picture)
        window.panel, window.raises = panel, 0

    def _pixmap(self, panel: Panel) -> int:
        """Let the server have a picture: from shared memory, or in as many requests as it takes."""
        wide, high = panel.at.width, panel.at.height
        picture: int = self._wire.connection.generate_id()
        depth = self._screen.root_depth
        self._core.CreatePixmap(depth, picture, self._wire.root, wide, high)
        if self._shared.put(panel.pixels, picture, self._pen, (wide, high), depth):
            return picture
        rows = max(1, (self._bytes - 64) // (wide * 4))
        for top in range(0, high, rows):
            part, tall = panel.pixels[top * wide * 4 : (top + rows) * wide * 4], min(rows, high - top)
            # Packed here and not by xcffib, which packs a picture byte by byte: 100 ms for one of ordinary size.
            head = _PUT_IMAGE.pack(xp.ImageFormat.ZPixmap, picture, self._pen, wide, tall, 0, top, 0, depth)
            self._core.send_request(PUT_IMAGE, BytesIO(head + part))
        return picture

    def clicks(self) -> list[Click]:
        """Return the clicks since the last call, and keep the panels on top meanwhile."""
        names = {window.wid: name for name, window in self._shown.items()}
        for event in self._wire.events():
            if isinstance(event, xp.ButtonPressEvent) and event.event in names:
                self._clicks.append(Click(names[event.event], event.event_x, event.event_y, event.detail))
            elif isinstance(event, xp.VisibilityNotifyEvent) and event.window in names:
                self._raise(self._shown[names[event.window]], event.state)
        clicks, self._clicks = self._clicks, []
        return clicks

    def _raise(self, window: _Window, state: int) -> None:
        """Put a panel on top again that something else has covered, but not for ever."""
        if state != xp.Visibility.Unobscured and window.raises < MOST_RAISES:
            window.raises += 1
            self._core.ConfigureWindow(window.wid, xp.ConfigWindow.StackMode, [xp.StackMode.Above])
            self._wire.flush()

    def descriptors(self) -> Iterable[int]:
        """Return the connection's."""
        return (self._wire.fileno,)

    def close(self) -> None:
        """End the connection; the panels go with it."""
        self._wire.close()
