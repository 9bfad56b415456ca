"""The extension on this machine: written for its shell, enabled, and taken out again.

GNOME Shell looks for new extensions when a session begins, and at no other time (https://gjs.guide/extensions).
"""

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from importlib.resources import files
from pathlib import Path
from typing import Final

from jaklet import __version__
from jaklet.core.values.errors import DeskError
from jaklet.desktops.compositor.agent import agent_text
from jaklet.desktops.gnome.settings import gsettings, texts_of

UUID: Final = "jaklet@jaklet.local"
VERSION: Final = __version__
OLD: Final = tuple(str(number) for number in (43, 44))  # versions of the shell that load scripts of the old kind
MODULES: Final = tuple(str(number) for number in range(45, 52))  # those that load modules of JavaScript
LEAVE: Final = "log out and in again: GNOME Shell looks for new extensions when a session begins"
_SETTINGS: Final = ("org.gnome.shell", "enabled-extensions")
_PLACE: Final = "//@AGENT@\n"


def extension_folder() -> Path:
    """Return where the extension is (XDG base directories, and there GNOME's own place)."""
    data = os.environ.get("XDG_DATA_HOME", "")
    return (Path(data) if os.path.isabs(data) else Path.home() / ".local/share") / "gnome-shell/extensions" / UUID


def extension_files(old: bool) -> dict[str, str]:
    """Return the extension's files for one of the two kinds of shells: names and texts."""
    ours = files("jaklet.desktops.gnome")
    frame = ours.joinpath("old_kind.js" if old else "modules_kind.js").read_text()
    text = agent_text() + ours.joinpath("shell.js").read_text().replace("@VERSION@", VERSION)
    described = {
        "uuid": UUID, "name": "Jaklet", "description": "Lets Jaklet place windows and hear keys.",
        "shell-version": list(OLD if old else MODULES),
    }  # fmt: skip
    return {
        "extension.js": frame.replace(_PLACE, text),
        "metadata.json": json.dumps(described, indent=2) + "\n",
        "program": f"{Path(sys.executable).resolve()}\n",
    }


def shell_version() -> int:
    """Return the number of the GNOME Shell that is installed; raises `DeskError` where there is none."""
    try:
        told = subprocess.run(["gnome-shell", "--version"], capture_output=True, text=True, check=True).stdout
        return int(told.split()[-1].split(".")[0])
    except (OSError, subprocess.CalledProcessError, ValueError, IndexError) as fault:
        raise DeskError("there is no GNOME Shell here", "install gnome-shell") from fault


def remedy() -> str:
    """Return the remedy where the extension does not answer."""
    folder = extension_folder()
    if not (folder / "metadata.json").exists():
        return "`jaklet set-up gnome` puts it there"
    if any((folder / name).read_text() != text for name, text in _wanted().items()):
        return "`jaklet set-up gnome` brings it up to date"
    if UUID not in _enabled():
        return "`jaklet set-up gnome` enables it"
    return f"{LEAVE}; or the screen is locked"


def state_lines() -> Iterator[str]:
    """Yield lines on the extension: whether it is there, for whom, and how it is taken out."""
    folder = extension_folder()
    if not shutil.which("gnome-shell"):
        yield "there is no GNOME Shell here"
        return
    if not (folder / "metadata.json").exists():
        yield "needs an extension in GNOME Shell, which is not there: jaklet set-up gnome"
        return
    is_whole = all((folder / name).read_text() == text for name, text in _wanted().items())
    state = "is there" if is_whole else "is of another version of Jaklet or the shell: jaklet set-up gnome"
    yield f"the extension {state}{'' if UUID in _enabled() else ', and is not enabled: jaklet set-up gnome'}"
    yield f"it answers {Path(sys.executable).resolve()}, and so every program that this one runs"
    yield "to take it out: jaklet set-up gnome --remove"


def _wanted() -> dict[str, str]:
    return extension_files(str(shell_version()) in OLD)


def set_up() -> Iterator[str]:
    """Write the extension and enable it; yield a line for each thing that was done. Raises `DeskError`."""
    folder, wanted = extension_folder(), _wanted()
    known = (folder / "metadata.json").exists()
    folder.mkdir(parents=True, exist_ok=True)
    for name, text in wanted.items():
        (folder / name).write_text(text)
    yield f"written: {folder}"
    enabled = _enabled()
    if UUID not in enabled:
        _enable([*enabled, UUID])
    yield "enabled" if not known else "enabled; what is new in it counts from the next session on"
    if not known:
        yield LEAVE


def take_out() -> Iterator[str]:
    """Take the extension out; yield a line for each thing that was done. Raises `DeskError`."""
    enabled = _enabled()
    if UUID in enabled:
        _enable([one for one in enabled if one != UUID])
        yield "disabled"
    if extension_folder().exists():
        shutil.rmtree(extension_folder())
        yield f"taken away: {extension_folder()}"


def _enabled() -> list[str]:
    return texts_of(*_SETTINGS)


def _enable(extensions: list[str]) -> None:
    gsettings("set", *_SETTINGS, str(extensions))
