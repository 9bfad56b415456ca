"""A desk of a compositor in which our code runs, behind the port `core.actions.ports.desktop.Desktop`."""

import contextlib
import os
import select
import signal
import time as clock
from abc import ABC, abstractmethod
from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any, Final

from jaklet.core.actions.ports.desktop import NONE_FAILED, Moment
from jaklet.core.actions.tasks import patience
from jaklet.core.values.changes import (
    Change,
    Close,
    Focus,
    Gaps,
    Kill,
    Launch,
    Minimise,
    Move,
    Press,
    Provide,
    Raise,
    Reshape,
    Reveal,
    Send,
    Shell,
    ShowWorkspace,
    Stack,
)
from jaklet.core.values.desk import Desk, Display, WindowShape
from jaklet.core.values.desk_abilities import Abilities
from jaklet.core.values.errors import DeskError
from jaklet.core.values.geometry import Insets, Rect
from jaklet.core.values.recency import PAUSE, Recency
from jaklet.desktops.compositor.agent import Agent
from jaklet.desktops.compositor.chord_source import CompositorChords
from jaklet.desktops.compositor.picture import AgentWindow, displays_of, window_of
from jaklet.desktops.compositor.xwayland import Xwayland
from jaklet.desktops.pressing import Pressing
from jaklet.desktops.processes import PROGRAMS, Processes

QUIET: Final = 0.05  # seconds without news, after all is done: a program of Wayland answers a size in its own time
SLOW: Final = 1.0  # seconds without news where a program has not drawn what it was asked for
MOMENT: Final = 0.01  # seconds
NEVER: Final = float("inf")
EVERYWHERE: Final = 0  # the agent's number of all workspaces


