"""Chords that others own: the system, kinds of programs, the user's own programs."""

from typing import Final, NamedTuple

from jaklet.core.values.chords import Keys
from jaklet.core.values.scopes import Scope

EVERYWHERE, PROGRAMS, TERMINALS, BROWSERS = "everywhere", "programs", "terminals", "browsers"
# Where a chord is reserved, in words for a message.
WHERE: Final = {
    EVERYWHERE: "everywhere",
    PROGRAMS: "in programs with windows",
    TERMINALS: "in terminals",
    BROWSERS: "in programs that browse",
}


class ReservedChord(NamedTuple):
    """A chord, what it does there, and who says so. `where`: one of `WHERE`, or an app's name, of `app`."""

    keys: Keys
    does: str
    owner: str
    where: str
    app: str = ""
    source: str = ""

    def lost_to(self, scope: Scope) -> bool:
        """True if a binding with this scope takes the chord away without saying so.

        One that is `only in` some apps says where it takes the chord from kinds of programs.
        """
        if self.app:
            return scope.overlaps(Scope(frozenset({self.app}), only=True))
        return self.where == EVERYWHERE or not scope.only

    @property
    def told(self) -> str:
        """What would be lost and where: `copying, in programs with windows`."""
        return f"{self.does}, {f'in {self.app}' if self.app else WHERE[self.where]}"
