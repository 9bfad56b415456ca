"""The protocol org_kde_kwin_fake_input, as pywayland wants it told: keys and clicks that KWin takes for a person's.

KWin offers it to programs only whose desktop entry asks for it. What nothing here asks for is there, as the order
counts.
"""

from pywayland.protocol_core import Argument, ArgumentType, Interface, Proxy


class FakeInput(Interface):
    """Asks for input."""

    name = "org_kde_kwin_fake_input"
    version = 4


class FakeInputProxy(Proxy[FakeInput]):
    """The requests."""

    interface = FakeInput

    @FakeInput.request(Argument(ArgumentType.String), Argument(ArgumentType.String))
    def authenticate(self, application: str, reason: str) -> None:
        """Say who asks, and why."""
        self._marshal(0, application, reason)

    @FakeInput.request(Argument(ArgumentType.Fixed), Argument(ArgumentType.Fixed))
    def pointer_motion(self, x: float, y: float) -> None:
        """Move the pointer by so much."""
        self._marshal(1, x, y)

    @FakeInput.request(Argument(ArgumentType.Uint), Argument(ArgumentType.Uint))
    def button(self, button: int, state: int) -> None:
        """Press a button of the pointer, or let it go."""
        self._marshal(2, button, state)

    @FakeInput.request(Argument(ArgumentType.Uint), Argument(ArgumentType.Fixed))
    def axis(self, axis: int, value: float) -> None:
        """Stand in for a request that is not used."""
        raise NotImplementedError

    @FakeInput.request(Argument(ArgumentType.Uint), Argument(ArgumentType.Fixed), Argument(ArgumentType.Fixed))
    def touch_down(self, number: int, x: float, y: float) -> None:
        """Stand in for a request that is not used."""
        raise NotImplementedError

    @FakeInput.request(Argument(ArgumentType.Uint), Argument(ArgumentType.Fixed), Argument(ArgumentType.Fixed))
    def touch_motion(self, number: int, x: float, y: float) -> None:
        """Stand in for a request that is not used."""
        raise NotImplementedError

    @FakeInput.request(Argument(ArgumentType.Uint))
    def touch_up(self, number: int) -> None:
        """Stand in for a request that is not used."""
        raise NotImplementedError

    @FakeInput.request()
    def touch_cancel(self) -> None:
        """Stand in for a request that is not used."""
        raise NotImplementedError

    @FakeInput.request()
    def touch_frame(self) -> None:
        """Stand in for a request that is not used."""
        raise NotImplementedError

    @FakeInput.request(Argument(ArgumentType.Fixed), Argument(ArgumentType.Fixed))
    def pointer_motion_absolute(self, x: float, y: float) -> None:
        """Move the pointer to a place."""
        self._marshal(9, x, y)

    @FakeInput.request(Argument(ArgumentType.Uint), Argument(ArgumentType.Uint))
    def keyboard_key(self, key: int, state: int) -> None:
        """Press a key by evdev's number, or let it go."""
        self._marshal(10, key, state)


FakeInput._gen_c()
FakeInput.proxy_class = FakeInputProxy
