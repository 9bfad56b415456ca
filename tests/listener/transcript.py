"""A whole listener on a tabletop, without a server: commands to it, and what it says, as a transcript.

    > tap super+b
    super+b: berths (Berth board) is launched and in front

A line with `>` is done; the lines under it are all that the listener says then. Each takes a second of its time.
"""

import json
import socket
from collections.abc import Iterable
from pathlib import Path

from jaklet.checks.run import check_config
from jaklet.config.paths import locate_config
from jaklet.core.actions.ports.chord_source import KeyEdge
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.values.chords import MODIFIERS, parse_chord
from jaklet.core.values.errors import DeskError
from jaklet.core.values.notices import Notice
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.desktops.tabletop.room import Room
from jaklet.drawing.findings import finding_line
from jaklet.installed.programs import InstalledPrograms
from jaklet.listener.loop import ListenerLoop, ListenerPorts, Workplace, tidy
from jaklet.listener.reload import ConfigSource, LoadedConfig
from jaklet.listener.worker import InlineWorker
from jaklet.locations import socket_path
from jaklet.rehearsal.memory import DraftLayouts, RehearsedHistory
from tests.core.test_recall import Shelf, office

LEAST, STROKE = 1.0, 0.01  # seconds that pass with each command, and while a key goes down
MOST_ROUNDS = 500


class Clocked(Tabletop):
    """A tabletop whose time goes on as far as it is let, and which can go away."""

    def __init__(self, room: Room) -> None:
        super().__init__(room)
        self.limit, self.gone = 0.0, False
        self._last: Moment | None = None

    def look(self) -> Moment:
        """Return the same picture as long as it is the same, as a real desk does."""
        moment = super().look()
        if self._last and self._last.desk == moment.desk:
            moment = moment._replace(desk=self._last.desk)
        self._last = moment
        return moment

    def wait(self, until: float) -> Moment:
        if self.gone:
            raise DeskError("the X server has gone away", "start Jaklet again when it is back")
        return super().wait(min(until, self.limit))


class Files:
    """What tells of changes to the config's files, by hand."""

    descriptor = 0

    def __init__(self) -> None:
        self.news = False

    def follow(self, files: Iterable[Path]) -> None:
        assert [*files]

    def changed(self) -> bool:
        news, self.news = self.news, False
        return news


