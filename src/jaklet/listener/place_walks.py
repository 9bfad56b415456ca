"""Walks through the alternatives of a place, one for each press of a key: what is to be seen of them."""

from typing import Final

from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.places import resolve_place
from jaklet.core.values.sentences import Action

AGAIN: Final = 3.0  # seconds in which a key that is pressed again goes on with a walk


class PlaceWalks:
    """Remembers which key was pressed last. A walk is seen from its second step on; the first is a key like others."""

    def __init__(self) -> None:
        self._last: tuple[str, int, float] | None = None

    def step(self, action: Action, desk: Desk, config: Config, now: float) -> tuple[str, int] | None:
        """Take in that an action of a key is done; return place and window where it goes on with a walk."""
        ref, app = action.named("PLACE"), action.named("APP")
        window = desk.latest(config.claims.windows_of(app.name, desk)) if app else desk.front
        if action.verb != "place" or ref is None or ref.place is None or window is None:
            self._last = None
            return None
        last, self._last = self._last, (action.text, window.id, now)
        goes_on = last is not None and last[:2] == self._last[:2] and now < last[2] + AGAIN
        walks = goes_on and len(resolve_place(ref.place, config.places).alternatives) > 1
        return (ref.name, window.id) if walks else None
