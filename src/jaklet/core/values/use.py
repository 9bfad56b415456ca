"""What is counted of use: which keys fired, and which apps came to the front by no key."""

from typing import Final, NamedTuple

from jaklet.core.values.chords import Keys, keys_written
from jaklet.core.values.config import Binding
from jaklet.core.values.sentences import Action

FIRED, REACHED = "fired", "reached"
KINDS: Final = (FIRED, REACHED)


class Count(NamedTuple):
    """How often something happened on a day (ISO 8601)."""

    day: str
    kind: str
    what: str
    times: int


def counted_as(keys: Keys, layer: str, action: Action) -> str:
    """Return as what a key is counted: with what it does, as it is another one once it does something else."""
    return f"{keys_written(keys)}{f' ({layer})' if layer else ''}: {action.text}"


def name_of(binding: Binding) -> str:
    """Return as what a binding is counted."""
    return counted_as(binding.keys, binding.layer, binding.action)
