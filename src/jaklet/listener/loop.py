"""The event loop of a real desk: chords in, actions out; reload on request; a clean end."""

import contextlib
import gc
import os
import signal
from collections.abc import Callable
from pathlib import Path
from typing import Any, Final, NamedTuple

from jaklet.core.config import Config
from jaklet.core.errors import JakletError
from jaklet.core.keys.chords import Chord, Keys, keys_written
from jaklet.core.keys.keymap import ESCAPE, NOTHING
from jaklet.core.ports import ChordDesktop, History, Refusal, Shelf
from jaklet.core.sentences import Action
from jaklet.core.tasks import Outcome
from jaklet.core.words import counted, printable
from jaklet.listener.control import ControlServer, socket_path
from jaklet.listener.session import Session

YOUNG: Final = 5000  # objects more than at the last collection, which the automatic one would take at 700
OLD: Final = 20  # collections of the young before all is looked through
STOP: Final = (signal.SIGTERM, signal.SIGINT)


class Loaded(NamedTuple):
    """A config that was read and checked: None if it has errors, and what was found, in lines."""

    config: Config | None
    lines: tuple[str, ...]


class Listener:
    """Hears chords on one desk and does what they are bound to."""

    def __init__(
        self,
        desktop: ChordDesktop,
        desk_name: str,
        config_path: Path,
        config: Config,
        shelf: Shelf,
        load: Callable[[], Loaded],
        tell: Callable[[str], None],
        history: History | None = None,
    ) -> None:
        self._desktop = desktop
        self._name = desk_name
        self._config_path = config_path
        self._load = load
        self._tell = tell
        self._session = Session(desktop, config, shelf, self._ended, history)
        self._stopping = False
        self._hearing = NOTHING
        self._refused: dict[Chord | None, str] = {}
        path = socket_path(desk_name)
        methods = {"reload": self.reload, "status": self.status}
        self._control = ControlServer(path, methods) if path else None
        if path is None:
            tell("XDG_RUNTIME_DIR is not set, so `jaklet reload` cannot reach this listener; kill -HUP does")

    def run(self) -> None:
        """Listen until told to stop."""
        with _signals() as (wake, came):
            self._tell(f"listening on {self._name}: {self._grab()}")
            while not self._stopping:
                self._desktop.watch([wake, *(self._control.descriptors() if self._control else ())])
                moment = self._desktop.wait(self._session.deadline)
                for event in self._desktop.key_events():
                    passed = self._session.key(event, moment)
                    if event.waits:
                        self._desktop.answer(passed)
                    moment = self._desktop.look()
                    self._follow()
                self._session.step(moment)
                self._follow()
                self._report_lost()
                for number in came():
                    self._signal(number)
                if self._control:
                    self._control.serve()
                self._session.prepare(self._desktop.look())
                _tidy()
            self._desktop.grab(NOTHING)
            self._tell("stopped: all chords are free again")

    def close(self) -> None:
        """Take the control socket away."""
        if self._control:
            self._control.close()

    def _signal(self, number: int) -> None:
        if number in STOP:
            self._stopping = True
        elif number == signal.SIGHUP:
            self.reload()

    def reload(self) -> dict[str, Any]:
        """Read and check the config again; with errors, the old one stays. Return what came of it."""
        try:
            loaded = self._load()
        except JakletError as fault:  # the file itself may be gone, as between an editor's delete and its rename
            loaded = Loaded(None, (f"{fault.message}; {fault.remedy}",))
        lines = list(loaded.lines)
        if loaded.config is None:
            lines.append("the old config stays in use")
        else:
            self._session.config = loaded.config
            lines.append(f"reloaded: {self._grab(lines)}")
        for line in lines:
            self._tell(line)
        return {"done": loaded.config is not None, "lines": lines}

    def status(self) -> dict[str, Any]:
        """Return what a client may want to know of this listener."""
        return {
            "pid": os.getpid(),
            "desk": self._name,
            "config": str(self._config_path),
            "layer": self._session.layer,
            "chords": [str(chord) for chord in sorted(self._session.chords) if chord not in self._refused],
            "refused": {str(chord): reason for chord, reason in self._refused.items()},
            "bindings": [binding.described for binding in self._session.config.live],
        }

    def _grab(self, lines: list[str] | None = None) -> str:
        """Grab all chords that begin something; report those that cannot be, and return how many bindings work."""
        refusals = self._hear()
        for refusal in refusals:
            if lines is None:
                self._tell(_told(refusal))
            else:
                lines.append(_told(refusal))
        live = self._session.config.live
        self._refused = refused = {refusal.chord: refusal.reason for refusal in refusals}
        # A layer takes the whole keyboard while it is on, so that nobody else can hold its keys.
        working = sum(bool(binding.layer) or binding.keys[0] not in refused for binding in live)
        return f"{working} of {counted(len(live), 'binding')}" if refusals else counted(working, "binding")

    def _hear(self) -> list[Refusal]:
        """Grab the keys that mean something now."""
        self._hearing = self._session.hearing
        return self._desktop.grab(self._hearing)

    def _follow(self) -> None:
        """Hear the keys of a layer, or the next ones of a sequence, while it is under way, and no longer."""
        if self._session.hearing is self._hearing:
            return
        for refusal in self._hear():
            if refusal.chord is None:
                self._tell(f"layer {self._session.layer} is left: {refusal.reason}")
                self._session.leave()
                self._hear()
                return
            if refusal.chord != ESCAPE:  # without it, time still ends the sequence
                self._tell(_told(refusal))

    def _report_lost(self) -> None:
        for refusal in self._desktop.lost():
            self._tell(_told(refusal))

    def _ended(self, keys: Keys, action: Action, outcome: Outcome) -> None:
        written = keys_written(keys) or action.verb
        plain = outcome.done or not keys
        self._tell(printable(f"{written}: {outcome.line}" if plain else f"{written}: {action}: {outcome.line}"))
        for line in outcome.more:
            self._tell(f"  {printable(line)}")


def _tidy() -> None:
    """Collect garbage between two keys, as the interpreter would do it in the middle of one (5 ms with 200 windows)."""
    young, _, old = gc.get_count()
    if young > YOUNG:
        gc.collect(2 if old > OLD else 1)


def _told(refusal: Refusal) -> str:
    return f"{refusal.chord} cannot be used: {refusal.reason}"


@contextlib.contextmanager
def _signals() -> Any:
    """Turn signals into a descriptor to watch, and a call that returns those that came."""
    read, write = os.pipe()
    os.set_blocking(read, False)
    os.set_blocking(write, False)
    handled = (*STOP, signal.SIGHUP)
    before = {number: signal.signal(number, lambda *_: None) for number in handled}
    former = signal.set_wakeup_fd(write, warn_on_full_buffer=False)

    def came() -> bytes:
        try:
            return os.read(read, 64)
        except BlockingIOError:
            return b""

    try:
        yield read, came
    finally:
        signal.set_wakeup_fd(former)
        for number, handler in before.items():
            signal.signal(number, handler)
        os.close(read)
        os.close(write)
