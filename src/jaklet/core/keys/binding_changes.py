"""What of the config is not in use yet: the file as it is now, beside what a listener goes by."""

from collections.abc import Iterable, Mapping
from typing import NamedTuple

from jaklet.core.values.config import Config


class BindingChanges(NamedTuple):
    """Bindings in words: those that are new or changed, those that are gone, and those that no reload makes work."""

    added: tuple[str, ...]
    gone: tuple[str, ...]
    refused: tuple[str, ...]


def pending(config: Config, listening: Iterable[str], refused: Mapping[str, str]) -> BindingChanges:
    """Compare a config with the bindings of a listener. `refused`: chords that it could not have, and why."""
    mine, its = {binding.described for binding in config.live}, set(listening)
    kept = [(binding.described, str(binding.keys[0])) for binding in config.live if not binding.layer]
    return BindingChanges(
        tuple(binding.described for binding in config.live if binding.described not in its),
        tuple(text for text in dict.fromkeys(listening) if text not in mine),
        tuple(f"{text}: {refused[first]}" for text, first in kept if text in its and first in refused),
    )
