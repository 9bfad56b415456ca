"""What the user's files say, as values."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Final, NamedTuple

from jaklet.core.apps import App, Claims
from jaklet.core.chords import Keys, keys_written
from jaklet.core.desk import Desk, Display
from jaklet.core.places import Place
from jaklet.core.sentences import Action
from jaklet.core.spans import Spot

DEFAULT_WAIT: Final = 10.0
DEFAULT_SEQUENCE: Final = 2.0
DEFAULT_TERMINAL: Final = ("x-terminal-emulator", "-e")  # Debian policy 11.8.3; other systems name theirs


class Settings(NamedTuple):
    """`gap` in pixels; `wait`: how long a launched program may take to show its window, in seconds.

    `terminal`: the command to which a program that runs in a terminal is added.
    `sequence`: how long the next chord of a sequence is waited for, in seconds.
    `at_once`: a short word is done as soon as it stands in `pick`, without Enter.
    """

    gap: int = 0
    wait: float = DEFAULT_WAIT
    terminal: tuple[str, ...] = DEFAULT_TERMINAL
    at_once: bool = False
    sequence: float = DEFAULT_SEQUENCE


DEFAULTS: Final = Settings()


class Binding(NamedTuple):
    """A chord or sequence tied to an action, and where it stands. One that is `off` is listed and does nothing.

    `family`: chord and action as they are written, where they stand for several.
    """

    keys: Keys
    action: Action
    spot: Spot
    note: str = ""
    sure: bool = False  # it may kill without asking
    heading: str = ""
    off: bool = False
    family: tuple[str, str] | None = None

    @property
    def written(self) -> str:
        """The chords as they are written."""
        return keys_written(self.keys)


class Word(NamedTuple):
    """A short name for an action, to be typed. `sure`: it may kill without asking."""

    action: Action
    note: str = ""
    sure: bool = False


@dataclass(frozen=True)
class Config:
    """A whole configuration that has been read. Role names of displays map to connector names."""

    settings: Settings = DEFAULTS
    displays: Mapping[str, str] = field(default_factory=dict)
    apps: Mapping[str, App] = field(default_factory=dict)
    places: Mapping[str, Place] = field(default_factory=dict)
    bindings: tuple[Binding, ...] = ()
    words: Mapping[str, Word] = field(default_factory=dict)

    @cached_property
    def claims(self) -> Claims:
        """Which window belongs to which app."""
        return Claims(self.apps.values())

    @cached_property
    def live(self) -> tuple[Binding, ...]:
        """The bindings that are not off."""
        return tuple(binding for binding in self.bindings if not binding.off)

    @cached_property
    def by_keys(self) -> Mapping[Keys, Binding]:
        """The bindings that are not off, by their chords."""
        return {binding.keys: binding for binding in self.live}

    def word(self, text: str) -> Word | None:
        """Return what a short word stands for, in capitals or not."""
        small = text.strip().lower()
        return next((word for name, word in self.words.items() if name.lower() == small), None)

    def display(self, name: str, desk: Desk) -> Display | None:
        """Return the display with this role name, else with this connector name; None if it is not there."""
        return desk.display_named(self.displays.get(name, name))

    def role_of(self, display: Display) -> str:
        """Return the name the user gave a display, else its connector name."""
        return next((role for role, name in self.displays.items() if name == display.name), display.name)
