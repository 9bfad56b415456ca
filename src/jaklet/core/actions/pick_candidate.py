"""One thing that `pick` finds. It is small, as the finder is shown before all else."""

from collections.abc import Callable
from typing import TYPE_CHECKING, NamedTuple

if TYPE_CHECKING:
    from jaklet.core.actions.ports.desktop import Moment
    from jaklet.core.actions.tasks import Task, TaskContext


class Candidate(NamedTuple):
    """One thing to be found. `keys`: the chords and words that would have done it. `does`: the action, in words."""

    kind: str
    label: str
    detail: str
    keys: tuple[str, ...]
    does: str
    begin: "Callable[[TaskContext, Moment], Task]"
