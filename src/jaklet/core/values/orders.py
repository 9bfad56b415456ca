"""What an action asks of whoever runs it, beside changes of the desk."""

from typing import Final, NamedTuple

from jaklet.core.values.sharings import ArrangedSpot, KeptArrangements, Sharing


class Tell(NamedTuple):
    """Say this to the user."""

    text: str


class Enter(NamedTuple):
    """Turn a layer on; an empty name: turn it off."""

    layer: str


class Pause(NamedTuple):
    """Listen to no keys and events but those that end the pause, or to all again. None: the other of the two."""

    on: bool | None


class Stop(NamedTuple):
    """End the macros that are under way: the one of this name, or all."""

    macro: str = ""


class Expect(NamedTuple):
    """Leave the new windows of these apps to whoever asks this: they are placed where they belong."""

    apps: frozenset[str]


class ShowView(NamedTuple):
    """Show this over the windows: a view by its name below, and of what. It has the keyboard until it is closed."""

    view: str
    of: str = ""


class Arrange(NamedTuple):
    """Keep a workspace on a display arranged like this; None for no more."""

    spot: ArrangedSpot
    form: Sharing | None


class Float(NamedTuple):
    """Let a window stand where it is put on a workspace that stays arranged, or no more."""

    window: int
    on: bool


class Restore(NamedTuple):
    """Let everything stay arranged as it did: which spots, their divisions, and what floats.

    `placed`: windows that float, too, if others stay arranged where they are.
    """

    kept: KeptArrangements
    placed: frozenset[int] = frozenset()


FINDER, GRID, KEYS, LAYOUT, LETTERS, PLACE = "finder", "grid", "keys", "layout", "letters", "place"
USUAL_GRID: Final = "6x4"  # its cells
WALK: Final = "walk"  # the finder, for as long as the modifiers of its key are held
Order = Arrange | Float | Restore | Expect | Tell | Enter | Pause | Stop | ShowView
