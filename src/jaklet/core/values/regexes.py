"""Regular expressions that are compiled when they are first used: of all that a command loads, it uses a few."""

import re
from typing import Any, cast


class _Late:
    """Stands for a pattern; from its first use on, what it was asked for is the pattern's own."""

    def __init__(self, text: str, flags: int) -> None:
        self._text, self._flags = text, flags

    def __getattr__(self, name: str) -> Any:
        pattern = self.__dict__.get("_compiled") or re.compile(self._text, self._flags)
        self._compiled = pattern
        found = self.__dict__[name] = getattr(pattern, name)
        return found


def regex(text: str, flags: int = 0) -> "re.Pattern[str]":
    """Return a pattern as `re.compile` does; a text that is none is only told of when it is used."""
    return cast("re.Pattern[str]", _Late(text, flags))
