"""What can be asked of a desk: changes, one by one."""

from collections.abc import Callable, Mapping
from typing import Any, Final, NamedTuple, Protocol

from jaklet.core.values.apps import App, tie
from jaklet.core.values.chords import Chord, keys_written
from jaklet.core.values.desk import WindowShape
from jaklet.core.values.desk_abilities import Abilities, Ability, is_lacking
from jaklet.core.values.geometry import Rect
from jaklet.core.values.words import counted, printable

# Changes are named tuples, at a seventh of a frozen dataclass's start-up cost. They are told apart by type: two of
# different kinds about the same window are equal tuples.


class Move(NamedTuple):
    """Give a window this visible frame."""

    window: int
    frame: Rect


class Reshape(NamedTuple):
    """Make a window normal, maximised or fullscreen."""

    window: int
    shape: WindowShape


class Minimise(NamedTuple):
    """Put a window out of view."""

    window: int


class Reveal(NamedTuple):
    """Bring a minimised window back into view."""

    window: int


class Focus(NamedTuple):
    """Raise a window and give it the focus. Its workspace is to be shown first.

    `walking`: it is a step through the windows in the order of use, and that order stays until the walk is over.
    """

    window: int
    walking: bool = False


class Close(NamedTuple):
    """Ask a window to close itself."""

    window: int


class Kill(NamedTuple):
    """End the program that shows a window, without asking it."""

    window: int


class Send(NamedTuple):
    """Put a window on a workspace, counted from 1; None: on all."""

    window: int
    workspace: int | None


class ShowWorkspace(NamedTuple):
    """Show a workspace, counted from 1."""

    workspace: int


class Raise(NamedTuple):
    """Keep a window above the others, or no longer."""

    window: int
    above: bool


class Provide(NamedTuple):
    """Have this many workspaces."""

    workspaces: int


class Gaps(NamedTuple):
    """Place windows with gaps from now on, or without."""

    on: bool


class Stack(NamedTuple):
    """Put these windows on top of all others of their kind, in this order from bottom to top."""

    windows: tuple[int, ...]


class Launch(NamedTuple):
    """Start a program from its argument list, for an app. `folder`: where, the home folder if empty."""

    app: str
    command: tuple[str, ...]
    folder: str = ""
    environment: tuple[tuple[str, str], ...] = ()

    @property
    def tie(self) -> str:
        """What is noted on its first window."""
        return tie(self.app, self.command)


def launching(app: App, terminal: tuple[str, ...]) -> Launch:
    """Return the change that launches an app. `terminal`: the command to which a program in a terminal is added."""
    return Launch(app.name, app.command_line(terminal), app.folder, app.environment)


class Press(NamedTuple):
    """Press chords, one after another, for a window that has the focus, and no longer than it has it."""

    chords: tuple[Chord, ...]
    window: int


class Shell(NamedTuple):
    """Let a shell run a command. `key`: under which its end is told."""

    key: str
    command: str


Change = (
    Move | Reshape | Minimise | Reveal | Focus | Close | Kill | Send | ShowWorkspace | Stack | Launch | Press | Shell
    | Raise | Provide | Gaps
)  # fmt: skip


class DeskNames(Protocol):
    """The names by which people know windows and workspaces."""

    def window(self, wid: int) -> str:
        """Return the name of a window."""
        ...

    def workspace(self, number: int) -> str:
        """Return the name of a workspace."""
        ...


class ChangeKind(NamedTuple):
    """What has to be known of a kind of change, beside how each desk makes it.

    `needed`: the ability that it takes, None for none; `words`: in words; `of_window`: it is about one window.
    """

    needed: Ability | None
    words: Callable[[Any, DeskNames], str]
    of_window: bool = True


MOST_NAMES: Final = 6  # windows of a stack that are named


def _stack_words(change: Stack, names: DeskNames) -> str:
    told = [names.window(wid) for wid in reversed(change.windows)]
    told[MOST_NAMES:] = [f"and {len(told) - MOST_NAMES} more"] if len(told) > MOST_NAMES else []
    return f"stack from the front: {', '.join(told)}"


def _send_words(change: Send, names: DeskNames) -> str:
    where = "all workspaces" if change.workspace is None else names.workspace(change.workspace)
    return f"send {names.window(change.window)} to {where}"


# A new kind of change is a class above, a row here, and a function in each desk's table.
KINDS: Final[Mapping[type[Change], ChangeKind]] = {
    Move: ChangeKind(Ability.MOVE, lambda one, names: f"move {names.window(one.window)} to {one.frame}"),
    Reshape: ChangeKind(Ability.SHAPE, lambda one, names: f"make {names.window(one.window)} {one.shape}"),
    Minimise: ChangeKind(Ability.MINIMISE, lambda one, names: f"minimise {names.window(one.window)}"),
    Reveal: ChangeKind(Ability.MINIMISE, lambda one, names: f"bring {names.window(one.window)} back into view"),
    Focus: ChangeKind(Ability.FOCUS, lambda one, names: f"focus {names.window(one.window)}"),
    Close: ChangeKind(Ability.CLOSE, lambda one, names: f"close {names.window(one.window)}"),
    Kill: ChangeKind(Ability.KILL, lambda one, names: f"kill {names.window(one.window)}"),
    Send: ChangeKind(Ability.WORKSPACES, _send_words),
    Raise: ChangeKind(
        Ability.ABOVE,
        lambda one, names: f"{'keep' if one.above else 'no longer keep'} {names.window(one.window)} above",
    ),
    ShowWorkspace: ChangeKind(Ability.WORKSPACES, lambda one, names: f"show {names.workspace(one.workspace)}", False),
    Stack: ChangeKind(Ability.STACK, _stack_words, False),
    Provide: ChangeKind(Ability.MAKE_WORKSPACES, lambda one, _: f"have {counted(one.workspaces, 'workspace')}", False),
    Gaps: ChangeKind(None, lambda one, _: f"switch gaps {'on' if one.on else 'off'}", False),
    Launch: ChangeKind(None, lambda one, _: f"launch {one.app}: {' '.join(one.command)}", False),
    Press: ChangeKind(Ability.TYPE, lambda one, _: f"press {keys_written(one.chords)}", False),
    Shell: ChangeKind(None, lambda one, _: f"let a shell run: {printable(one.command)}", False),
}


def window_of(change: Change) -> int | None:
    """Return the window that a change is about; None for one of the desk."""
    return change.window if KINDS[type(change)].of_window else None  # type: ignore[union-attr]  # the row says so


def lacking_for(change: Change, abilities: Abilities) -> Ability | None:
    """Return the ability that a change needs and a desk lacks; None where the change can be asked for."""
    needed = KINDS[type(change)].needed
    return needed if needed and is_lacking(needed, abilities) else None
