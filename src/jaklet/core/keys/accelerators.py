"""Shortcuts as desktops publish them in their settings: `<Super>Up`, `<Primary><Alt>Delete` (GTK accelerators)."""

import re
from typing import Final

from jaklet.core.values.chords import Chord, Modifier, keysym_of
from jaklet.core.values.regexes import regex

_MODIFIERS: Final = {
    "primary": Modifier.CTRL,
    "control": Modifier.CTRL,
    "ctrl": Modifier.CTRL,
    "ctl": Modifier.CTRL,
    "alt": Modifier.ALT,
    "mod1": Modifier.ALT,
    "super": Modifier.SUPER,
    "mod4": Modifier.SUPER,
    "shift": Modifier.SHIFT,
}
_FORM: Final = regex(r"((?:<\w+>)*)(\w+)")


def parse_accelerator(text: str) -> Chord | None:
    """Return the chord of an accelerator; None for one that is switched off, or that no chord can be."""
    found = _FORM.fullmatch(text.strip())
    if not found:
        return None
    modifiers = 0
    for name in re.findall(r"<(\w+)>", found[1]):
        flag = _MODIFIERS.get(name.lower())
        if flag is None:
            return None
        modifiers |= flag
    keysym = keysym_of(found[2])
    return Chord(int(modifiers), keysym) if keysym is not None else None
