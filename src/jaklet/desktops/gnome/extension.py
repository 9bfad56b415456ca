"""The conversation with our extension in GNOME Shell.

It is an object on the session bus, behind the shell's own connection. Requests are calls of methods (`Do`), and a
question is one with an answer (`Ask`); how things are (`State`) and keys (`Heard`) come as signals that go to our
connection alone.
"""

import json
from collections.abc import Mapping, Sequence
from typing import Any, Final

from jeepney import DBusAddress, Message, MessageFlag, new_method_call

from jaklet.core.values.errors import DeskError
from jaklet.desktops.compositor.agent import NEVER, Agent
from jaklet.desktops.compositor.bus import Bus, is_signal, member_of, sender_of
from jaklet.desktops.gnome.set_up import VERSION, remedy

SHELL: Final = "org.gnome.Shell"
DESK: Final = DBusAddress("/org/jaklet/Desk", SHELL, "org.jaklet.Desk")
DISPLAYS: Final = DBusAddress(
    "/org/gnome/Mutter/DisplayConfig", "org.gnome.Mutter.DisplayConfig", "org.gnome.Mutter.DisplayConfig"
)
BUTTONS: Final = 0x1F00  # of a state (Clutter.ModifierType)
PHYSICAL: Final = 2  # a layout-mode of those
IDLE: Final = DBusAddress(
    "/org/gnome/Mutter/IdleMonitor/Core", "org.gnome.Mutter.IdleMonitor", "org.gnome.Mutter.IdleMonitor"
)


class GnomeExtension(Agent):
    """The extension at work. `heard`: keys, chords and clicks since somebody took them away."""

    service, name = SHELL, "GNOME Shell"

    def __init__(self, bus: Bus) -> None:
        self.heard: list[dict[str, Any]] = []
        super().__init__(bus)

    def _begin(self) -> None:
        self.bus.follow(interface=DESK.interface or "", path=DESK.object_path, sender=SHELL)
        try:
            told = json.loads(self.bus.call(DESK, "Open"))
        except DeskError as fault:
            if "Refused" in fault.message:
                raise DeskError(
                    "the extension of Jaklet answers another program alone", "jaklet set-up gnome"
                ) from fault
            raise DeskError("the extension of Jaklet is not there in GNOME Shell", remedy()) from fault
        version = str(told["version"])
        if version != VERSION:
            raise DeskError(
                f"the extension of Jaklet in GNOME Shell is of version {version}, and this is {VERSION}", remedy()
            )
        self._take_state(told["state"])

    def _forget(self) -> None:
        self.heard.clear()

    def ask(self, requests: Sequence[dict[str, Any]]) -> int:
        """Hand over work; return its number, which `state` has once it is done."""
        self.sent += 1
        work = json.dumps({"requests": list(requests), "serial": self.sent})
        message = new_method_call(DESK, "Do", "s", (work,))
        message.header.flags |= MessageFlag.no_auto_start | MessageFlag.no_reply_expected
        self.bus.send(message)
        return self.sent

    def question(self, what: str, **given: object) -> Any:
        """Return the extension's answer to a question, None while it is not there; raises `DeskError`."""
        if self._is_other:
            return None
        try:
            return json.loads(self.bus.call(DESK, "Ask", "s", json.dumps({"ask": what, **given})))
        except DeskError as fault:
            if "Refused" in fault.message:
                raise
            return None  # it went before it said so

    def _answered(self, message: Message) -> bool:
        if not is_signal(message) or sender_of(message) != self.owner:
            return False
        match member_of(message):
            case "State":
                self._take_state(json.loads(message.body[0]))
                return True
            case "Heard":
                self.heard.append(json.loads(message.body[0]))
                self.bus.is_urgent = True
                return True
            case "Ended":  # disabled, or the screen is locked: it says so when it is there again
                self._is_other, self._again_at = True, NEVER
            case "Began":
                self.is_to_begin_again()
        return False

    def number_of(self, uuid: str) -> int:
        """Return the number of a window, which the shell counts up from its start."""
        return int(uuid)

    def title_of(self, title: str) -> str:
        """Return the title as it is."""
        return title

    def display_names(self) -> Mapping[tuple[int, int], str]:
        """Return the connectors of displays by their corners (org.gnome.Mutter.DisplayConfig, GetCurrentState)."""
        _serial, _monitors, logical, _properties = self.bus.call(DISPLAYS, "GetCurrentState")
        return {(one[0], one[1]): one[5][0][0] for one in logical if one[5]}

    def scales(self) -> tuple[Mapping[tuple[int, int], float], bool]:
        """Return the scales of displays by their corners, and whether the shell enlarges all that is shown by them.

        It does so where its pixels are logical ones (layout-mode 1 of org.gnome.Mutter.DisplayConfig).
        """
        _serial, _monitors, logical, properties = self.bus.call(DISPLAYS, "GetCurrentState")
        is_enlarged = properties.get("layout-mode", ("u", PHYSICAL))[1] != PHYSICAL
        return {(one[0], one[1]): float(one[2]) for one in logical}, is_enlarged

    def provide(self, workspaces: int) -> None:
        """Have this many workspaces: new ones come last, and the last ones go."""
        self.ask([{"op": "provide", "args": [workspaces]}])

    def pointer(self) -> tuple[int, int, bool]:
        """Return where the pointer is, and whether one of its buttons is down; raises `DeskError`."""
        x, y, state = self.question("pointer") or (0, 0, 0)
        return int(x), int(y), bool(state & BUTTONS)

    def idle(self) -> float:
        """Return for how long keyboard and pointer were not used, in seconds; raises `DeskError`."""
        return float(self.bus.call(IDLE, "GetIdletime")) / 1000

    def _end(self) -> None:
        self.bus.call(DESK, "Close")
