"""GNOME's settings, by its own program for them (gsettings(1)), and the shortcuts that they publish."""

import ast
import re
import subprocess
from typing import Final, NamedTuple

from jaklet.core.values.chords import Chord, Modifier, keysym_of
from jaklet.core.values.errors import DeskError

# Modifiers of an accelerator as GTK writes them (gtk_accelerator_parse), in small letters.
_MODIFIERS: Final = {
    "shift": Modifier.SHIFT, "shft": Modifier.SHIFT, "control": Modifier.CTRL, "ctrl": Modifier.CTRL,
    "ctl": Modifier.CTRL, "primary": Modifier.CTRL, "alt": Modifier.ALT, "mod1": Modifier.ALT,
    "super": Modifier.SUPER, "meta": Modifier.SUPER, "mod4": Modifier.SUPER, "mod5": Modifier.ALTGR,
}  # fmt: skip
_ACCELERATOR: Final = re.compile(r"(?P<held>(?:<[^<>]+>)*)(?P<key>\w+)")
_ABOVE_TAB: Final = ("above_tab", "grave")  # the key above Tab has a name of its own in Mutter


class ShellShortcut(NamedTuple):
    """A shortcut that stands in the settings: where, what it is for, and its accelerator.

    `path`: of a custom one; empty for any other.
    """

    schema: str
    path: str
    key: str
    purpose: str
    accelerator: str

    @property
    def owner(self) -> str:
        """The program that has it, and what for."""
        program = "GNOME Settings" if "settings-daemon" in self.schema else "GNOME Shell"
        return f"{program} ({self.purpose})"


def chord_of(accelerator: str) -> Chord | None:
    """Return the chord of an accelerator, as `<Super>Left`; None for one that names no key."""
    parts = _ACCELERATOR.fullmatch(accelerator)
    if parts is None:
        return None
    held = [_MODIFIERS.get(name.lower()) for name in re.findall("<([^<>]+)>", parts["held"])]
    name = parts["key"].lower()
    keysym = keysym_of(_ABOVE_TAB[1] if name == _ABOVE_TAB[0] else name)
    if keysym is None or None in held:
        return None
    return Chord(sum({int(one) for one in held if one}), keysym)


def texts_of(schema: str, key: str) -> list[str]:
    """Return the texts of a setting; raises `DeskError`."""
    return [str(one) for one in ast.literal_eval(gsettings("get", schema, key).strip().removeprefix("@as "))]


def gsettings(*words: str) -> str:
    """Return the output of the program for settings; raises `DeskError`."""
    try:
        return subprocess.run(["gsettings", *words], capture_output=True, text=True, check=True).stdout
    except (OSError, subprocess.CalledProcessError) as fault:
        raise DeskError("the settings of GNOME cannot be read or changed", "see to `gsettings` (glib)") from fault
