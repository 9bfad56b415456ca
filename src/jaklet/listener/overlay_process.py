"""The helper that shows things over the windows: a process of its own, which can end at any moment without harm.

The helper starts a while after the listener where some key shows something, else on first use. It connects to the
control socket. An open card has the whole keyboard, so the helper has to answer each key in time. One that does not, or
is gone, loses the keyboard.
"""

import contextlib
import os
import time
from collections.abc import Callable, Mapping
from typing import Any, Final, Protocol

from jaklet.core.keys.keymap import REST, KeymapState
from jaklet.core.keys.strokes import RELEASED, TypedKey
from jaklet.core.values.config import NEVER
from jaklet.core.values.desk import Desk
from jaklet.core.values.errors import JakletError
from jaklet.core.values.notices import Notice
from jaklet.core.values.orders import WALK, ShowView
from jaklet.core.values.snapshot import desk_data
from jaklet.listener.control import ControlClient, ControlServer
from jaklet.listener.rpc import notification

BEGIN: Final = 5.0  # seconds that a helper may take to begin
ANSWER: Final = 2.0  # seconds that it may take to show what is to be open, and to deal with a key
WARM: Final = 2.0  # seconds after the listener's begin in which the session has other things to do
LITTLE: Final = 2 << 30  # bytes; a machine with no more memory keeps it for programs until the helper is needed


class Process(Protocol):
    """A process that was started."""

    def poll(self) -> int | None:
        """Return its status once it has ended."""
        ...

    def kill(self) -> None:
        """End it."""
        ...

    def is_stopped(self) -> bool:
        """Return whether a signal has stopped it, so that it does nothing."""
        ...

    def wait(self, timeout: float | None = None) -> int:
        """Wait for its end."""
        ...


def _memory() -> int:
    """Return the memory of the machine in bytes (sysconf(3))."""
    return os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE")


