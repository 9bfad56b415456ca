"""What is on a tabletop: displays, programs, windows, and how a window manager would treat them. No files here."""

from collections.abc import Callable, Mapping
from copy import copy
from typing import Any, Final, NamedTuple

from jaklet.core.actions.ports.desktop import NOT_FOUND, ProgramExit
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
    lacking_for,
    window_of,
)
from jaklet.core.values.chords import Chord
from jaklet.core.values.desk import NORMAL, Desk, Display, Window, WindowShape
from jaklet.core.values.desk_abilities import EVERY, Abilities, Ability
from jaklet.core.values.desktop_entries import DesktopEntry
from jaklet.core.values.forms import FullPlace
from jaklet.core.values.geometry import NO_LIMITS, Insets, Rect, SizeLimits, settled_frame
from jaklet.core.values.recency import Recency

STEP = 32  # each new window opens this far right of and below the one before


class Program(NamedTuple):
    """A program that can be launched. `takes`: virtual seconds until its window is there.

    `fails`: it ends with this status and shows nothing, and writes `says` as an error.
    `stubborn`: its windows take no other size. `silent`: it runs and never shows a window.
    `entry`: the id of its desktop entry.
    """

    name: str
    cls: str
    instance: str
    title: str
    width: int = 800
    height: int = 600
    takes: float = 0.2
    limits: SizeLimits = NO_LIMITS
    fails: int = 0
    says: str = ""
    entry: str = ""
    kind: str = NORMAL
    stubborn: bool = False
    silent: bool = False


class TabletopWindow:
    """A window on the tabletop, and what the simulation has to know beside it."""

    def __init__(self, window: Window, program: str, normal: Rect) -> None:
        self.window = window
        self.program = program
        self.normal = normal  # the frame to which it is restored


class OpeningProgram(NamedTuple):
    """A program that has been launched and whose window is still to come."""

    at: float
    order: int
    launch: Launch
    program: str


