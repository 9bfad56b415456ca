"""Whoever shows things over the windows, and has the keyboard while one of them is open."""

from collections.abc import Callable
from typing import Protocol

from jaklet.core.keys.strokes import TypedKey
from jaklet.core.values.desk import Desk
from jaklet.core.values.orders import ShowView


class Screen(Protocol):
    """Shows cards. What it does with them happens elsewhere: it is told, and never waited for."""

    @property
    def is_open(self) -> bool:
        """True while something is open that has all keys."""
        ...

    def open(self, show: ShowView, desk: Desk) -> str:
        """Begin to show something; return why that cannot be, empty if it can. What was open before is closed."""
        ...

    def key(self, typed: TypedKey) -> None:
        """Hand a key to what is open."""
        ...

    def settled(self, then: Callable[[], None]) -> None:
        """Call this once all has been dealt with so far: what was opened is seen, what was typed is done."""
        ...

    def close(self) -> None:
        """Close what is open."""
        ...


class NoScreen:
    """Where nothing can be shown."""

    is_open = False

    def open(self, show: ShowView, desk: Desk) -> str:
        """Say that it cannot."""
        return "nothing can be shown over the windows here"

    def key(self, typed: TypedKey) -> None:
        """Never called."""

    def settled(self, then: Callable[[], None]) -> None:
        """Call it at once."""
        then()

    def close(self) -> None:
        """Nothing is open."""
