"""The script in KWin, and the conversation with it.

The script calls our connection by its unique name, which the bus gives to nobody else; calls are taken from KWin
alone. It asks for work (`Next`), and is answered once there is any, or with none after `ANSWER`: a call not answered
within the time of the bus is lost. It tells how things are (`State`) whenever they change.
"""

import contextlib
import json
import os
import re
import time as clock
from collections.abc import Mapping, Sequence
from importlib.resources import files
from pathlib import Path
from typing import Any, Final

from jeepney import DBusAddress, HeaderFields, Message, new_error, new_method_return

from jaklet.core.values.errors import DeskError
from jaklet.core.values.regexes import regex
from jaklet.desktops.compositor.agent import Agent, agent_text
from jaklet.desktops.compositor.bus import HOW, PATIENCE, Bus, Call, is_call, sender_of

KWIN: Final = "org.kde.KWin"
SCRIPTING: Final = DBusAddress("/Scripting", KWIN, "org.kde.kwin.Scripting")
DESKTOPS: Final = DBusAddress("/VirtualDesktopManager", KWIN, "org.kde.KWin.VirtualDesktopManager")
NEW: Final = "Desktop"  # what a new workspace is called, with its number, as the system's settings do
SUPPORT: Final = DBusAddress("/KWin", KWIN, "org.kde.KWin")
ANSWER: Final = 15.0  # seconds; the bus forgets a call after 25
HEARS: Final = "hears"  # the file with the name of the script that takes away what a listener leaves behind
SECOND_TRY: Final = (
    1.0  # seconds in which a script that runs has told of the desk, of which most take some milliseconds
)
LOGS: Final = "see what it prints: journalctl --user"
# What KWin puts behind a title that several windows have: a number, and a mark for the direction of the text.
_OF_KWIN: Final = regex(r"(?: <\d+>)?\N{LEFT-TO-RIGHT MARK}$")
_OUTPUT: Final = re.compile(
    r"^Screen \d+:\n-+\nName: (?P<name>\S+)\n(?:.*\n)*?Geometry: (?P<x>-?\d+),(?P<y>-?\d+),\d+x\d+", re.MULTILINE
)


