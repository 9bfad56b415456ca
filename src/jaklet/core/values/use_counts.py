"""What is counted of use: keys that fired, apps that came to the front by no key, sequences that were given up.

And recalls after which windows were put right by hand.
"""

from typing import NamedTuple

from jaklet.core.values.chords import Keys, keys_written
from jaklet.core.values.config import Binding

FIRED, REACHED, GIVEN_UP, PUT_RIGHT = "fired", "reached", "given up", "put right"


class Count(NamedTuple):
    """How often something happened on a day (ISO 8601)."""

    day: str
    kind: str
    what: str
    times: int


def counted_as(keys: Keys, layer: str, action: str) -> str:
    """Return the name that a key's presses are counted under.

    The action is part of it, as another action is another count.
    """
    return f"{keys_written(keys)}{f' ({layer})' if layer else ''}: {action}"


def name_of(binding: Binding) -> str:
    """Return the name that a binding's presses are counted under."""
    return counted_as(binding.keys, binding.layer, binding.action.text)
