"""What other programs have lent of their shortcuts, in a file: so that it can be given back whatever has happened."""

import contextlib
import json
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any, Final, Generic, TypeVar

from jaklet.files import write_whole

LENT: Final = "{}-lent.json"
T = TypeVar("T")


class LentFile(Generic[T]):
    """The file of a desktop, in the folder for what is to last. Empty, there is none.

    `row_of`: returns a row by the values that were written for it; raises `TypeError` or `ValueError`.
    """

    def __init__(self, state: Callable[[], Path], desktop: str, row_of: Callable[..., T]) -> None:
        self._state, self._name, self._row_of = state, LENT.format(desktop), row_of

    def read(self) -> list[T]:
        """Return the rows that were written last; none from a file that is broken."""
        try:
            return [self._row_of(*values) for values in json.loads((self._state() / self._name).read_text())]
        except (OSError, ValueError, TypeError):
            return []

    def write(self, lent: Iterable[Any]) -> None:
        """Write what is lent now."""
        path, rows = self._state() / self._name, list(lent)
        if rows:
            path.parent.mkdir(parents=True, exist_ok=True)
            write_whole(path, json.dumps(rows) + "\n")
            return
        with contextlib.suppress(OSError):
            path.unlink()
