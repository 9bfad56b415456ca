"""jaklet overlay: the helper of a listener. It is not meant to be run by hand."""

import gc
import json
import select
import socket
import time
from functools import partial
from typing import TYPE_CHECKING, Annotated, Any

import typer

from jaklet.cli.options import ConfigOption, DeskOption
from jaklet.core.values.config import NEVER
from jaklet.core.values.errors import GoneError, JakletError

if TYPE_CHECKING:
    from jaklet.core.values.config import Config

LONGEST = 1 << 22  # bytes of a message
YOUNG = 2000  # objects since garbage was collected last
PAUSE = 0.3  # seconds without a key in which that can be done


def overlay(
    path: Annotated[str, typer.Argument(metavar="SOCKET", help="The control socket of the listener.")],
    config: ConfigOption = None,
    desk: DeskOption = None,
) -> None:
    """Show things over the windows for a listener, which starts this.

    Example: jaklet overlay $XDG_RUNTIME_DIR/jaklet/x11_0.sock
    """
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as listener:
        try:
            listener.connect(path)
        except OSError as fault:
            raise JakletError(f"no listener answers at {path}", "it starts this by itself") from fault
        run = _Run(listener, config, desk)
        try:
            run.go_on()
        finally:
            run.close()


class _Run:
    """One connection to a listener, until it ends."""

    def __init__(self, listener: socket.socket, config: str | None, desk: str | None) -> None:
        from jaklet.checks.run import shelf_of
        from jaklet.cli.naming import name_place, places_on_disk
        from jaklet.cli.picking import Layouts
        from jaklet.config.paths import locate, state_folder
        from jaklet.desktops.addresses import address_here
        from jaklet.finder.uses import Uses
        from jaklet.installed.hosts import ssh_hosts
        from jaklet.overlay.helper import Helper
        from jaklet.overlay.scenes import Stores

        self._listener, self._source = listener, config
        self._config: Config | None = None
        self._inbox = b""
        self._sent = 0
        layouts = Layouts(shelf_of(locate(config)))
        self._surface = address_here(desk).surface()
        uses = Uses(state_folder)
        name = partial(name_place, config, None)
        places = partial(places_on_disk, config)
        stores = Stores(layouts.all, lambda: tuple(ssh_hosts()), uses.weights, uses.chose, name, places)
        self._helper = Helper(self._surface, stores, self._read, self._send)
        self._send("overlay")

    def _read(self) -> "Config":
        """Return the config; the former one where it has errors, as the listener does."""
        from jaklet.cli.resources import opened

        try:
            self._config = opened(self._source).config
        except JakletError:
            if self._config is None:
                raise
        return self._config

    def _send(self, method: str, **params: Any) -> None:
        self._sent += 1
        line = json.dumps({"jsonrpc": "2.0", "id": self._sent, "method": method, "params": params})
        self._listener.sendall(line.encode() + b"\n")

    def go_on(self) -> None:
        """Do what is to be done, until the listener or the desk has gone."""
        clicks = [*self._surface.descriptors()]
        gc.disable()  # it is done between two keys, and not in the middle of one: 20 ms with 5,000 lines
        while True:
            due = self._helper.due
            timeout = None if due == NEVER else max(0.0, due - time.monotonic())
            told = self._listener.fileno()
            rests = gc.get_count()[0] > YOUNG and (timeout is None or timeout > PAUSE)
            if rests and not select.select([told, *clicks], [], [], PAUSE)[0]:
                gc.collect()
                continue
            ready, _, _ = select.select([told, *clicks], [], [], timeout)
            if told in ready and not self._take_in():
                return
            try:
                self._helper.clicks(time.monotonic())
            except GoneError:
                return  # the listener tells of that, and starts another one once there is a desk again

    def close(self) -> None:
        """Take all away."""
        self._surface.close()

    def _take_in(self) -> bool:
        """Take in what the listener says; False once it has gone."""
        try:
            came = self._listener.recv(1 << 20)
        except OSError:
            return False
        if not came or len(self._inbox) > LONGEST:
            return False
        *lines, self._inbox = (self._inbox + came).split(b"\n")
        for line in lines:
            message = json.loads(line)
            if message.get("method") == "overlay":
                self._helper.take(message["params"], time.monotonic())
        return True
