"""The X11 desk behind the port `core.actions.ports.desktop.Desktop`."""

import contextlib
import os
import select
import time as clock
from collections.abc import Callable, Iterable, Mapping
from itertools import chain
from pathlib import Path
from typing import Any, Final

import xcffib
import xcffib.xproto as xp

from jaklet.core.actions.ports.desktop import NONE_FAILED, Moment
from jaklet.core.actions.tasks import patience
from jaklet.core.values.changes import Change, Focus, Kill, Launch, Move, Press, Reshape, Shell
from jaklet.core.values.desk import Desk, WindowShape
from jaklet.core.values.desk_abilities import Abilities
from jaklet.core.values.errors import DeskError
from jaklet.core.values.geometry import Insets
from jaklet.desktops.learned_ways import LearnedWays
from jaklet.desktops.processes import PROGRAMS, Processes
from jaklet.desktops.x11.abilities import abilities_of
from jaklet.desktops.x11.chord_source import X11Chords
from jaklet.desktops.x11.event_stream import server_gone
from jaklet.desktops.x11.fixed_requests import GONE
from jaklet.desktops.x11.killing import kill_process
from jaklet.desktops.x11.ladders import RequestContext, RequestLadders
from jaklet.desktops.x11.mirror import Mirror
from jaklet.desktops.x11.requests import calm
from jaklet.desktops.x11.typist import Typist
from jaklet.desktops.x11.wire import Wire

QUIET: Final = 0.05  # seconds without an event, after the window manager has dealt with all, until the desk is settled
# The same after a window was fullscreen: its frame comes back when the manager has nothing else to do.
REFRAMED: Final = 0.2
NO_ANSWER: Final = 0.5  # the same, where it is not known whether the window manager gives such an answer
MOST_WIDE: Final = 1000  # the width that a probe asks for: another one each time
RESTLESS: Final = 0.8  # seconds after the window manager's last answer in which a desk can come to rest; else it stands
READS: Final = 0.02  # seconds for which what has changed is asked for at the latest, while the manager is at work
PROBES: Final = 8  # barriers that can be told apart: a window for each
_NEEDED: Final = ("_NET_ACTIVE_WINDOW", "_NET_CLIENT_LIST")


