"""An event of the config: an event and the action that it starts."""

from typing import NamedTuple

from jaklet.core.values.scopes import EVERYWHERE, Scope
from jaklet.core.values.sentences import Action, Ref
from jaklet.core.values.spans import Spot


class EventBinding(NamedTuple):
    """An event (`language.events`), what it names, and what is done then. `scope`: the apps to be in front."""

    kind: str
    refs: tuple[Ref, ...]
    action: Action
    spot: Spot
    text: str
    scope: Scope = EVERYWHERE
    note: str = ""