class Scripted:
    """Plays a transcript. `run` returns it as it really went."""

    def __init__(self, folder: Path, text: str) -> None:
        self.path, self.said, self.shown = folder / "jaklet.yaml", list[str](), list[Notice]()
        self.path.write_text(text)
        self.files, self.room = Files(), office().copy()
        self.desktop, self.clients = Clocked(self.room), list[socket.socket]()
        self.keys = self.desktop.keyboard

    def load(self) -> LoadedConfig:
        result = check_config(locate_config(str(self.path)), InstalledPrograms(self.room.programs, self.room.entries()))
        lines = tuple(finding_line(one).partition("jaklet.yaml")[2] for one in result.findings)
        return LoadedConfig(result.config if result.usable else None, lines, (self.path,))

    def start(self) -> None:
        place = Workplace(self.desktop, self.keys, "quay", DraftLayouts(Shelf()), RehearsedHistory())
        outside = ListenerPorts(
            self.said.append,
            self.shown.append,
            lambda desk, _config: {"windows": len(desk.windows)},
            beside=InlineWorker(),
        )
        self.listener = ListenerLoop(place, ConfigSource(self.path, self.load, self.files), self.load(), outside)
        self.listener.begin([])

    def close(self) -> None:
        for client in self.clients:
            client.close()
        self.listener.close()

    def run(self, transcript: str) -> str:
        lines = []
        for line in transcript.strip().splitlines():
            if not line.startswith("> "):
                continue
            self.said.clear()
            verb, _, rest = line[2:].partition(" ")
            told = getattr(self, f"do_{verb}")(rest)
            plain = [one for one in self.said if not one.startswith("  ")]  # a traceback has paths in it
            lines += [line, *plain, *([told] if told else [])]
        return "\n".join(lines)

    def turn(self, seconds: float = LEAST) -> None:
        """Let the listener go round until it has nothing more to do in this time."""
        self.desktop.limit = self.room.now + seconds
        for _ in range(MOST_ROUNDS):
            before = self.room.now
            self.listener.round()
            tidy()
            waits = [self.listener.session.deadline, self.listener.config_files.deadline]
            waits += [opening.at for opening in self.room.openings]
            if self.room.now == before and min(waits) > self.desktop.limit:
                break
        else:
            raise AssertionError("it never comes to rest")
        self.room.now = max(self.room.now, self.desktop.limit)

    def strike(self, text: str, *edges: KeyEdge) -> None:
        for part in text.split():
            for edge in edges:
                self.keys.strike(parse_chord(part), edge)
                self.turn(STROKE if edge is KeyEdge.PRESS else LEAST)

    # --- what can be done ---

    def do_start(self, lacking: str) -> None:
        self.room.abilities -= {one for one in self.room.abilities if one.word in lacking.split(", ")}
        self.start()

    def do_tap(self, text: str) -> None:
        self.strike(text, KeyEdge.PRESS, KeyEdge.RELEASE)

    def do_hold(self, text: str) -> None:
        self.strike(text, KeyEdge.PRESS)

    def do_repeat(self, text: str) -> None:
        self.strike(text, KeyEdge.REPEAT)

    def do_release(self, text: str) -> None:
        self.strike(text, KeyEdge.RELEASE)

    def do_pass(self, text: str) -> None:
        self.turn(float(text.removesuffix("s")))

    def do_passed(self, _: str) -> str:
        """Tell the keys that went to programs since this was asked last."""
        passed, self.keys.passed = self.keys.passed, []
        return " ".join(str(one) for one in passed)

    def do_lose(self, text: str) -> None:
        self.keys.lose(parse_chord(text), "it waited too long to be judged, and went to the program in front")
        self.turn()

    def do_take(self, text: str) -> None:
        chord, _, owner = text.partition(" for ")
        if chord in MODIFIERS:
            self.keys.take_modifier(chord, owner)
        else:
            self.keys.take(parse_chord(chord), owner)
        self.turn()

    def do_agree(self, _: str) -> None:
        self.keys.agree()
        self.turn()

    def do_slow(self, text: str) -> None:
        """Let a program take so long to show its window."""
        name, takes = text.split()
        self.room.programs = {
            **self.room.programs,
            name: self.room.programs[name]._replace(takes=float(takes.removesuffix("s"))),
        }

    def do_fails(self, name: str) -> None:
        """Let a program end with an error, and show nothing."""
        self.room.programs = {**self.room.programs, name: self.room.programs[name]._replace(fails=3)}

    def do_write(self, text: str) -> None:
        """Write the config, and tell nobody."""
        self.path.write_text(text.replace("; ", "\n"))

    def do_edit(self, text: str) -> None:
        """Write the config where it is watched."""
        self.do_write(text)
        self.files.news = True
        self.turn(0)

    def do_reload(self, _: str) -> None:
        self.listener.reload()
        self.turn()

    def do_user(self, text: str) -> None:
        """Do to the desk what somebody else does."""
        what, _, name = text.partition(" ")
        if what == "opens":
            self.room.add(self.room.programs[name])
        elif what == "closes":
            self.room._remove(next(wid for wid, one in self.room.standing.items() if one.program == name))
        else:
            self.room._activate(next(wid for wid, one in self.room.standing.items() if one.program == name))
        self.turn()

    def do_connect(self, _: str) -> None:
        path = socket_path("quay")
        assert path
        client = socket.socket(socket.AF_UNIX)
        client.connect(str(path))
        client.setblocking(False)
        self.clients.append(client)

    def do_ask(self, text: str) -> str:
        """Ask by the first client: a method and its parameters; tell the answer and what came before it."""
        method, _, params = text.partition(" ")
        asked = {"jsonrpc": "2.0", "id": 1, "method": method, "params": json.loads(params or "{}")}
        self.clients[0].sendall(json.dumps(asked).encode() + b"\n")
        self.turn(0)
        self.turn()
        return self.do_hear("")

    def do_hear(self, _: str) -> str:
        """Tell what has come to the first client."""
        try:
            data = self.clients[0].recv(1 << 20)
        except BlockingIOError:
            return ""
        found = []
        for one in (json.loads(line) for line in data.splitlines()):
            told = one.get("params") or one.get("result") or one.get("error")
            kept = {key: value for key, value in told.items() if key not in ("at", "seconds", "code", "pid", "since")}
            found.append(json.dumps(kept, sort_keys=True))
        return "\n".join(found)

    def do_shown(self, _: str) -> str:
        """Tell the notices that were shown on the desktop since this was asked last."""
        shown, self.shown[:] = [("failed: " if one.failed else "") + one.text for one in self.shown], []
        return "\n".join(shown)

    def do_state(self, _: str) -> str:
        status = self.listener.status()
        told = ("layer", "paused", "under_way", "refused", "keyboard")
        return ", ".join(f"{key} {status[key]}" for key in told if status[key])

    def do_goes(self, _: str) -> str:
        self.desktop.gone = True
        try:
            self.listener.round()
        except DeskError as fault:
            return f"ended: {fault.message}"
        return "nothing"

    def do_break(self, what: str) -> None:
        """Let a thing of the listener's own fail."""

        def broken(*_: object) -> None:
            raise ZeroDivisionError("of all things")

        if what == "keys":
            self.listener.session.key = broken  # type: ignore[method-assign,assignment]
        else:
            self.listener._desktop.look = broken  # type: ignore[method-assign,assignment]

    def do_end(self, _: str) -> None:
        self.listener.end()
