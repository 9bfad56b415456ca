"""Scopes: the apps in which a binding is live."""

from typing import Final, NamedTuple

from jaklet.core.values.words import either


class Scope(NamedTuple):
    """`only`: live while a window of one of these apps is in front; else live unless one of them is."""

    apps: frozenset[str] = frozenset()
    only: bool = False

    def holds(self, app: str | None) -> bool:
        """True if a binding with this scope is live while this app, or none that is known, is in front."""
        return (app in self.apps) is self.only

    def overlaps(self, other: "Scope") -> bool:
        """True if there can be a window in front for which both are live; one of no known app is always possible."""
        if self.only and other.only:
            return not self.apps.isdisjoint(other.apps)
        if self.only:
            return not self.apps <= other.apps
        if other.only:
            return not other.apps <= self.apps
        return True

    def __str__(self) -> str:
        if not self.apps:
            return "everywhere"
        return f"{'only' if self.only else 'not'} in {either(sorted(self.apps))}"


EVERYWHERE: Final = Scope()
