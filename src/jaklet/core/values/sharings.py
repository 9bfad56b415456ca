"""Forms of sharing: how the windows of a workspace or display share it, as they come and go."""

from typing import Final, NamedTuple

from jaklet.core.values.directions import SIDES
from jaklet.core.values.forms import HALF
from jaklet.core.values.geometry import Length

COLUMNS, ROWS, GRID, STACK, LARGE = "columns", "rows", "grid", "stack", "large"
WAYS: Final = (COLUMNS, ROWS, GRID)  # in which windows can share a display once, too
PLAIN_FORMS: Final = (*WAYS, STACK)  # those that need no more than their name
NO, YES, FIRST, LAST = "no", "yes", "first", "last"  # how an app takes part


class Sharing(NamedTuple):
    """A form by its name. `large`: how many large windows; `side` and `share`: where they are, and what they have."""

    form: str
    large: int = 1
    side: str = SIDES[0]
    share: Length = HALF

    def __str__(self) -> str:
        if self.form != LARGE:
            return self.form
        return f"{self.large if self.large > 1 else 'one'} large {self.side} {self.share}"
