"""From the keys of a terminal to chords: a terminal has no Super, so that the config's usual modifiers are added."""

from collections import Counter
from typing import Final

from jaklet.core.values.chords import Chord, Modifier, keysym_of
from jaklet.core.values.config import Config

# Names of keys as prompt_toolkit has them, where they are not those of X.
_NAMED: Final = {"c-m": "return", "enter": "return", "c-h": "backspace", "c-@": "space", "c-i": "tab", "s-tab": "tab"}
_PREFIXES: Final = {"c-": Modifier.CTRL, "s-": Modifier.SHIFT}
PLAIN: Final = frozenset({"escape", "f1", "f2", "f3", "f4", "f5", "f6", "f7", "f8", "f9", "f10", "f11", "f12"})


def base_of(config: Config) -> int:
    """Return the modifiers that most bindings outside layers are pressed with, Shift left aside."""
    held = Counter(one.keys[0].modifiers & ~Modifier.SHIFT for one in config.live if not one.layer)
    return max(held, key=lambda modifiers: (held[modifiers], -modifiers), default=int(Modifier.SUPER))


def chord_of(key: str, base: int) -> Chord | None:
    """Return the chord for a key of a terminal, with the `base` modifiers added; None for one that is unknown.

    What is pressed with Ctrl is meant as it is, and so are Escape and the function keys.
    """
    name, modifiers = _NAMED.get(key, key), 0
    if len(name) > 2:
        for prefix, modifier in _PREFIXES.items():
            if name.startswith(prefix):
                name, modifiers = name.removeprefix(prefix), modifiers | modifier
    if len(name) == 1 and name.isalpha() and name != name.lower():
        modifiers |= Modifier.SHIFT
    keysym = keysym_of("space" if name == " " else name)
    if keysym is None:
        return None
    meant = modifiers & Modifier.CTRL or name in PLAIN
    return Chord(int(modifiers if meant else modifiers | base), keysym)
