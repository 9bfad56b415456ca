"""The script in KWin, and the conversation with it.

The script calls our connection by its unique name, which the bus gives to nobody else; calls are taken from KWin
alone. It asks for work (`Next`), and is answered once there is any, or with none after `ANSWER`: a call not answered
within the time of the bus is lost. It tells how things are (`State`) whenever they change.
"""

import contextlib
import json
import os
import time as clock
from collections.abc import Callable, Sequence
from importlib.resources import files
from pathlib import Path
from typing import Any, Final

from jeepney import DBusAddress, HeaderFields, Message, new_error, new_method_return

from jaklet.core.values.errors import DeskError
from jaklet.desktops.plasma.bus import HOW, PATIENCE, Bus, Call, is_call, is_signal, member_of, owner_of, sender_of

KWIN: Final = "org.kde.KWin"
SCRIPTING: Final = DBusAddress("/Scripting", KWIN, "org.kde.kwin.Scripting")
DESKTOPS: Final = DBusAddress("/VirtualDesktopManager", KWIN, "org.kde.KWin.VirtualDesktopManager")
NEW: Final = "Desktop"  # what a new workspace is called, with its number, as the system's settings do
SUPPORT: Final = DBusAddress("/KWin", KWIN, "org.kde.KWin")
ANSWER: Final = 15.0  # seconds; the bus forgets a call after 25
BEGINS: Final = 10.0  # seconds that a KWin may take until all of it is there
BETWEEN: Final = 0.2  # seconds between two tries
HEARS: Final = "hears"  # the file with the name of the script that takes away what a listener leaves behind
SECOND_TRY: Final = (
    1.0  # seconds in which a script that runs has told of the desk, of which most take some milliseconds
)
LOGS: Final = "see what it prints: journalctl --user"


class Agent:
    """The script at work.

    `state`: what it has told, the latest of each thing; `windows`: the same of each window, by its id there, in the
    order in which they opened; `changed`: which of them it has told of since somebody took that away.
    `begun_again`: called when KWin is another one than before.
    """

    def __init__(self, bus: Bus) -> None:
        self.bus = bus
        self._name = f"jaklet-{bus.name.strip(':').replace('.', '-')}"
        self._asks: Message | None = None  # the call that waits for work
        self._answer_by = float("inf")
        self._work: list[dict[str, Any]] = []
        self._hears = False
        self._is_other = False  # KWin, since the script was loaded
        self._again_at = self._again_by = 0.0  # when that is tried again, and until when
        self.sent = 0  # the number of the last work that was handed over, or waits to be
        self.state: dict[str, Any] = {}
        self.windows: dict[str, dict[str, Any]] = {}
        self.changed: dict[str, None] = {}
        self.begun_again: list[Callable[[], None]] = []
        self._kwin = owner_of(bus, KWIN)
        bus.others.append(self._taken)
        bus.follow_owner(KWIN)
        self._load()

    @classmethod
    def start(cls) -> "Agent":
        """Begin; raises `DeskError` where there is no KWin, or it does not answer."""
        bus = Bus.open()
        try:
            return cls(bus)
        except BaseException:
            bus.close()
            raise

    def _load(self) -> None:
        """Let KWin run the script. Raises `DeskError`.

        KWin numbers scripts by how many there are. While one that a former listener has left behind goes away, two can
        have one number, and the first of them is run instead: then ours is loaded anew.
        """
        until = clock.monotonic() + PATIENCE
        while True:
            self._load_once()
            again = clock.monotonic() + SECOND_TRY
            while not self.state and clock.monotonic() < again:
                self.bus.take(0.1)
            if self.state:
                return
            if clock.monotonic() > until:
                raise DeskError("the script of Jaklet does not answer in KWin", LOGS)
            self.bus.call(SCRIPTING, "unloadScript", "s", self._name)

    def _load_once(self) -> None:
        """Hand the script over; the file is of no use once it runs."""
        runtime = _runtime()
        text = files("jaklet.desktops.plasma").joinpath("agent.js").read_text()
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
        return min(self._answer_by, self._again_at if self._is_other and self._kwin else float("inf"))

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
        self._asks, self._work, self._answer_by = None, [], float("inf")

    def take(self, seconds: float = 0.0) -> bool:
        """Take in what has come, and wait for it for so long at most; true if things are otherwise now."""
        news = self.bus.take(seconds)
        if self._is_other and self._kwin and clock.monotonic() >= self._again_at:
            news |= self._begin_again()
        if clock.monotonic() >= self._answer_by:
            self._hand_over()
        return news

    def _taken(self, message: Message) -> bool:
        if is_signal(message) and member_of(message) == "NameOwnerChanged" and message.body[0] == KWIN:
            self._kwin, self._is_other = str(message.body[2]), True  # not loaded here: somebody may wait for an answer
            self._again_at, self._again_by = 0.0, clock.monotonic() + BEGINS
            return False
        if not is_call(message):
            return False
        if sender_of(message) != self._kwin:  # nobody else is answered
            self.bus.send(new_error(message, "org.freedesktop.DBus.Error.AccessDenied"))
            return False
        match message.header.fields.get(HeaderFields.member):
            case "Next":
                self._asks, self._answer_by = message, clock.monotonic() + ANSWER
                if self._work:
                    self._hand_over()
            case "State":
                self.bus.send(new_method_return(message))
                self._told(json.loads(message.body[0]))
                return True
            case _:
                self.bus.send(new_error(message, "org.freedesktop.DBus.Error.UnknownMethod"))
        return False

    def _told(self, news: dict[str, Any]) -> None:
        for one in news.pop("windows"):
            self.windows[one["id"]] = one
            self.changed[one["id"]] = None
        for gone in news.pop("gone"):
            self.windows.pop(gone, None)
            self.changed[gone] = None
        self.state = self.state | news

    def _begin_again(self) -> bool:
        """Begin with the KWin that has come; while there was none, things stayed as they were told last.

        It has its name before all of it is there: so this may take some tries. Raises `DeskError` after the last one.
        """
        try:
            self._load_again()
        except DeskError:
            if clock.monotonic() > self._again_by:
                raise
            self._again_at = clock.monotonic() + BETWEEN
            return False
        self._is_other = False
        return True

    def _load_again(self) -> None:
        former = self.state, self.windows
        self._asks, self._work, self._answer_by = None, [], float("inf")
        self.state, self.windows, self.sent = {}, {}, 0
        try:
            self.bus.call(SCRIPTING, "unloadScript", "s", self._name)  # a try before may have come half the way
            self._load()
        except DeskError:
            self.state, self.windows = former
            raise
        self.changed |= dict.fromkeys(former[1])
        if self._hears:
            self.ask([{"op": "hears", "args": [1]}])
        for each in self.begun_again:
            each()

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

    def support(self) -> str:
        """Return KWin's support information; names, places and scales of its outputs are in it."""
        return str(self.bus.call(SUPPORT, "supportInformation"))

    def close(self) -> None:
        """Take the script away."""
        with contextlib.suppress(DeskError, OSError):
            self.bus.call(SCRIPTING, "unloadScript", "s", self._name)
            if self._hears:
                (_runtime() / HEARS).unlink(missing_ok=True)
        self.bus.close()


def _runtime() -> Path:
    runtime = Path(os.environ.get("XDG_RUNTIME_DIR", "")) / "jaklet"
    if not runtime.is_absolute():
        raise DeskError("XDG_RUNTIME_DIR is not set", HOW)
    return runtime
