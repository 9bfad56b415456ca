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
    from collections.abc import Mapping
    from pathlib import Path

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
        from jaklet.cli.picking import LayoutCache
        from jaklet.cli.place_naming import name_place, places_on_disk
        from jaklet.config.paths import locate_config, state_folder
        from jaklet.counters.finder_choices import ChoiceCounts
        from jaklet.desktops.addresses import address_here
        from jaklet.installed.hosts import ssh_hosts
        from jaklet.overlay.helper import Helper
        from jaklet.overlay.scenes import Stores

        self._listener, self._source = listener, config
        self._inbox = b""
        self._sent = 0
        layouts = LayoutCache(shelf_of(locate_config(config)))
        self._surface = address_here(desk).surface()
        uses = ChoiceCounts(state_folder)
        name = partial(name_place, config, None)
        places = partial(places_on_disk, config)
        stores = Stores(layouts.all, lambda: tuple(ssh_hosts()), uses.weights, uses.chose, name, places)
        self._texts: Mapping[Path, str] = {}
        self._early: list[dict[str, Any]] = []  # messages that came with the answer to the first request, or before it
        self._send("overlay")
        self._go_by(self._answered()["files"])
        self._helper = Helper(self._surface, stores, self._read, self._send)

    def _answered(self) -> dict[str, Any]:
        """Return the listener's answer to the first request; raises `JakletError` where it takes nobody."""
        while True:
            came = self._listener.recv(1 << 20)
            if not came or len(self._inbox) > LONGEST:
                raise JakletError("the listener has gone", "it starts this by itself")
            *lines, self._inbox = (self._inbox + came).split(b"\n")
            for at, line in enumerate(lines):
                answer = json.loads(line)
                if "method" in answer:
                    self._early.append(answer)  # what it has waited to say is said first
                elif "result" in answer:
                    self._early += map(json.loads, lines[at + 1 :])
                    result: dict[str, Any] = answer["result"]
                    return result
                else:
                    raise JakletError(str(answer["error"]["message"]))

    def _go_by(self, files: "Mapping[str, str]") -> None:
        """Take in what is in the config's files, as the listener goes by it: those on disk may have errors by now."""
        from pathlib import Path

        self._texts = {Path(path): text for path, text in files.items()}

    def _read(self) -> "Config":
        """Return the config that the listener goes by."""
        from jaklet.cli.resources import checked_config
        from jaklet.yaml_files.reader import unsaved

        with unsaved(self._texts):
            return checked_config(self._source).config

    def _send(self, method: str, **params: Any) -> None:
        self._sent += 1
        line = json.dumps({"jsonrpc": "2.0", "id": self._sent, "method": method, "params": params})
        self._listener.sendall(line.encode() + b"\n")

    def go_on(self) -> None:
        """Do what is to be done, until the listener or the desk has gone."""
        early, self._early = self._early, []
        for message in early:
            self._do(message)
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
            self._do(json.loads(line))
        return True

    def _do(self, message: dict[str, Any]) -> None:
        """Do what a message says; answers to what was asked say nothing new."""
        if message.get("method") == "overlay":
            if "files" in message["params"]:
                self._go_by(message["params"]["files"])
            self._helper.take(message["params"], time.monotonic())
