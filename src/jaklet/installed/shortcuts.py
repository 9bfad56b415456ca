"""The shortcuts that desktops publish in their settings (GSettings schemas), as far as they are installed."""

import re
import shutil
import subprocess
from collections.abc import Iterable, Iterator, Mapping
from typing import Final, NamedTuple

from jaklet.core.keys.accelerators import parse_accelerator
from jaklet.core.values.chords import Chord
from jaklet.core.values.regexes import regex

LIMIT: Final = 10.0  # seconds
_LINE: Final = regex(r"(\S+) (\S+) (.+)")
_SCHEMA: Final = regex(r"keybindings|media-keys|shortcuts", re.IGNORECASE)


# How the schemas of a desktop begin, by the names of the desktop (XDG_CURRENT_DESKTOP) and of its window managers.
DESKTOPS: Final[Mapping[str, tuple[frozenset[str], frozenset[str]]]] = {
    "org.gnome.": (
        frozenset({"gnome", "gnome-flashback", "gnome-classic", "unity", "budgie"}),
        frozenset({"gnome shell", "mutter", "metacity"}),
    ),
    "org.mate.": (frozenset({"mate"}), frozenset({"marco"})),
    "org.cinnamon.": (frozenset({"x-cinnamon", "cinnamon"}), frozenset({"muffin", "cinnamon"})),
}


class Shortcut(NamedTuple):
    """A chord that a desktop uses. `setting`: the schema and key that say so."""

    chord: Chord
    does: str
    setting: str


class DesktopSettings(NamedTuple):
    """What the settings of the running desktop say: its shortcuts, and for modifiers how to give their keys free."""

    shortcuts: tuple[Shortcut, ...]
    modifiers: Mapping[str, str]


def published(desktop: str, manager: str) -> DesktopSettings:
    """Return the settings of the running desktop; empty where there is no such system, or no known one runs.

    `desktop`: $XDG_CURRENT_DESKTOP; `manager`: the window manager's name.
    """
    program = shutil.which("gsettings")
    schemas = schemas_of(desktop, manager)
    if program is None or not schemas:
        return DesktopSettings((), {})
    try:
        done = subprocess.run(
            [program, "list-recursively"], capture_output=True, text=True, timeout=LIMIT, check=False, errors="replace"
        )
    except (OSError, subprocess.TimeoutExpired):
        return DesktopSettings((), {})
    lines = [line for line in done.stdout.splitlines() if line.startswith(schemas)]
    return DesktopSettings(tuple(shortcuts_in(lines)), modifiers_in(lines))


def schemas_of(desktop: str, manager: str) -> tuple[str, ...]:
    """Return how the schemas of the running desktop begin: settings of others that are installed count for nothing."""
    words, names = {word.lower() for word in desktop.split(":") if word}, manager.lower()
    return tuple(
        schema
        for schema, (desktops, managers) in DESKTOPS.items()
        if words & desktops or (not words and any(name in names for name in managers))
    )


def modifiers_in(lines: Iterable[str]) -> dict[str, str]:
    """Return the modifiers whose keys are shortcuts by themselves, each with the command that gives its key free."""
    found: dict[str, str] = {}
    for line in lines:
        setting = _LINE.fullmatch(line.strip())
        keysyms = re.findall(r"\b(Super|Control|Alt)_[LR]\b", setting[3]) if setting else []
        if setting and keysyms and not re.search(r"[<\[]", setting[3]):
            word = {"Super": "super", "Control": "ctrl", "Alt": "alt"}[keysyms[0]]
            found.setdefault(word, f"set it free with: gsettings set {setting[1]} {setting[2]} ''")
    return found


def shortcuts_in(lines: Iterable[str]) -> Iterator[Shortcut]:
    """Yield the shortcuts in lines such as `org.example.wm.keybindings close ['<Alt>F4']`."""
    for line in lines:
        found = _LINE.fullmatch(line.strip())
        if not found or not _SCHEMA.search(found[1]):
            continue
        for text in re.findall(r"'([^']*)'", found[3]):
            chord = parse_accelerator(text)
            if chord:
                yield Shortcut(chord, found[2].replace("-", " "), f"{found[1]} {found[2]}")
