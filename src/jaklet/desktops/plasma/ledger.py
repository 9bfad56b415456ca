"""What other programs have lent of their shortcuts, in a file: so that it can be given back whatever has happened."""

import contextlib
import json
from collections.abc import Callable
from pathlib import Path
from typing import Final

from jaklet.desktops.plasma.accelerators import LentShortcut
from jaklet.files import write_whole

FILE: Final = "plasma-lent.json"


class LentFile:
    """The file, in the folder for what is to last. Empty, there is none."""

    def __init__(self, state: Callable[[], Path]) -> None:
        self._state = state

    def read(self) -> list[LentShortcut]:
        """Return the shortcuts that were written last; none from a file that is broken."""
        try:
            told = json.loads((self._state() / FILE).read_text())
            return [
                LentShortcut(int(code), [str(word) for word in action], [int(key) for key in keys])
                for code, action, keys in told
            ]
        except (OSError, ValueError, TypeError):
            return []

    def write(self, lent: list[LentShortcut]) -> None:
        """Write what is lent now."""
        path = self._state() / FILE
        if lent:
            path.parent.mkdir(parents=True, exist_ok=True)
            write_whole(path, json.dumps(lent) + "\n")
            return
        with contextlib.suppress(OSError):
            path.unlink()