class KWinScript(Agent):
    """The script at work."""

    service, name = KWIN, "KWin"

    def __init__(self, bus: Bus) -> None:
        self._name = f"jaklet-{bus.name.strip(':').replace('.', '-')}"
        self._asks: Message | None = None  # the call that waits for work
        self._answer_by = float("inf")
        self._work: list[dict[str, Any]] = []
        self._hears = False
        super().__init__(bus)

    def _begin(self) -> None:
        """Let KWin run the script. Raises `DeskError`.

        KWin numbers scripts by how many there are. While one that a former listener has left behind goes away, two can
        have one number, and the first of them is run instead: then ours is loaded anew.
        """
        until = clock.monotonic() + PATIENCE
        while True:
            self._load()
            again = clock.monotonic() + SECOND_TRY
            while not self.state and clock.monotonic() < again:
                self.bus.take(0.1)
            if self.state:
                break
            if clock.monotonic() > until:
                raise DeskError("the script of Jaklet does not answer in KWin", LOGS)
            self.bus.call(SCRIPTING, "unloadScript", "s", self._name)
        if self._hears:
            self.ask([{"op": "hears", "args": [1]}])

    def _load(self) -> None:
        """Hand the script over; the file is of no use once it runs."""
        runtime = _runtime()
        text = agent_text() + files("jaklet.desktops.plasma").joinpath("kwin.js").read_text()
        text = text.replace("@SERVICE@", self.bus.name).replace("@NAME@", self._name)
        path = runtime / f"{self._name}.js"
        try:
            runtime.mkdir(mode=0o700, exist_ok=True)
            path.write_text(text)
            number = self.bus.call(SCRIPTING, "loadScript", "ss", str(path), self._name)
            if not isinstance(number, int) or number < 0:
                raise DeskError("KWin does not load the script of Jaklet", LOGS)
            self._run(number)
        except OSError as fault:
            raise DeskError(f"{path} cannot be written: {fault.strerror}", "see to that folder") from fault
        finally:
            with contextlib.suppress(OSError):
                path.unlink()

    def _run(self, number: int) -> None:
        """Run the script: `/N` in 5.27, `/Scripting/ScriptN` in 6, as its documentation says."""
        for path in (f"/{number}", f"/Scripting/Script{number}"):
            with contextlib.suppress(DeskError):
                self.bus.call(DBusAddress(path, KWIN, "org.kde.kwin.Script"), "run")
                return
        raise DeskError("KWin does not run the script of Jaklet", LOGS)

    def clean_up_after(self) -> None:
        """Let the script give back our chords should we end without doing so; that of a former listener goes first.

        Else that one would give back the chords of this listener, too.
        """
        self._hears = True
        path = _runtime() / HEARS
        with contextlib.suppress(OSError):
            former = path.read_text()
            if former != self._name:
                with contextlib.suppress(DeskError):
                    self.bus.call(SCRIPTING, "unloadScript", "s", former)
        with contextlib.suppress(OSError):
            path.write_text(self._name)
        self.ask([{"op": "hears", "args": [1]}])

    @property
    def due(self) -> float:
        """When something is to be done here at the latest; infinity for nothing."""
        return min(self._answer_by, super().due)

    def ask(self, requests: Sequence[dict[str, Any]]) -> int:
        """Hand over work, as soon as the script asks for it; return its number, which `state` has once it is done."""
        self.sent += 1
        self._work += requests
        self._hand_over()
        return self.sent

    def _hand_over(self) -> None:
        if self._asks is None:
            return
        work = {"requests": self._work, "serial": self.sent}
        self.bus.send(new_method_return(self._asks, "s", (json.dumps(work),)))
        self._forget()

    def _forget(self) -> None:
        self._asks, self._work, self._answer_by = None, [], float("inf")

    def take(self, seconds: float = 0.0) -> bool:
        """Take in what has come, and wait for it for so long at most; true if things are otherwise now."""
        news = super().take(seconds)
        if clock.monotonic() >= self._answer_by:
            self._hand_over()
        return news

    def _answered(self, message: Message) -> bool:
        if not is_call(message):
            return False
        if sender_of(message) != self.owner:  # nobody else is answered
            self.bus.send(new_error(message, "org.freedesktop.DBus.Error.AccessDenied"))
            return False
        match message.header.fields.get(HeaderFields.member):
            case "Next":
                self._asks, self._answer_by = message, clock.monotonic() + ANSWER
                if self._work:
                    self._hand_over()
            case "State":
                self.bus.send(new_method_return(message))
                self._take_state(json.loads(message.body[0]))
                return True
            case _:
                self.bus.send(new_error(message, "org.freedesktop.DBus.Error.UnknownMethod"))
        return False

    def _begin_again(self) -> bool:
        with contextlib.suppress(DeskError):
            self.bus.call(SCRIPTING, "unloadScript", "s", self._name)  # a try before may have come half the way
        return super()._begin_again()

    def number_of(self, uuid: str) -> int:
        """Return the first 32 bits of KWin's own id."""
        return int(uuid.strip("{}")[:8], 16)

    def title_of(self, title: str) -> str:
        """Return the title of a window without what KWin has put behind it."""
        return _OF_KWIN.sub("", title)

    def display_names(self) -> Mapping[tuple[int, int], str]:
        """Return the connectors of displays by their corners, as KWin's report has them: no script is told in 5.27."""
        report = str(self.bus.call(SUPPORT, "supportInformation"))
        return {(int(one["x"]), int(one["y"])): one["name"] for one in _OUTPUT.finditer(report)}

    def provide(self, workspaces: int) -> None:
        """Have this many workspaces: new ones come last, and the last ones go."""
        properties = DBusAddress(DESKTOPS.object_path, KWIN, "org.freedesktop.DBus.Properties")
        told = self.bus.call(properties, "Get", "ss", DESKTOPS.interface, "desktops")[1]
        there = [identity for _, identity, _ in sorted(told)]
        more = [
            Call(DESKTOPS, "createDesktop", "us", (number, f"{NEW} {number + 1}"))
            for number in range(len(there), workspaces)
        ]
        fewer = [Call(DESKTOPS, "removeDesktop", "s", (one,)) for one in reversed(there[workspaces:])]
        self.bus.call_all([*more, *fewer])

    def _end(self) -> None:
        self.bus.call(SCRIPTING, "unloadScript", "s", self._name)
        if self._hears:
            (_runtime() / HEARS).unlink(missing_ok=True)


def _runtime() -> Path:
    runtime = Path(os.environ.get("XDG_RUNTIME_DIR", "")) / "jaklet"
    if not runtime.is_absolute():
        raise DeskError("XDG_RUNTIME_DIR is not set", HOW)
    return runtime