class Room:
    """The tabletop's state. `stacking` runs from bottom to top."""

    def __init__(
        self, displays: tuple[Display, ...], programs: dict[str, Program] | None = None, name: str = "tabletop"
    ) -> None:
        self.displays = displays
        self.programs = {} if programs is None else programs
        self.standing: dict[int, TabletopWindow] = {}
        self.stacking: list[int] = []
        self.used = Recency()
        self.active: int | None = None
        self.turns = 0  # how often another window has become active
        self.workspace = 1
        self.workspaces = 4
        self.gaps = True
        self.taken: Mapping[Chord, str] = {}  # chords that another program holds, and its name
        self.kept_free: Mapping[str, Insets] = {}  # edges of displays that a config keeps free
        self.taken_modifiers: Mapping[str, str] = {}  # the same of modifiers, each by itself
        self.abilities: Abilities = EVERY
        self.name = name
        self.now = 0.0
        self.openings: list[OpeningProgram] = []
        self.ended: list[ProgramExit] = []
        self.button_down = False  # of its pointer
        self.sent: tuple[Chord, ...] = ()  # what was pressed for programs by Jaklet itself
        self.commands: tuple[str, ...] = ()  # what a shell was asked to run
        self.says: dict[str, str] = {}  # the last error line of each app's program
        self._next = 1

    def desk(self) -> Desk:
        """Return the picture that the core works with."""
        self.used.settle(self.now)
        sees = Ability.SEE in self.abilities
        return Desk(
            displays=self._displays_less(),
            windows=tuple(standing.window for standing in self.standing.values()) if sees else (),
            stacking=tuple(self.stacking) if sees else (),
            recent=tuple(self.used.order) if sees else (),
            active=self.active if sees else None,
            workspace=self.workspace,
            workspaces=self.workspaces,
            gaps=self.gaps,
            turns=self.turns,
            abilities=self.abilities,
        )

    def _displays_less(self) -> tuple[Display, ...]:
        """Return the displays without the edges that are kept free: mostly none is, and desks are made all the time."""
        if not self.kept_free:
            return self.displays
        return tuple(display.less(self.kept_free.get(display.name, Insets())) for display in self.displays)

    def entries(self) -> dict[str, DesktopEntry]:
        """Return the desktop entries that the tabletop's programs have, by id."""
        return {
            program.entry: DesktopEntry(program.entry, program.title, (program.name,), program.cls)
            for program in self.programs.values()
            if program.entry
        }

    def add(self, program: Program, frame: Rect | None = None, wid: int | None = None, **seen: object) -> int:
        """Put a window of a program on the tabletop, in front; return its id, a new one if none is given."""
        wid = wid or max([self._next, *(other + 1 for other in self.standing)])
        self._next = max(self._next, wid + 1)
        area = self.displays[0].work
        if frame is None:
            shift = len(self.standing) % 8 * STEP
            frame = Rect(
                area.x + shift, area.y + shift, min(program.width, area.width), min(program.height, area.height)
            )
        window = Window(
            id=wid,
            instance=program.instance,
            cls=program.cls,
            title=program.title,
            frame=frame,
            limits=program.limits,
            workspace=self.workspace,
            kind=program.kind,
            process=program.name[:15],  # as the kernel cuts it, proc_pid_comm(5)
        )._replace(**seen)  # type: ignore[arg-type]  # the caller names fields of Window
        if window.shape is WindowShape.NORMAL:
            window = window._replace(
                frame=settled_frame(window.frame, window.border, window.limits, FullPlace().anchor)
            )
        self.standing[wid] = TabletopWindow(window, program.name, window.frame)
        self.stacking.append(wid)
        self._restack()
        self._activate(wid)
        return wid

    def advance(self, until: float) -> None:
        """Move the clock to the next thing that happens, and let it happen; to `until` at the latest."""
        self.openings.sort()
        if not self.openings or self.openings[0].at > until:
            if until < float("inf"):
                self.now = max(self.now, until)
            return
        opening = self.openings.pop(0)
        self.now = max(self.now, opening.at)
        program = self.programs[opening.program]
        if program.fails:
            self.ended.append(ProgramExit(opening.launch.app, program.fails))
            self.says[opening.launch.app] = program.says
        else:
            self.add(program, launched_for=opening.launch.tie)

    def change(self, change: Change) -> None:
        """Do what was asked, as a window manager would: what cannot be is silently left."""
        wid = window_of(change)
        if not lacking_for(change, self.abilities) and (wid is None or wid in self.standing):
            CHANGES[type(change)](self, change)

    def _provide(self, change: Provide) -> None:
        used = [standing.window.workspace or 1 for standing in self.standing.values()]
        self.workspaces = max([change.workspaces, self.workspace, *used])

    def _switch_gaps(self, change: Gaps) -> None:
        self.gaps = change.on

    def _press(self, change: Press) -> None:
        self.sent += change.chords

    def _shell(self, change: Shell) -> None:
        """Remember a command: nothing is run here."""
        self.commands += (change.command,)
        self.ended = [ended for ended in self.ended if ended.app != change.key]
        self.ended.append(ProgramExit(change.key, 0))

    def _stack(self, change: Stack) -> None:
        on_top = [wid for wid in change.windows if wid in self.standing]
        self.stacking = [wid for wid in self.stacking if wid not in on_top] + on_top
        self._restack()

    def _minimise(self, change: Minimise) -> None:
        self._set(change.window, minimised=True)
        self._leave(change.window)

    def _keep_above(self, change: Raise) -> None:
        self._set(change.window, above=change.above)
        self._raise(change.window)

    def _send(self, wid: int, workspace: int | None) -> None:
        if workspace is None or 1 <= workspace <= self.workspaces:
            self._set(wid, workspace=workspace)
            if not self._in_view(wid):
                self._leave(wid)

    def _remove(self, wid: int) -> None:
        """Take a window away, and its dialogs with it."""
        del self.standing[wid]
        self.stacking.remove(wid)
        self.used.keep([other for other in self.used.order if other != wid])
        for dialog in [other for other, standing in self.standing.items() if standing.window.parent == wid]:
            self._remove(dialog)
        self._leave(wid)

    def _set(self, wid: int, **seen: object) -> None:
        standing = self.standing[wid]
        standing.window = standing.window._replace(**seen)  # type: ignore[arg-type]  # fields of Window

    def _launch(self, launch: Launch) -> None:
        app, command = launch.app, launch.command
        name = command[0].rsplit("/", 1)[-1]
        self.ended = [ended for ended in self.ended if ended.app != app]
        self.says.pop(app, None)
        program = self.programs.get(name)
        if program is None:
            self.ended.append(ProgramExit(app, NOT_FOUND, f"there is no program {name!r}"))
        elif program.silent:
            self.says[app] = program.says
        else:
            self.openings.append(OpeningProgram(self.now + program.takes, len(self.openings), launch, name))

    def _in_view(self, wid: int) -> bool:
        window = self.standing[wid].window
        return not window.minimised and window.workspace in (None, self.workspace)

    def _activate(self, wid: int, walking: bool = False) -> None:
        self.turns += self.active != wid
        self.active = wid
        self.used.used(wid, self.now, walking)

    def _leave(self, wid: int) -> None:
        """Give the focus to the topmost window in view, if this one had it."""
        if self.active != wid:
            return
        self.active = None
        heir = next((other for other in reversed(self.stacking) if self._in_view(other)), None)
        if heir is not None:
            self._activate(heir)

    def _focus(self, wid: int, walking: bool) -> None:
        window = self.standing[wid].window
        if window.workspace is not None:
            self.workspace = window.workspace
        self._set(wid, minimised=False)
        self._raise(wid)
        self._activate(wid, walking)

    def _raise(self, wid: int) -> None:
        """Put a window on top; a dialog stays above the window it belongs to."""
        for raised in (wid, *(other for other in self.stacking if self.standing[other].window.parent == wid)):
            self.stacking.remove(raised)
            self.stacking.append(raised)
        self._restack()

    def _restack(self) -> None:
        """Put the windows that are kept above over the others; the order within both stays."""
        self.stacking.sort(key=lambda wid: self.standing[wid].window.above)

    def _show(self, workspace: int) -> None:
        if 1 <= workspace <= self.workspaces and workspace != self.workspace:
            self.workspace = workspace
            if self.active is not None and not self._in_view(self.active):
                self._leave(self.active)

    def _move(self, standing: TabletopWindow, frame: Rect) -> None:
        window = standing.window
        if window.shape is not WindowShape.NORMAL:
            return
        if self.programs[standing.program].stubborn:
            frame = frame._replace(width=window.frame.width, height=window.frame.height)
        taken = settled_frame(frame, window.border, window.limits, FullPlace().anchor)
        standing.window = window._replace(frame=taken)
        standing.normal = taken

    def _reshape(self, standing: TabletopWindow, shape: WindowShape) -> None:
        window = standing.window
        display = self.desk().display_of(window.frame)
        work = display.work
        left_half = work._replace(width=max(1, work.width // 2))
        frames = {
            WindowShape.NORMAL: standing.normal,
            WindowShape.TILED: settled_frame(left_half, window.border, window.limits, FullPlace().anchor),
            WindowShape.MAXIMISED: work,
            WindowShape.FULLSCREEN: display.rect,
        }
        standing.window = window._replace(shape=shape, frame=frames[shape])

    def copy(self) -> "Room":
        """Return a room that can be changed without changing this one."""
        room = copy(self)
        room.standing = {wid: TabletopWindow(one.window, one.program, one.normal) for wid, one in self.standing.items()}
        room.stacking = [*self.stacking]
        room.used = Recency(self.used.order)
        room.openings = [*self.openings]
        room.ended = [*self.ended]
        room.says = {**self.says}
        return room


# What is done for each kind of change.
CHANGES: Final[Mapping[type[Change], Callable[[Room, Any], None]]] = {
    Move: lambda room, change: room._move(room.standing[change.window], change.frame),
    Reshape: lambda room, change: room._reshape(room.standing[change.window], change.shape),
    Minimise: Room._minimise,
    Reveal: lambda room, change: room._set(change.window, minimised=False),
    Focus: lambda room, change: room._focus(change.window, change.walking),
    Close: lambda room, change: room._remove(change.window),
    Kill: lambda room, change: room._remove(change.window),
    Send: lambda room, change: room._send(change.window, change.workspace),
    Raise: Room._keep_above,
    ShowWorkspace: lambda room, change: room._show(change.workspace),
    Stack: Room._stack,
    Provide: Room._provide,
    Gaps: Room._switch_gaps,
    Launch: Room._launch,
    Press: Room._press,
    Shell: Room._shell,
}