class HelpedScreen:
    """Starts the helper and talks to it. `start`: None where nothing can be shown; `failed` is told why, once."""

    def __init__(self, start: Callable[[], Process] | None, failed: Callable[[str], None]) -> None:
        self._start, self._failed = start, failed
        self.control: ControlServer | None = None
        self._process: Process | None = None
        self._client: ControlClient | None = None
        self._waiting: list[bytes] = []  # what is said to a helper that has not come yet
        self._answer_by = self._begun_by = self._warm_at = NEVER
        self._asked = self._answered = 0  # of what has to be answered, how much was
        self._number = 0  # of what was opened last, among these
        self._then: list[Callable[[], None]] = []
        self._shown = REST
        self._held, self._hold_at = 0, NEVER  # the modifiers for which something is to be seen, and from when on
        self._held_on: Desk | None = None
        self._shows_held = False
        self._has_come = True  # the last helper that was started; what cannot begin is not tried for every line
        self.is_open = self._walks = False

    # --- the port ---

    def open(self, show: ShowView, desk: Desk) -> str:
        """Have something shown."""
        fault = self._needed()
        if fault:
            return fault
        self._number = self._asked + 1
        self.is_open, self._walks = True, show.view == WALK
        self._answer_by = (self._begun_by if self._client is None else time.monotonic()) + ANSWER
        self._ask(what="open", view=show.view, of=show.of, desk=desk_data(desk))
        return ""

    def key(self, typed: TypedKey) -> None:
        """Hand it a key; that no modifier is held any more, only what waits for that."""
        if typed == RELEASED and not self._walks:
            return
        if not self.busy:
            self._answer_by = time.monotonic() + ANSWER
        self._ask(what="key", key=typed.key, text=typed.text)

    @property
    def busy(self) -> bool:
        """True while it has not dealt with all that it was told and handed."""
        return self._answered < self._asked

    def settled(self, then: Callable[[], None]) -> None:
        """Call this once nothing is owed any more."""
        self._then.append(then)
        if not self.busy:
            self._settle()

    def close(self) -> None:
        """Have it closed."""
        if self.is_open:
            self.is_open = False
            self._tell(what="close")
            self._settle()

    # --- what is shown without being asked for ---

    @property
    def works(self) -> bool:
        """True if things can be shown, as far as is known."""
        return self._start is not None and self.control is not None and self._has_come

    def follow(self, state: KeymapState, desk: Desk) -> None:
        """Let it know which keys mean something now, where that has changed."""
        if state == self._shown:
            return
        self._shown = state
        if state != REST and (not self.works or self._needed()):
            return
        if self._process:
            begun = [str(chord) for chord in state.begun]
            self._tell(what="keys", layer=state.layer, begun=begun, desk=desk_data(desk) if state != REST else None)

    def hold(self, modifiers: int, desk: Desk, after: float = 0.0) -> None:
        """Take in that modifiers are held for which there is something to be seen; 0: no more, or a key came.

        It is told of only once they have been held for so many seconds: most are held for another key.
        """
        if modifiers == self._held:
            return
        self._held, self._hold_at = modifiers, time.monotonic() + after if modifiers else NEVER
        self._held_on = desk
        if not modifiers and self._shows_held:
            self._shows_held = False
            self._tell(what="hold", modifiers=0, desk=None)

    def _show_held(self) -> None:
        self._hold_at = NEVER
        if not self.is_open and self._held_on and self.works and not self._needed():
            self._shows_held = True
            self._tell(what="hold", modifiers=self._held, desk=desk_data(self._held_on))

    def walk(self, place: str, window: int, desk: Desk) -> None:
        """Let it show where a window goes next that is walked through the alternatives of a place."""
        if self.works and not self._needed():
            self._tell(what="walk", place=place, window=window, desk=desk_data(desk))

    def say(self, notice: Notice, desk: Desk) -> bool:
        """Have a line shown for a while; False if nothing can be."""
        if not self.works or self._needed():
            return False
        self._tell(what="say", text=notice.text, failed=notice.failed, topic=notice.topic, desk=desk_data(desk))
        return True

    def warm(self) -> None:
        """Start it in a while, as some key will need it: who presses that should not have to wait.

        On a machine with little memory it is started when it is first needed.
        """
        if self._start and self._process is None and _memory() > LITTLE:
            self._warm_at = time.monotonic() + WARM

    def reloaded(self, texts: Mapping[str, str]) -> None:
        """Let it go by another config. `texts`: what is in its files, by their whole paths."""
        if self._process:
            self._tell(what="config", files=dict(texts))

    # --- the helper ---

    def came(self) -> None:
        """Take the client whose request this is for the helper, and tell it what it has missed.

        Raises `JakletError` where none is waited for: who is told of keys is whom we have started, and nobody else.
        """
        client = self.control.now if self.control else None
        if self.control is None or client is None or self._process is None or self._client is not None:
            raise JakletError("no helper is waited for", "the listener starts one by itself")
        self._client, self._begun_by, self._has_come = client, NEVER, True
        client.kept = True
        waiting, self._waiting = self._waiting, []
        for line in waiting:
            self.control.send(client, line)

    def answered(self, asked: int) -> None:
        """Take in that it has dealt with what it was asked, up to this number."""
        self._answered = max(self._answered, min(asked, self._asked))
        if self.busy:
            self._answer_by = time.monotonic() + ANSWER
        else:
            self._settle()

    def closed(self, number: int) -> None:
        """Take in that what was opened as this is closed there: no key is owed, whatever it does besides."""
        if number == self._number:
            self.is_open = False
            self._settle()

    def _settle(self) -> None:
        """Nothing is owed any more: whoever waits for that goes on."""
        self._answered, self._answer_by = self._asked, NEVER
        waiting, self._then = self._then, []
        for then in waiting:
            then()

    @property
    def deadline(self) -> float:
        """When to `look` at the latest, on the monotonic clock."""
        return min(self._answer_by, self._begun_by, self._warm_at, self._hold_at)

    def look(self) -> bool:
        """Start it if it is time for that; take the keyboard from a helper that is gone, or does not answer.

        Returns whether it was lost.
        """
        now = time.monotonic()
        if now >= self._warm_at:
            self._warm_at = NEVER
            self._needed()
        if now >= self._hold_at:
            self._show_held()
        why = self._fault(now) if self._process else ""
        if why:
            self._lose(f"the helper that shows it {why}")
        return bool(why)

    def _fault(self, now: float) -> str:
        """Return the fault of the helper in words; empty where it has none."""
        assert self._process
        # Once it has come, its connection ends with it.
        has_ended = self._client.gone if self._client else self._process.poll() is not None
        if has_ended:
            return "has ended"
        if (self.is_open or self.busy) and self._process.is_stopped():
            return "is stopped"
        if now >= self._answer_by:
            return "does not answer"
        return "does not begin" if now >= self._begun_by else ""

    def end(self) -> None:
        """End the helper."""
        process, self._process = self._process, None
        if process:
            process.kill()
            with contextlib.suppress(Exception):
                process.wait(1)

    def _lose(self, why: str) -> None:
        was_open, self.is_open = self.is_open, False
        had_come, self._has_come = self._has_come, self._client is not None
        self.end()
        self._client, self._waiting, self._shown, self._shows_held = None, [], REST, False
        self._begun_by = NEVER
        self._settle()
        if was_open or (had_come and not self._has_come):
            self._failed(f"what was to be seen over the windows is not: {why}")

    def _needed(self) -> str:
        """Start the helper, if there is none; return why that cannot be, empty if it can."""
        if self._process is not None:
            return ""
        if self._start is None or self.control is None:
            return "nothing can be shown over the windows here"
        try:
            self._process = self._start()
        except OSError as fault:
            return f"what shows things over the windows cannot be started: {fault}"
        self._begun_by = time.monotonic() + BEGIN
        return ""

    def _ask(self, **params: Any) -> None:
        """Tell it something that it has to answer."""
        self._asked += 1
        self._tell(**params, number=self._asked)

    def _tell(self, **params: Any) -> None:
        line = notification("overlay", params)
        if self._client is None or self.control is None:
            self._waiting.append(line)
        else:
            self.control.send(self._client, line)
