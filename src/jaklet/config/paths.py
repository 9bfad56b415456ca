"""Where the user's files are (XDG base directories), and which of them is what."""

import os
import re
from pathlib import Path
from typing import Final, NamedTuple

from jaklet.core.values.errors import UsageError
from jaklet.core.values.regexes import regex
from jaklet.core.values.words import did_you_mean
from jaklet.locations import FILE, VARIABLE, base_folder, config_file

LAYOUTS, TRIALS = "layouts", "trials"
BESIDE: Final = (LAYOUTS, TRIALS)  # folders beside a config whose files belong to it
TABLETOP: Final = "tabletop"
_OF_TABLETOPS: Final = regex(r"^(?:tabletop|programs):", re.MULTILINE)  # sections that no other file has


class ConfigPaths(NamedTuple):
    """The config file, the folder of layouts beside it, and both as the user would write them."""

    config: Path
    layouts: Path
    shown: str

    @property
    def shown_layouts(self) -> str:
        """The folder of layouts as the user would write it."""
        return os.path.join(os.path.dirname(self.shown), LAYOUTS)


def locate_config(given: str | None) -> ConfigPaths:
    """Return where the files are: the path given, else $JAKLET_CONFIG, else the standard place.

    A folder stands for the `jaklet.yaml` in it. Raises `UsageError` where there is no such file.
    """
    places = place_for(given)
    given = given or os.environ.get(VARIABLE)
    if not places.config.exists():
        remedy = "`jaklet init` writes a first one; or name another with --config PATH"
        if not given and Path(FILE).is_file():
            remedy = "there is one in this folder; name it with --config ."
        elif given:
            there = [shown_path(one) for one in sorted(places.config.parent.glob("*.yaml"))]
            remedy = did_you_mean(places.shown, there, "name it with --config PATH")
        raise UsageError(f"there is no config at {places.shown}", remedy)
    return places


def place_for(given: str | None) -> ConfigPaths:
    """Return where the files are or would be: the path given, else $JAKLET_CONFIG, else the standard place."""
    path = Path(config_file(given))
    return ConfigPaths(path, path.parent / LAYOUTS, shown_path(path))


def companion_folders(config: Path) -> tuple[Path, ...]:
    """Return the folders whose files belong to a config, there or not."""
    return tuple(config.parent / name for name in BESIDE)


def config_of(path: Path) -> Path:
    """Return the config that a file belongs to: its own folder's, or that of the folder above; else the file itself."""
    config = (path.parent.parent if path.parent.name in BESIDE else path.parent) / FILE
    return config if config.exists() else path


def kind_of(path: Path, text: str) -> str:
    """Return which kind of file this is: by its folder, and a tabletop by what is in no other."""
    beside = {LAYOUTS: "layout", TRIALS: "trial"}.get(path.parent.name, "config")
    return TABLETOP if beside != "layout" and _OF_TABLETOPS.search(text) else beside


def state_folder() -> Path:
    """Return the folder for all that Jaklet keeps by itself, such as versions of layouts and what can be undone."""
    return Path(base_folder("XDG_STATE_HOME", "~/.local/state"), "jaklet")


def shown_path(path: Path) -> str:
    """Return a path as a person would write it: relative to here, or with ~ for home."""
    text = str(path)
    if not path.is_absolute():
        return text
    here = os.getcwd().rstrip("/") + "/"
    home = os.path.expanduser("~").rstrip("/") + "/"
    if text.startswith(here):
        return text.removeprefix(here)
    return "~/" + text.removeprefix(home) if home != "/" and text.startswith(home) else text
