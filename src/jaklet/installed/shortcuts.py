"""The shortcuts that desktops publish in their settings (GSettings schemas), as far as they are installed."""

import re
import shutil
import subprocess
from collections.abc import Iterable, Iterator
from typing import Final, NamedTuple

from jaklet.core.keys.accelerators import parse_accelerator
from jaklet.core.values.chords import Chord

LIMIT: Final = 10.0  # seconds
_LINE: Final = re.compile(r"(\S+) (\S+) (.+)")
_SCHEMA: Final = re.compile(r"keybindings|media-keys|shortcuts", re.IGNORECASE)


class Shortcut(NamedTuple):
    """A chord that a desktop uses. `setting`: the schema and key that say so."""

    chord: Chord
    does: str
    setting: str


def published() -> list[Shortcut]:
    """Return the shortcuts in the settings of this machine; none where there is no such system."""
    program = shutil.which("gsettings")
    if program is None:
        return []
    try:
        done = subprocess.run(
            [program, "list-recursively"], capture_output=True, text=True, timeout=LIMIT, check=False, errors="replace"
        )
    except (OSError, subprocess.TimeoutExpired):
        return []
    return list(shortcuts_in(done.stdout.splitlines()))


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