class X11Desktop:
    """A real desk. Its clock is the system's monotonic one.

    A barrier tells when the window manager has handled our requests, as it answers in order. It has to answer the
    client message _NET_REQUEST_FRAME_EXTENTS on an unmapped window of ours with a property that we can see. A manager
    that does not know the message has to grant such a window the size that it asks for (ICCCM 4.1.5), which we see as
    well. That answer is the barrier; a short quiet time after it lets the manager finish what it put off.
    """

    def __init__(self, wire: Wire, supported: frozenset[int], state: Callable[[], Path] | None = None) -> None:
        self._wire = wire
        self._state = state
        self._processes = Processes((lambda: state() / PROGRAMS) if state else None)
        self.chords = X11Chords(wire)
        self._mirror = Mirror(wire, self._launched_for)
        self._manage(supported)
        self._typist: Typist | None = None
        self._watched: frozenset[int] = frozenset()
        self._held: list[Any] = []  # events that came while the server's time was asked for
        self._sent = self._answered = 0  # barriers: the last one sent, and the last one answered
        self._read_by = float("inf")  # when the mirror, which is behind, is to be brought up to date
        self._settle_at: float | None = None
        self._quiet = QUIET
        self._rest_by = 0.0  # when the desk is taken as it is, whatever goes on on it
        self._marked: set[int] | None = None  # the windows that asked for attention before anything was asked
        self._calmed: set[int] = set()  # those that were asked to do so no longer, and may not know yet
        self._probes = [wire.connection.generate_id() for _ in range(PROBES)]
        for probe in self._probes:
            mask = xp.EventMask.PropertyChange | xp.EventMask.StructureNotify
            wire.core.CreateWindow(
                0, probe, wire.root, -1, -1, 1, 1, 0, xp.WindowClass.InputOutput, 0, xp.CW.EventMask, [mask]
            )
        self._mirror.listen()
        self._refresh()

    @classmethod
    def connect(cls, display: str | None = None, state: Callable[[], Path] | None = None) -> "X11Desktop":
        """Return the desk of an X server; raises `DeskError`. `state`: the folder for what is to last."""
        wire = Wire(display)
        supported = frozenset(wire.words(wire.root, "_NET_SUPPORTED") if wire.has_manager() else ())
        if not supported:
            raise DeskError(
                "no window manager that follows EWMH is running on this X server", "start one, then try again"
            )
        missing = [name for name in _NEEDED if wire.atoms[name] not in supported]
        if missing:
            raise DeskError(f"this window manager lacks {', '.join(missing)} of EWMH", "Jaklet cannot work with it")
        return cls(wire, supported, state)

    def _manage(self, supported: frozenset[int]) -> None:
        """Take in what the window manager says of itself. `supported`: what it lists in _NET_SUPPORTED."""
        wire = self._wire

        def supports(atom: str) -> bool:
            return wire.atoms[atom] in supported

        self._has_extents = self._answers = supports("_NET_REQUEST_FRAME_EXTENTS")
        self._tells_extents = False  # until it has done so
        self.abilities: Abilities = self.chords.abilities | abilities_of(supports, wire.has_extension)
        manager = next(iter(wire.words(wire.root, "_NET_SUPPORTING_WM_CHECK")), 0)
        self._mirror.managed(manager, self.abilities, supports("_NET_WM_STATE_HIDDEN"))
        known = LearnedWays(self._state, wire.manager_version) if self._state else None
        self._ladders = RequestLadders(supports, known.all, known.keep) if known else RequestLadders(supports)

    def look(self) -> Moment:
        """Return the desk as it is now."""
        settled = self._sent == self._answered and self._settle_at is None
        programs, typist = self._processes, self._typist
        pressing, unpressed = (typist.under_way, typist.failed) if typist else ((), NONE_FAILED)
        desk, now = self._mirror.desk(), clock.monotonic()
        return Moment(desk, now, settled, tuple(programs.ended), programs.said, pressing, unpressed)

    def _launched_for(self, startup_id: str, pid: int) -> str:
        return self._processes.shown_by(startup_id, pid) if self._processes.awaits_windows else ""

    def apply(self, changes: Iterable[Change], time: int = 0) -> None:
        """Send the requests, all that fit in one write, and begin to wait for the window manager."""
        changes = tuple(changes)
        desk, pending = self._mirror.desk(), self._mirror.pending
        barrier = self._sent + 1
        self._quiet = REFRAMED if any(_reframes(change, desk) for change in changes) else QUIET
        for change in changes:
            if isinstance(change, Launch):
                time = time or self._server_time()
                self._processes.launch(change, time)
                continue
            if isinstance(change, Shell):
                self._processes.shell(change)
                continue
            if isinstance(change, Press):
                self._typing().begin(change)
                continue
            if isinstance(change, Kill) and not kill_process(self._mirror.pid(change.window), self._wire):
                continue
            if isinstance(change, Focus):
                time = time or self._server_time()
                pending.ask_focus(change, barrier)
            if isinstance(change, Move):
                pending.ask_frame(change.window, change.frame, barrier)
            if self._ladders.is_activating(change):
                time = time or self._server_time()
            passing = self._ladders.ask(change, self._asking(desk, time))
            self._pass_through(passing, barrier)
        self._barrier(patience(changes))
        if self._marked is None:  # no event of it has been taken in yet
            self._marked = self._mirror.marked() - self._calmed

    def _asking(self, desk: Desk, time: int) -> RequestContext:
        front = self._mirror.pending.aimed or desk.active
        return RequestContext(self._wire, desk, time, front, self._mirror.edges, self._mirror.gravity)

    def _pass_through(self, windows: Iterable[int], barrier: int) -> None:
        """Note windows that become active on the way to something else: nobody has used them."""
        for wid in windows:
            self._mirror.pending.ask_focus(Focus(wid, walking=True), barrier)

    def _barrier(self, seconds: float) -> None:
        """Send what was asked, and behind it what the manager answers; wait for that, and for so long at most."""
        wire = self._wire
        wire.flush()  # what the user waits for goes out first, the barrier behind it
        self._sent += 1
        probe = self._probes[self._sent % PROBES]
        if self._has_extents:
            wire.tell_manager(probe, "_NET_REQUEST_FRAME_EXTENTS", ())
        if not self._tells_extents:  # some list it, and never answer
            wire.core.ConfigureWindow(probe, xp.ConfigWindow.Width, [2 + self._sent % MOST_WIDE])
        wire.flush()
        # A manager that is hung, or has been replaced, is not waited for longer.
        self._rest(seconds if self._answers else NO_ANSWER)

    def _go_on(self) -> bool:
        """Now that the desk is at rest, ask in other ways for what is not so; True if anything was asked."""
        if self._ladders.read_back(self._mirror.desk(), self._is_mapped):
            passing = self._ladders.again(self._asking(self._mirror.desk(), self._server_time()))
            self._pass_through(passing, self._sent + 1)
            self._barrier(patience(passing))
            return True
        self._calm()
        return False

    def _is_mapped(self, wid: int) -> bool:
        try:
            state = self._wire.core.GetWindowAttributes(wid).reply().map_state
        except GONE:
            return True  # nobody's business any more
        return bool(state == xp.MapState.Viewable)

    def _calm(self) -> None:
        """Let no window ask for attention that did not before: some managers mark what others want in front."""
        if self._marked is None:
            return
        self._calmed, self._marked = self._mirror.marked() - self._marked, None
        for wid in self._calmed:
            calm(wid, self._wire)
        if self._calmed:
            self._wire.flush()

    def _see_to_the_end(self) -> None:
        """What was asked may have come about before the manager was done with it: wait for that, and no longer."""
        until = min(clock.monotonic() + NO_ANSWER, self._rest_by)
        with contextlib.suppress(DeskError):
            while self._answered != self._sent and clock.monotonic() < until:
                select.select([self._wire.fileno], [], [], until - clock.monotonic())
                self.pump()
            self._ladders.read_back(self._mirror.desk(), self._is_mapped)
            self._calm()

    def _typing(self) -> Typist:
        self._typist = self._typist or Typist(self._wire, self.chords.keyboard)
        return self._typist

    def give_up(self, press: Press) -> None:
        """Press no more of these keys."""
        if self._typist:
            self._typist.give_up(press)

    def _rest(self, seconds: float) -> None:
        """Count the desk as settled after a time without an event, or when it has not come to rest for long."""
        now = clock.monotonic()
        self._rest_by = now + max(seconds, RESTLESS)
        self._settle_at = now + seconds

    def _server_time(self) -> int:
        """Return the server's time: that of a property change of our own (ICCCM 2.1)."""
        wire = self._wire
        atom = wire.atoms["_JAKLET_TIME"]
        probe = self._probes[0]
        wire.core.ChangeProperty(xp.PropMode.Replace, probe, atom, xp.Atom.INTEGER, 32, 1, [0])
        wire.flush()
        until = clock.monotonic() + 1
        while clock.monotonic() < until:
            for event in wire.events():
                if isinstance(event, xp.PropertyNotifyEvent) and event.window == probe and event.atom == atom:
                    return int(event.time)
                self._held.append(event)
            select.select([wire.fileno], [], [], 0.1)
        return 0

    def is_dragging(self) -> bool:
        """True while a button of the pointer is down."""
        return self._wire.pointer().is_down

    def wait(self, until: float) -> Moment:
        """Wait for a change of the desk, its settling, a watched descriptor, a chord, or the time."""
        while True:
            # Events last: what has come beside an answer is inside the library, where `select` cannot see it.
            changed = self._press_on() | self._processes.reap() | self.pump()
            now = clock.monotonic()
            if now >= self.chords.tend_at:
                self.chords.tend()
            if now >= self._mirror.due:
                self._mirror.look_again()
                self._refresh()
                changed = True
            if self._settle_at is not None:
                if now >= self._settle_at and (not changed or now >= self._rest_by):
                    self._settle_at, self._answered, changed = None, self._sent, True
                    self._mirror.come_to_rest()  # by now it is as was asked, or was refused
                    if self._go_on():
                        continue
                elif changed and self._sent == self._answered:
                    self._settle_at = min(now + self._quiet, self._rest_by)
            if changed or self.chords.has_news or now >= until:
                return self.look()
            soonest = min(until, self._soonest())
            timeout = None if soonest == float("inf") else max(0.0, soonest - now)
            sources = [self._wire.fileno, *self._watched, *self._processes.descriptors()]
            ready, _, _ = select.select(sources, [], [], timeout)
            if not self._watched.isdisjoint(ready):
                return self.look()

    def _press_on(self) -> bool:
        """Go on with what is pressed for programs; True if that is news."""
        typist = self._typist
        return bool(typist and typist.under_way and clock.monotonic() >= typist.next_look and typist.go_on())

    def _soonest(self) -> float:
        """Return when something is to be done here by itself; infinity if nothing is."""
        settles = self._read_by if self._settle_at is None else min(self._settle_at, self._read_by)
        presses = self._typist.next_look if self._typist and self._typist.under_way else settles
        return min(settles, presses, self._mirror.due, self.chords.tend_at)

    def keep_free(self, edges: Mapping[str, Insets]) -> None:
        """Count these edges of displays as no part of their work areas."""
        self._mirror.keep_free(edges)

    def watch(self, descriptors: Iterable[int]) -> None:
        """Let `wait` return when one of these can be read."""
        self._watched = frozenset(descriptors)
        self._ladders.begin()  # who waits for a key has the time for it now, and not later

    def pump(self) -> bool:
        """Take in the events that have come; True if the desk has changed.

        While the window manager is at what was asked, one thing follows another: what has changed is asked for once,
        when it is done with that, or a key needs to know, or it takes long.
        """
        changed = False
        while True:
            came, news = self._take_in()
            is_other = self.chords.follow()
            if news and self._read_by == float("inf"):
                self._read_by = clock.monotonic() + (READS if self._sent != self._answered else 0)
            reads = self._read_by < float("inf") and (
                self._sent == self._answered or self.chords.heard or clock.monotonic() >= self._read_by
            )
            if reads:
                changed, self._read_by = True, float("inf")
                self._refresh()
            # Reading replies can leave further events queued inside the library, where select() cannot see them.
            if self.chords.heard or not (came and (reads or is_other)):
                return changed

    def _take_in(self) -> tuple[bool, bool]:
        """Take in events, up to the first chord, as that cannot wait; return whether any came, and any was news."""
        came = news = False
        held, self._held = self._held, []
        for event in chain(held, self._wire.events()):
            came = True
            news |= self._take(event)
            if self.chords.heard and not held:  # what was held is here and nowhere else, and is taken in whole
                break
        return came, news

    def _refresh(self) -> None:
        try:
            self._mirror.refresh()
            if self._mirror.has_new_manager and self._wire.has_manager():
                supported = frozenset(self._wire.words(self._wire.root, "_NET_SUPPORTED"))
                if supported:
                    self._manage(supported)
                    self.chords.look_anew()
        except xcffib.ConnectionException as fault:
            raise server_gone() from fault

    def _take(self, event: Any) -> bool:
        if self.chords.take(event):
            return False
        if getattr(event, "window", 0) in self._probes:
            extents = isinstance(event, xp.PropertyNotifyEvent) and event.atom == self._wire.atoms["_NET_FRAME_EXTENTS"]
            if extents or isinstance(event, xp.ConfigureNotifyEvent):
                self._answers = True
                self._tells_extents |= extents
                self._answer_came(self._probes.index(event.window))
            return False
        return self._mirror.take(event, self._answered)

    def _answer_came(self, probe: int) -> None:
        """Take in that the window manager has dealt with all that was asked before this barrier."""
        answered = next((n for n in range(self._answered + 1, self._sent + 1) if n % PROBES == probe), 0)
        if answered:
            self._answered = answered
            if answered == self._sent:
                self._rest(self._quiet)

    def manager_name(self) -> str:
        """Return the window manager's name, as it says it (EWMH _NET_SUPPORTING_WM_CHECK); empty if it does not."""
        return self._wire.manager_name()

    def idle(self) -> float:
        """Return for how long nothing was used (MIT screen saver extension, QueryInfo); 0 where it is not known."""
        import xcffib.screensaver  # few ask

        try:
            info = self._wire.connection(xcffib.screensaver.key).QueryInfo(self._wire.root).reply()
        except xcffib.XcffibException:
            return 0.0
        return float(info.ms_since_user_input) / 1000

    def time_of_day(self) -> float:
        """Return the seconds since midnight."""
        now = clock.localtime()
        return now.tm_hour * 3600.0 + now.tm_min * 60 + now.tm_sec

    def identity(self) -> str:
        """Return a number that this run of the X server has for itself, as a property that goes with it."""
        wire = self._wire
        found = wire.words(wire.root, "_JAKLET_SESSION")
        if not found:
            number = int.from_bytes(os.urandom(4), "big")
            kind = xp.Atom.CARDINAL
            wire.core.ChangeProperty(
                xp.PropMode.Replace, wire.root, wire.atoms["_JAKLET_SESSION"], kind, 32, 1, [number]
            )
            found = wire.words(wire.root, "_JAKLET_SESSION")
        return f"x11 {found[0]:08x}"

    def close(self) -> None:
        """End the connection; grabs go with it, launched programs stay."""
        if self._marked is not None:
            self._see_to_the_end()
        if self._typist and self._typist.under_way:
            self._typist.close()
        self._processes.close()
        self._wire.close()


def _reframes(change: Change, desk: Desk) -> bool:
    """True if a change lets a window have its frame again that was fullscreen."""
    window = desk.by_id.get(change.window) if isinstance(change, Reshape) else None
    return window is not None and window.shape is WindowShape.FULLSCREEN
