"""The protocol wlr_layer_shell_unstable_v1, as pywayland wants it told: surfaces over the windows, or below them.

The names and the order of its requests are the protocol's; what nothing here asks for is there, as the order counts.
"""

import enum

from pywayland.protocol.wayland import WlOutput, WlOutputProxy, WlSurface, WlSurfaceProxy
from pywayland.protocol_core import Argument, ArgumentType, Interface, Proxy

OVERLAY = 3  # the layer above all windows
TOP, LEFT = 1, 4  # edges to which a surface is anchored


class KeyboardInteractivity(enum.IntEnum):
    """Whether a surface has the keyboard: never, or all of it while it is there."""

    NONE = 0
    EXCLUSIVE = 1


class ZwlrLayerSurfaceV1(Interface):
    """A surface of a layer."""

    name = "zwlr_layer_surface_v1"
    version = 3


class ZwlrLayerShellV1(Interface):
    """Makes surfaces of layers."""

    name = "zwlr_layer_shell_v1"
    version = 3


class ZwlrLayerSurfaceV1Proxy(Proxy[ZwlrLayerSurfaceV1]):
    """The requests and events of a surface."""

    interface = ZwlrLayerSurfaceV1

    @ZwlrLayerSurfaceV1.request(Argument(ArgumentType.Uint), Argument(ArgumentType.Uint))
    def set_size(self, width: int, height: int) -> None:
        """Set the size, in logical pixels."""
        self._marshal(0, width, height)

    @ZwlrLayerSurfaceV1.request(Argument(ArgumentType.Uint))
    def set_anchor(self, anchor: int) -> None:
        """Set the edges to which it is anchored, as a sum of bits."""
        self._marshal(1, anchor)

    @ZwlrLayerSurfaceV1.request(Argument(ArgumentType.Int))
    def set_exclusive_zone(self, zone: int) -> None:
        """Set how much room others leave for it; -1: it leaves none for others, either."""
        self._marshal(2, zone)

    @ZwlrLayerSurfaceV1.request(
        Argument(ArgumentType.Int), Argument(ArgumentType.Int), Argument(ArgumentType.Int), Argument(ArgumentType.Int)
    )
    def set_margin(self, top: int, right: int, bottom: int, left: int) -> None:
        """Set how far it stands from the edges to which it is anchored."""
        self._marshal(3, top, right, bottom, left)

    @ZwlrLayerSurfaceV1.request(Argument(ArgumentType.Uint))
    def set_keyboard_interactivity(self, interactivity: int) -> None:
        """Set whether it has the keyboard."""
        self._marshal(4, interactivity)

    @ZwlrLayerSurfaceV1.request(Argument(ArgumentType.Uint))
    def get_popup(self, popup: int) -> None:
        """Stand in for a request that is not used."""
        raise NotImplementedError

    @ZwlrLayerSurfaceV1.request(Argument(ArgumentType.Uint))
    def ack_configure(self, serial: int) -> None:
        """Say that the next picture is made for what was configured."""
        self._marshal(6, serial)

    @ZwlrLayerSurfaceV1.request()
    def destroy(self) -> None:
        """Take it away."""
        self._marshal(7)
        self._destroy()

    @ZwlrLayerSurfaceV1.event(Argument(ArgumentType.Uint), Argument(ArgumentType.Uint), Argument(ArgumentType.Uint))
    def configure(self, serial: int, width: int, height: int) -> None:
        """Called with the size that it is to have."""

    @ZwlrLayerSurfaceV1.event()
    def closed(self) -> None:
        """Called when the compositor shows it no more."""


class ZwlrLayerShellV1Proxy(Proxy[ZwlrLayerShellV1]):
    """The requests of the shell."""

    interface = ZwlrLayerShellV1

    @ZwlrLayerShellV1.request(
        Argument(ArgumentType.NewId, interface=ZwlrLayerSurfaceV1),
        Argument(ArgumentType.Object, interface=WlSurface),
        Argument(ArgumentType.Object, interface=WlOutput, nullable=True),
        Argument(ArgumentType.Uint),
        Argument(ArgumentType.String),
    )
    def get_layer_surface(
        self, surface: WlSurfaceProxy, output: WlOutputProxy | None, layer: int, namespace: str
    ) -> ZwlrLayerSurfaceV1Proxy:
        """Make a surface one of a layer, on an output or where the compositor likes."""
        made = self._marshal_constructor(0, ZwlrLayerSurfaceV1, surface, output, layer, namespace)
        assert isinstance(made, ZwlrLayerSurfaceV1Proxy)
        return made


for _interface, _proxy in ((ZwlrLayerSurfaceV1, ZwlrLayerSurfaceV1Proxy), (ZwlrLayerShellV1, ZwlrLayerShellV1Proxy)):
    _interface._gen_c()
    _interface.proxy_class = _proxy
