"""What is on a tabletop: displays, programs, windows, and how a window manager would treat them. No files here."""

from dataclasses import dataclass, field, replace
from typing import NamedTuple, assert_never

from jaklet.core.chords import Chord
from jaklet.core.desk import (
    Change,
    Close,
    Desk,
    Display,
    Focus,
    Launch,
    Minimise,
    Move,
    Reshape,
    Reveal,
    Send,
    Shape,
    Show,
    Stack,
    Window,
)
from jaklet.core.forms import Full
from jaklet.core.geometry import NO_LIMITS, Rect, SizeLimits, settled
from jaklet.core.ports import NOT_FOUND

STEP = 32  # each new window opens this far right of and below the one before


@dataclass(frozen=True, slots=True, kw_only=True)
class Program:
    """A program that can be launched. `takes`: virtual seconds until its window is there.

    `fails`: it ends with this status and shows nothing. `stubborn`: its windows take no other size.
    `silent`: it runs and never shows a window.
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
    stubborn: bool = False
    silent: bool = False


@dataclass(slots=True)
class Standing:
    """A window on the tabletop, and what the simulation has to know beside it."""

    window: Window
    program: str
    normal: Rect  # the frame to which it is restored


class Opening(NamedTuple):
    """A program that has been launched and whose window is still to come."""

    at: float
    order: int
    app: str
    program: str


@dataclass
class Room:
    """The tabletop's state. Lists run from bottom to top (`stacking`), latest first (`recent`)."""

    displays: tuple[Display, ...]
    programs: dict[str, Program] = field(default_factory=dict)
    standing: dict[int, Standing] = field(default_factory=dict)
    stacking: list[int] = field(default_factory=list)
    recent: list[int] = field(default_factory=list)
    active: int | None = None
    workspace: int = 1
    workspaces: int = 4
    taken: frozenset[Chord] = frozenset()  # chords that another program holds
    name: str = "tabletop"
    now: float = 0.0
    openings: list[Opening] = field(default_factory=list)
    ended: list[tuple[str, int]] = field(default_factory=list)
    _next: int = 1

    def desk(self) -> Desk:
        """Return the picture that the core works with."""
        return Desk(
            displays=self.displays,
            windows=tuple(standing.window for standing in self.standing.values()),
            stacking=tuple(self.stacking),
            recent=tuple(self.recent),
            active=self.active,
            workspace=self.workspace,
            workspaces=self.workspaces,
        )

    def add(self, program: Program, frame: Rect | None = None, **seen: object) -> int:
        """Put a window of a program on the tabletop, in front; return its id."""
        wid = max([self._next, *(other + 1 for other in self.standing)])
        self._next = wid + 1
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
        )._replace(**seen)  # type: ignore[arg-type]  # the caller names fields of Window
        if window.shape is Shape.NORMAL:
            window = window._replace(frame=settled(window.frame, window.border, window.limits, Full().anchor))
        self.standing[wid] = Standing(window, program.name, window.frame)
        self.stacking.append(wid)
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
            self.ended.append((opening.app, program.fails))
        else:
            self.add(program)

    def change(self, change: Change) -> None:
        """Do what was asked, as a window manager would: what cannot be is silently left."""
        match change:
            case Launch(app, command):
                self._launch(app, command)
            case Show(workspace):
                self._show(workspace)
            case Stack(windows):
                on_top = [wid for wid in windows if wid in self.standing]
                self.stacking = [wid for wid in self.stacking if wid not in on_top] + on_top
            case _ if change.window not in self.standing:
                return
            case Move(wid, frame):
                self._move(self.standing[wid], frame)
            case Reshape(wid, shape):
                self._reshape(self.standing[wid], shape)
            case Minimise(wid):
                self._set(wid, minimised=True)
                self._leave(wid)
            case Reveal(wid):
                self._set(wid, minimised=False)
            case Focus(wid):
                self._focus(wid)
            case Close(wid):
                del self.standing[wid]
                self.stacking.remove(wid)
                self.recent = [other for other in self.recent if other != wid]
                self._leave(wid)
            case Send(wid, workspace):
                if workspace is None or 1 <= workspace <= self.workspaces:
                    self._set(wid, workspace=workspace)
                    if not self._in_view(wid):
                        self._leave(wid)
            case _:
                assert_never(change)

    def _set(self, wid: int, **seen: object) -> None:
        standing = self.standing[wid]
        standing.window = standing.window._replace(**seen)  # type: ignore[arg-type]  # fields of Window

    def _launch(self, app: str, command: tuple[str, ...]) -> None:
        name = command[0].rsplit("/", 1)[-1]
        self.ended = [(other, status) for other, status in self.ended if other != app]
        program = self.programs.get(name)
        if program is None:
            self.ended.append((app, NOT_FOUND))
        elif not program.silent:
            self.openings.append(Opening(self.now + program.takes, len(self.openings), app, name))

    def _in_view(self, wid: int) -> bool:
        window = self.standing[wid].window
        return not window.minimised and window.workspace in (None, self.workspace)

    def _activate(self, wid: int) -> None:
        self.active = wid
        self.recent = [wid, *(other for other in self.recent if other != wid)]

    def _leave(self, wid: int) -> None:
        """Give the focus to the topmost window in view, if this one had it."""
        if self.active != wid:
            return
        self.active = next((other for other in reversed(self.stacking) if self._in_view(other)), None)
        if self.active is not None:
            self._activate(self.active)

    def _focus(self, wid: int) -> None:
        window = self.standing[wid].window
        if window.workspace is not None:
            self.workspace = window.workspace
        self._set(wid, minimised=False)
        self.stacking.remove(wid)
        self.stacking.append(wid)
        self._activate(wid)

    def _show(self, workspace: int) -> None:
        if 1 <= workspace <= self.workspaces and workspace != self.workspace:
            self.workspace = workspace
            if self.active is not None and not self._in_view(self.active):
                self._leave(self.active)

    def _move(self, standing: Standing, frame: Rect) -> None:
        window = standing.window
        if window.shape is not Shape.NORMAL:
            return
        if self.programs[standing.program].stubborn:
            frame = frame._replace(width=window.frame.width, height=window.frame.height)
        taken = settled(frame, window.border, window.limits, Full().anchor)
        standing.window = window._replace(frame=taken)
        standing.normal = taken

    def _reshape(self, standing: Standing, shape: Shape) -> None:
        window = standing.window
        display = self.desk().display_of(window.frame)
        frames = {Shape.NORMAL: standing.normal, Shape.MAXIMISED: display.work, Shape.FULLSCREEN: display.rect}
        standing.window = window._replace(shape=shape, frame=frames[shape])

    def copy(self) -> "Room":
        """Return a room that can be changed without changing this one."""
        return replace(
            self,
            standing={wid: replace(standing) for wid, standing in self.standing.items()},
            stacking=[*self.stacking],
            recent=[*self.recent],
            openings=[*self.openings],
            ended=[*self.ended],
        )
