"""What can be asked of a desk: changes, one by one."""

from collections.abc import Mapping
from typing import Final, NamedTuple

from jaklet.core.values.apps import App, tie
from jaklet.core.values.chords import Chord
from jaklet.core.values.desk import WindowShape
from jaklet.core.values.desk_abilities import Abilities, Ability, is_lacking
from jaklet.core.values.geometry import Rect

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
# What a desk has to be able to do for a change; the others need nothing.
NEEDED_FOR: Final[Mapping[type[Change], Ability]] = {
    Move: Ability.MOVE,
    Reshape: Ability.SHAPE,
    Minimise: Ability.MINIMISE,
    Reveal: Ability.MINIMISE,
    Focus: Ability.FOCUS,
    Close: Ability.CLOSE,
    Kill: Ability.KILL,
    Send: Ability.WORKSPACES,
    ShowWorkspace: Ability.WORKSPACES,
    Stack: Ability.STACK,
    Raise: Ability.ABOVE,
    Provide: Ability.MAKE_WORKSPACES,
    Press: Ability.TYPE,
}


def lacking_for(change: Change, abilities: Abilities) -> Ability | None:
    """Return the ability that a change needs and a desk lacks; None where the change can be asked for."""
    needed = NEEDED_FOR.get(type(change))
    return needed if needed and is_lacking(needed, abilities) else None
