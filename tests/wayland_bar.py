"""A bar at the top of the first output, as a desktop's panel is: python -m tests.wayland_bar HEIGHT (wlr-layer-shell)."""

import select
import sys
from typing import Any

from jaklet.core.values.geometry import Rect
from jaklet.desktops.wayland.buffers import picture
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.layer_shell import LEFT, TOP
from jaklet.desktops.wayland.outputs import Outputs

RIGHT = 8  # zwlr_layer_surface_v1.anchor
TOP_LAYER = 2  # zwlr_layer_shell_v1.layer


def main(height: int) -> None:
    """Show it until the program is killed."""
    wayland = Wayland()
    output = Outputs(wayland).at(Rect(0, 0, 1, 1))
    assert output is not None
    surface: Any = wayland.compositor.create_surface()
    bar: Any = wayland.layers.get_layer_surface(surface, output.proxy, TOP_LAYER, "bar")
    bar.set_anchor(TOP | LEFT | RIGHT)
    bar.set_size(0, height)
    bar.set_exclusive_zone(height)

    def configured(_bar: Any, serial: int, wide: int, high: int) -> None:
        bar.ack_configure(serial)
        surface.attach(picture(wayland.memory, bytes(4 * wide * high), wide, high), 0, 0)
        surface.damage(0, 0, wide, high)
        surface.commit()

    bar.dispatcher["configure"] = configured
    surface.commit()
    while True:
        wayland.sync()
        select.select([wayland.fileno], [], [])


if __name__ == "__main__":
    main(int(sys.argv[1]))
