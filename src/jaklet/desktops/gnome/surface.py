"""Panels over the windows of GNOME, behind `core.actions.ports.surface.Surface`: the extension shows them.

Pictures go there by a file in the user's runtime folder, and not over the bus.
"""

import contextlib
import itertools
import os
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any

from jaklet.core.actions.ports.surface import Click, Panel
from jaklet.core.values.desk import Display
from jaklet.core.values.errors import DeskError
from jaklet.desktops.appearance import portal_prefers_dark
from jaklet.desktops.gnome.extension import GnomeExtension


class GnomeSurface:
    """Shows panels by a conversation of its own with the extension."""

    def __init__(self) -> None:
        self._extension = GnomeExtension.start()
        self._shown: dict[str, Panel] = {}
        self._folder = Path(os.environ.get("XDG_RUNTIME_DIR", "")) / "jaklet"
        self._folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        self._numbers = itertools.count()

    def scale_of(self, display: Display) -> float:
        """Return how large things are in pixels of the desk: 1 for 96 of them to the inch."""
        scales, is_enlarged = self._extension.scales()
        return 1.0 if is_enlarged else scales.get((display.rect.x, display.rect.y), 1.0)

    def density_of(self, display: Display) -> float:
        """Return how many pixels of a panel there are to one of the desk's, which the shell may enlarge."""
        scales, is_enlarged = self._extension.scales()
        return scales.get((display.rect.x, display.rect.y), 1.0) if is_enlarged else 1.0

    def pointer(self) -> tuple[int, int, bool]:
        """Return where the pointer is, and whether one of its buttons is down."""
        return self._extension.pointer()

    def prefers_dark(self) -> bool:
        """Return whether to draw dark: False where the settings portal prefers light."""
        return portal_prefers_dark() is not False

    def show(self, panels: Sequence[Panel]) -> None:
        """Show exactly these; what is shown already stays untouched."""
        files, told = [], []
        for panel in panels:
            one: dict[str, Any] = {
                "name": panel.name,
                "at": list(panel.grid.on_desk(panel.at)),
                "clicked": panel.clicked,
            }
            before = self._shown.get(panel.name)
            if panel.pixels and (before is None or (before.pixels, before.clicked) != (panel.pixels, panel.clicked)):
                files.append(self._folder / f"panel-{os.getpid()}-{next(self._numbers)}")
                opaque = bytearray(panel.pixels)
                opaque[3::4] = b"\xff" * (len(opaque) // 4)
                files[-1].write_bytes(opaque)
                one |= {"file": files[-1].name, "wide": panel.at.width, "high": panel.at.height}
            told.append(one)
        try:
            self._extension.question("panels", panels=told)
        finally:
            for path in files:
                with contextlib.suppress(OSError):
                    path.unlink()
        self._shown = {panel.name: panel for panel in panels}

    def clicks(self) -> list[Click]:
        """Return the clicks since the last call."""
        self._extension.take()
        heard, self._extension.heard = self._extension.heard, []
        return [self._click(one) for one in heard if one.get("panel") in self._shown]

    def _click(self, told: Mapping[str, Any]) -> Click:
        """Return a click in pixels of its panel; the shell tells of it in those of the desk."""
        density = self._shown[told["panel"]].grid.density
        return Click(told["panel"], int(told["x"] * density), int(told["y"] * density), told["button"])

    def descriptors(self) -> Iterable[int]:
        """Return the connection's."""
        return (self._extension.bus.fileno,)

    def close(self) -> None:
        """End the conversation; the panels go with it."""
        with contextlib.suppress(DeskError):
            self._extension.close()
