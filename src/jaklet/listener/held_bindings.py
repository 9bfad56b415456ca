"""A key that is held: what it was pressed for, and the one step that all its repeats can be undone by."""

from jaklet.core.actions.ports.history import History, UndoStep
from jaklet.core.values.config import Binding


class HeldHistory:
    """A history (`core.actions.ports.history.History`) in which all that a held key changes is one step."""

    def __init__(self, history: History) -> None:
        self._history = history
        self._step: UndoStep | None = None
        self._number = 0
        self.steps, self.drop = history.steps, history.drop
        self.stands, self.layouts = history.stands, history.layouts

    def keep(self, step: UndoStep) -> int:
        """Add a step, or what is new in it to the one that is there; return the number of that."""
        if self._step is None:
            self._step, self._number = step, self._history.keep(step)
            return self._number
        return self.more(self._number, step)

    def more(self, number: int, step: UndoStep) -> int:
        """Take in what a step has that is not known yet: each window is known as it was before the key went down."""
        known = self._step
        assert known is not None
        there = {was.id for was in known.windows}
        new = tuple([was for was in step.windows if was.id not in there])
        whole = known._replace(
            windows=(*known.windows, *new),
            stacking=known.stacking or step.stacking,
            active=step.active if known.active is None else known.active,
            workspace=step.workspace if known.workspace is None else known.workspace,
            gaps=step.gaps if known.gaps is None else known.gaps,
            kept=step.kept if known.kept is None else known.kept,
        )
        if whole != known:
            self._step = whole
            self._history.more(number, whole)
        return number


class HeldBinding:
    """What a key that is held was pressed for, and what is to be done when it is let go.

    `passed`: it is the program's. `history`: where the steps of a key go that repeats. `has_failed`: one of its repeats
    has, which was told of.
    """

    def __init__(self, binding: Binding | None, on_release: Binding | None, passed: bool) -> None:
        self.binding = binding
        self.on_release = on_release
        self.passed = passed
        self.history: HeldHistory | None = None
        self.has_failed = False
