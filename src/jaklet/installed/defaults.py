"""The programs that the user has chosen (MIME Applications Associations 1.0.1, and Debian's alternatives)."""

import os
import shutil
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Final

from jaklet.core.values.desktop_entries import groups_of, split_list
from jaklet.files import read_ordinary
from jaklet.installed.desktop_entries import SUFFIX, data_folders

_GROUP: Final = "Default Applications"
_TYPES: Final = {"WebBrowser": "x-scheme-handler/http", "TextEditor": "text/plain", "FileManager": "inode/directory"}
_ALTERNATIVES: Final = {"WebBrowser": "x-www-browser", "TerminalEmulator": "x-terminal-emulator"}


def default_ids(environ: Mapping[str, str] = os.environ) -> dict[str, list[str]]:
    """Return the ids of the chosen desktop entries by category, the first choice first."""
    chosen: dict[str, list[str]] = {category: [] for category in _TYPES}
    for path in _lists(environ):
        try:
            group = groups_of(read_ordinary(path).decode("utf-8", "replace")).get(_GROUP, {})
        except OSError:
            continue  # most of the places have no such file
        for category, kind in _TYPES.items():
            chosen[category] += [name.removesuffix(SUFFIX) for name in split_list(group.get(kind, ""))]
    return chosen


def default_programs() -> dict[str, str]:
    """Return the programs behind Debian's alternatives by category, as file names."""
    paths = {category: shutil.which(name) for category, name in _ALTERNATIVES.items()}
    return {category: os.path.basename(os.path.realpath(path)) for category, path in paths.items() if path}


def _lists(environ: Mapping[str, str]) -> Iterator[Path]:
    """Yield the lists of defaults, the most important first; those of the running desktop before the common ones."""
    home = environ.get("XDG_CONFIG_HOME") or os.path.expanduser("~/.config")
    folders = [home, *(environ.get("XDG_CONFIG_DIRS") or "/etc/xdg").split(":")]
    folders += [str(folder / "applications") for folder in data_folders(environ)]
    desktops = [name.lower() + "-" for name in (environ.get("XDG_CURRENT_DESKTOP") or "").split(":") if name]
    for folder in folders:
        yield from (Path(folder) / f"{desktop}mimeapps.list" for desktop in (*desktops, ""))