class CompositorDesktop(ABC):
    """A real desk. Its clock is the system's monotonic one; its picture is what our code there told last.

    `kind`: by which it is told from others. `chords`: the source of its keys.
    """

    kind: str

    def __init__(
        self, agent: Agent, chords: CompositorChords, abilities: Abilities, state: Callable[[], Path] | None = None
    ) -> None:
        self._agent, self.chords, self.abilities = agent, chords, abilities
        agent.begun_again.append(self._forget_typist)
        self._xwayland = Xwayland()
        self._typist: Pressing | None = None
        self._seen: Any = None  # what was told when it was looked at last
        self._processes = Processes((lambda: state() / PROGRAMS) if state else None)
        self._watched: list[int] = []
        self._edges: Mapping[str, Insets] = {}
        self._told: dict[int, AgentWindow] = {}
        self._stacking: tuple[int, ...] = ()
        self._seen_order: Any = None
        self._used = Recency()
        self._walk_ends = NEVER
        self._walking = False  # the focus that was asked for last is a step of a walk
        self._moving: dict[int, Rect] = {}
        self._before: dict[int, Rect] = {}  # where those were when they were asked
        self._aimed: int | None = None
        self._active: int | None = None
        self._gaps = True
        self._turns = 0
        self._seen_screens: Any = None
        self._whole: tuple[Display, ...] = ()
        self._displays: tuple[Display, ...] = ()
        self._settle_at: float | None = None
        self._rest_by = 0.0
        self._take_in()

    # --- what each compositor has of its own ---

    @abstractmethod
    def _stack(self, change: Stack) -> list[dict[str, Any]]:
        """Return the requests for an order of windows."""

    @abstractmethod
    def _new_typist(self) -> Pressing:
        """Return who presses keys for programs; raises `DeskError`."""

    @abstractmethod
    def idle(self) -> float:
        """Return for how long keyboard and pointer were not used, in seconds."""

    # --- its picture ---

    def _take_in(self) -> None:
        """Take in what was told since the last time."""
        state = self._seen = self._agent.state
        if state["screens"] is not self._seen_screens:
            self._take_displays(state["screens"])
        changed, self._agent.changed = self._agent.changed, {}
        for uuid in changed:
            self._take_window(uuid)
        if state["order"] is not self._seen_order:
            self._seen_order = state["order"]
            numbers = (self._agent.number_of(uuid) for uuid in state["order"])
            self._stacking = tuple(number for number in numbers if number in self._told)
            # Who was used before anybody looked is told by the order alone.
            self._used.keep(list(reversed(self._stacking)))
        self._take_focus(state["active"])
        if state["serial"] == self._agent.sent:
            self._aimed = None
        self._picture()

    def _take_displays(self, screens: Any) -> None:
        """Take in the displays; raises `DeskError` where the first ones cannot be read.

        While a compositor ends, the displays stay as they were: the next one tells of its own.
        """
        try:
            names = self._agent.display_names()
        except DeskError:
            if not self._whole:
                raise
            self._agent.is_to_begin_again()
            return
        self._seen_screens = screens
        self._whole = displays_of(screens, names)
        self._displays = self._less()

    def _less(self) -> tuple[Display, ...]:
        """Return the displays without the edges that are kept free."""
        return tuple(display.less(self._edges.get(display.name, Insets())) for display in self._whole)

    def _take_window(self, uuid: str) -> None:
        """Take in one window that has come, changed or gone."""
        wid, told = self._agent.number_of(uuid), self._agent.windows.get(uuid)
        former = self._told.get(wid)
        if told is None:
            self._told.pop(wid, None)
            return
        known = former.window if former and former.pid == told["pid"] else None
        new = window_of(told, self._agent.number_of, known.process if known else None)
        new = new._replace(window=new.window._replace(title=self._agent.title_of(new.window.title)))
        if hints := self._xwayland.hints(int(told["x11"])) if told["x11"] else None:
            new = new._replace(window=new.window._replace(border=hints.border, limits=hints.limits))
        tie = former.window.launched_for if former else ""
        if former is None and self._processes.awaits_windows:
            tie = self._processes.shown_by("", new.pid)
        self._told[wid] = new._replace(window=new.window._replace(launched_for=tie)) if tie else new

    def _take_focus(self, uuid: str) -> None:
        """Take in which window has the focus."""
        active = self._agent.number_of(uuid) if uuid else None
        if active not in self._told:
            active = None
        if active is None and self.chords.holding() and self._active in self._told:
            active = self._active  # our own surface has the keys for a while; in front is who will have them again
        if active != self._active:
            self._turns += active is not None
            self._active = active
            if active is not None:
                walks = self._walking and active == self._aimed
                self._used.used(active, clock.monotonic(), walks)
                self._walk_ends = clock.monotonic() + PAUSE + MOMENT if walks else NEVER
        self._used.settle(clock.monotonic())

    def _picture(self) -> None:
        """Make a new picture of the desk."""
        state = self._agent.state
        self._desk = Desk(
            displays=self._displays,
            windows=tuple(one.window for one in self._told.values()),
            stacking=self._stacking,
            recent=tuple(self._used.order),
            active=self._active,
            aimed=self._aimed,
            workspace=state["workspace"],
            workspaces=state["workspaces"],
            gaps=self._gaps,
            moving={wid: frame for wid, frame in self._moving.items() if wid in self._told},
            turns=self._turns,
            abilities=self.abilities,
        )

    def look(self) -> Moment:
        """Return the desk as it is now."""
        programs, typist, settled = self._processes, self._typist, self._settle_at is None
        pressing, unpressed = (typist.under_way, typist.failed) if typist else ((), NONE_FAILED)
        return Moment(self._desk, clock.monotonic(), settled, tuple(programs.ended), programs.said, pressing, unpressed)

    # --- changing it ---

    def apply(self, changes: Iterable[Change], time: int = 0) -> None:
        """Hand the changes over, and begin to wait until they are done."""
        changes = tuple(changes)
        requests: list[dict[str, Any]] = []
        # Who is to have the focus in the end is known while an order is worked out, wherever it is asked for.
        self._aimed = next((one.window for one in reversed(changes) if isinstance(one, Focus)), self._aimed)
        for change in changes:
            if isinstance(change, Launch):
                self._processes.launch(change, time)
            else:
                requests += REQUESTS[type(change)](self, change)
        if requests:
            self._agent.ask(requests)
        now = clock.monotonic()
        self._rest_by = now + patience(changes)
        waits = requests or any(isinstance(change, (Kill, Provide)) for change in changes)
        self._settle_at = self._rest_by if waits else now
        self._picture()

    def _move(self, change: Move) -> list[dict[str, Any]]:
        """Return the requests for a frame. A window leaves a shape before it is moved."""
        wid, frame = change
        self._moving[wid] = frame
        if wid in self._told:
            self._before[wid] = self._told[wid].window.frame
        return [*self._shaped(wid, WindowShape.NORMAL), self._of(wid, "move", *frame)]

    def _reshape(self, change: Reshape) -> list[dict[str, Any]]:
        requests = self._shaped(*change)
        if requests and change.window in self._told:
            self._before[change.window] = self._told[change.window].window.frame
        return requests

    def _focus(self, change: Focus) -> list[dict[str, Any]]:
        self._walking = change.walking
        return [self._of(change.window, "activate")]

    def _shell(self, change: Shell) -> list[dict[str, Any]]:
        self._processes.shell(change)
        return []

    def _switch_gaps(self, change: Gaps) -> list[dict[str, Any]]:
        self._gaps = change.on
        return []

    def _press(self, change: Press) -> list[dict[str, Any]]:
        self._typing().begin(change)
        return []

    def _provide(self, change: Provide) -> list[dict[str, Any]]:
        self._agent.provide(change.workspaces)
        return []

    def _shaped(self, wid: int, shape: WindowShape) -> list[dict[str, Any]]:
        """Return the requests for a shape. A window that fills the display goes on being maximised below that.

        It is let out of both at once: else the frame before is remembered wrongly, as programs draw in their own time.
        """
        window = self._desk.by_id.get(wid)
        if window is None or window.shape is shape:
            return []
        if shape is WindowShape.FULLSCREEN:
            return [self._of(wid, "fullscreen", 1)]
        leaving = [self._of(wid, "fullscreen", 0)] if window.shape is WindowShape.FULLSCREEN else []
        return [*leaving, self._of(wid, "maximise", int(shape is WindowShape.MAXIMISED))]

    def _of(self, wid: int, op: str, *args: int) -> dict[str, Any]:
        told = self._told.get(wid)
        return {"op": op, "id": told.uuid if told else "", "args": list(args)}

    def _kill(self, change: Kill) -> list[dict[str, Any]]:
        told = self._told.get(change.window)
        if told and told.pid > 0 and told.pid != os.getpid():
            with contextlib.suppress(OSError):
                os.kill(told.pid, signal.SIGKILL)
        return []

    def _forget_typist(self) -> None:
        self._typist = None  # its connection was to a compositor that is gone

    def _typing(self) -> Pressing:
        self._typist = self._typist or self._new_typist()
        return self._typist

    def give_up(self, press: Press) -> None:
        """Press no more of these keys."""
        if self._typist:
            self._typist.give_up(press)

    def _press_on(self, now: float) -> bool:
        """Go on with what is pressed for programs; True if that is news."""
        typist = self._typist
        return bool(typist and typist.under_way and now >= typist.next_look and typist.go_on())

    # --- waiting for it ---

    def wait(self, until: float) -> Moment:
        """Wait for a change of the desk, its settling, a watched descriptor, or the time."""
        ready: Sequence[int] | None = None  # at first, something of each may have been read already
        while True:
            changed = self._processes.reap()
            if ready is None or self._agent.bus.fileno in ready or clock.monotonic() >= self._agent.due:
                self._agent.take()
            if self._agent.state is not self._seen:
                self._take_in()
                changed = True
            changed |= self.chords.take(ready != [self._agent.bus.fileno]) | self._press_on(clock.monotonic())
            now = clock.monotonic()
            if now >= self._walk_ends:
                self._walk_ends, changed = NEVER, True
                self._used.settle(now)
                self._picture()
            if self._settle_at is not None:
                is_done = self._agent.state["serial"] == self._agent.sent
                if changed and is_done:
                    self._settle_at = min(now + (SLOW if self._unanswered() else QUIET), self._rest_by)
                elif now >= self._settle_at:
                    self._settle_at, self._aimed, changed = None, None, True
                    self._moving.clear()
                    self._before.clear()
                    self._picture()
            if changed or now >= until:
                return self.look()
            if self._agent.bus.is_urgent:
                ready = None  # the library may have read more already, where `select` cannot see it
                continue
            settling = NEVER if self._settle_at is None else self._settle_at
            pressing = self._typist.next_look if self._typist and self._typist.under_way else NEVER
            soonest = min(until, pressing, self._agent.due, self.chords.due, self._walk_ends, settling)
            timeout = None if soonest == NEVER else max(0.0, soonest - now)
            sources = [self._agent.bus.fileno, *self.chords.sources, *self._watched, *self._processes.descriptors()]
            ready, _, _ = select.select(sources, [], [], timeout)
            if any(descriptor in self._watched for descriptor in ready):
                return self.look()

    def _unanswered(self) -> bool:
        """Return whether a window was given another frame, and has not changed since: its program has yet to draw.

        Or our code in the compositor is still about it.
        """
        told = self._told
        return bool(self._agent.state.get("placing")) or any(
            wid in told and told[wid].window.frame == before and self._moving.get(wid) != before
            for wid, before in self._before.items()
        )

    def keep_free(self, edges: Mapping[str, Insets]) -> None:
        """Count these edges of displays as no part of their work areas."""
        self._edges = edges
        self._displays = self._less()
        self._picture()

    def is_dragging(self) -> bool:
        """Return false: nobody is told of the pointer."""
        return False

    def watch(self, descriptors: Iterable[int]) -> None:
        """Let `wait` return when one of these can be read."""
        self._watched = list(descriptors)

    def time_of_day(self) -> float:
        """Return the seconds since midnight."""
        now = clock.localtime()
        return now.tm_hour * 3600.0 + now.tm_min * 60 + now.tm_sec

    def identity(self) -> str:
        """Return the bus of the session: windows keep their ids as long as its compositor runs."""
        return f"{self.kind} {os.environ.get('DBUS_SESSION_BUS_ADDRESS', '')}"

    def manager_name(self) -> str:
        """Return the name of the compositor."""
        return self._agent.name

    def close(self) -> None:
        """Give back all that was asked for; launched programs stay."""
        self._processes.close()
        self.chords.close()
        self._agent.close()
        self._xwayland.close()


# What each kind of change does at once, and what it asks of our code there; programs are launched by `apply`.
REQUESTS: Final[Mapping[type[Change], Callable[[CompositorDesktop, Any], list[dict[str, Any]]]]] = {
    Move: CompositorDesktop._move,
    Reshape: CompositorDesktop._reshape,
    Minimise: lambda desk, change: [desk._of(change.window, "minimise", 1)],
    Reveal: lambda desk, change: [desk._of(change.window, "minimise", 0)],
    Focus: CompositorDesktop._focus,
    Close: lambda desk, change: [desk._of(change.window, "close")],
    Kill: CompositorDesktop._kill,
    Send: lambda desk, change: [desk._of(change.window, "send", change.workspace or EVERYWHERE)],
    Raise: lambda desk, change: [desk._of(change.window, "above", int(change.above))],
    ShowWorkspace: lambda _desk, change: [{"op": "show", "args": [change.workspace]}],
    Stack: lambda desk, change: desk._stack(change),
    Provide: CompositorDesktop._provide,
    Gaps: CompositorDesktop._switch_gaps,
    Press: CompositorDesktop._press,
    Shell: CompositorDesktop._shell,
}
