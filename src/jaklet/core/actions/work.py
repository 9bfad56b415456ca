"""Work that may have to wait for somebody else: a lock, a file or a database that another process holds.

A task never waits itself. It asks whoever runs it to do such work (`tasks.waited_for`): a command does it at once, a
listener in a thread beside its loop, so that no key waits.
"""

from collections.abc import Callable
from typing import Any


class Work:
    """A call whose result is there once `is_done`; whatever it raises is raised again by `result`."""

    __slots__ = ("_call", "_fault", "_value", "is_done")

    def __init__(self, call: Callable[[], Any]) -> None:
        self._call = call
        self._value: Any = None
        self._fault: Exception | None = None
        self.is_done = False

    def run(self) -> None:
        """Do it."""
        try:
            self._value = self._call()
        except Exception as fault:  # it is raised where the result is asked for
            self._fault = fault
        self.is_done = True

    def result(self) -> Any:
        """Return the call's value, or raise its error."""
        if self._fault is not None:
            raise self._fault
        return self._value
