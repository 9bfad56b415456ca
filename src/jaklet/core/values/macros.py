"""Macros as they are written: named lists of steps, whose sentences are not read yet."""

from collections.abc import Iterator
from typing import NamedTuple

from jaklet.core.values.spans import Spot

STOP, GO_ON = "stop", "go on"  # what a failed step does to its macro
REFUSE, WAIT, REPLACE = "refuse", "wait", "replace"  # what becomes of a macro that is begun while another runs
DO, WHEN, REPEAT = "do", "when", "repeat"


class WrittenStep(NamedTuple):
    """A step as it stands in the file. `kind`: `do`, `when` or `repeat`; `text`: the action, condition or number.

    `then`: the steps that it leads to. `otherwise`: those for a condition that does not hold, or for an action that
    fails; None where there are none.
    """

    kind: str
    text: str
    spot: Spot
    then: tuple["WrittenStep", ...] = ()
    otherwise: tuple["WrittenStep", ...] | None = None
    sure: bool = False

    def every(self) -> Iterator["WrittenStep"]:
        """Yield this step and all that it leads to."""
        yield self
        for one in (*self.then, *(self.otherwise or ())):
            yield from one.every()


class Macro(NamedTuple):
    """A named list of steps. `parameters`: their names with what they are where nothing is said, None for nothing.

    `on_failure`: `stop` or `go on`; `meanwhile`: what becomes of it if another macro runs: `refuse`, `wait`, `replace`.
    """

    name: str
    steps: tuple[WrittenStep, ...]
    parameters: tuple[tuple[str, str | None], ...] = ()
    on_failure: str = STOP
    meanwhile: str | None = None
    note: str = ""

    def every(self) -> Iterator[WrittenStep]:
        """Yield every step, as deep as it may stand."""
        for step in self.steps:
            yield from step.every()


def outline(steps: tuple[WrittenStep, ...], depth: int = 0) -> Iterator[str]:
    """Yield steps as they are written, those that another leads to further in."""
    indent = "  " * depth
    for step in steps:
        yield f"{indent}{'' if step.kind == DO else step.kind + ' '}{step.text}"
        yield from outline(step.then, depth + 1)
        if step.otherwise:
            yield f"{indent}else"
            yield from outline(step.otherwise, depth + 1)
