"""The steps that can be undone, and the layouts that stood."""

from typing import NamedTuple, Protocol

from jaklet.core.values.desk import WindowShape
from jaklet.core.values.geometry import Rect
from jaklet.core.values.sharings import KeptArrangements


class FormerWindow(NamedTuple):
    """How a window was before a step: what it takes to put it back, and what it was called."""

    id: int
    name: str
    frame: Rect
    shape: WindowShape
    minimised: bool
    above: bool
    workspace: int | None


class UndoStep(NamedTuple):
    """Changes made together, as they can be undone: the windows as they were, and the desk around them.

    Of the desk it has what was changed: `stacking` from bottom to top, the `active` window, the `workspace` that was
    shown, whether there were `gaps`. `kept`: how everything stayed arranged, None where nothing did. `at`: seconds
    since the epoch.
    """

    action: str
    windows: tuple[FormerWindow, ...]
    stacking: tuple[int, ...] = ()
    active: int | None = None
    workspace: int | None = None
    gaps: bool | None = None
    at: float = 0.0
    kept: KeptArrangements | None = None


class History(Protocol):
    """The steps that can be undone, of one desk, the last one first."""

    def keep(self, step: UndoStep) -> int:
        """Add a step, and return its number."""
        ...

    def more(self, number: int, step: UndoStep) -> int:
        """Replace the step with this number, which has gone on meanwhile; return the number."""
        ...

    def steps(self) -> list[tuple[int, UndoStep]]:
        """Return the steps with their numbers, the last one first."""
        ...

    def drop(self, number: int) -> None:
        """Remove a step."""
        ...

    def stands(self, layout: str, saved: bool = False) -> None:
        """Remember that a layout was recalled, or saved."""
        ...

    def layouts(self) -> list[str]:
        """Return the layouts that were recalled or saved on this desk, the last one first."""
        ...
