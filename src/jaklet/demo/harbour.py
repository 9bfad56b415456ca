"""The demo's files, put into a folder: config, layout, tabletop, and programs that show real X11 windows."""

import sys
from importlib.resources import files
from pathlib import Path
from typing import Final, NamedTuple

from jaklet.core.values.errors import UsageError


class Office(NamedTuple):
    """One program of the harbour office, as a window for X11."""

    program: str
    cls: str
    title: str
    size: str
    colour: str


OFFICE: Final = (
    Office("berth-board", "BerthBoard", "Berth board", "1000x640", "24506b"),
    Office("radio-log", "RadioLog", "Radio log", "640x480", "6b4a24"),
    Office("tide-gauge", "TideGauge", "Tide gauge", "560x560", "246b52"),
    Office("ledger", "Ledger", "Ledger", "800x640", "4b4b55"),
    Office("letters", "Letters", "Letters", "700x800", "5a2f4f"),
    Office("charts", "Charts", "Charts of the approaches", "1000x760", "2f4f5a"),
)
ENTRY: Final = "share/applications/org.ellery.Ledger.desktop"
CONFIGS: Final = ("jaklet.yaml", "first-try/jaklet.yaml", "clashes/jaklet.yaml")
FILES: Final = (*CONFIGS, "tabletop.yaml", "layouts/arrivals.yaml", ENTRY)


X11_WINDOWS: Final = "jaklet.demo.windows"
WAYLAND_WINDOWS: Final = "jaklet.demo.wayland_windows"


def write_files(folder: Path, windows: str = X11_WINDOWS) -> list[str]:
    """Write the demo's files into a new or empty folder; return their names. Raises `UsageError` if it is not empty.

    `windows`: the module that shows the windows of its programs.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise UsageError(f"{folder} is not empty", "name a new folder; nothing is overwritten")
    source = files("jaklet.demo") / "files"
    for name in FILES:
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text((source / name).read_text(encoding="utf-8"), encoding="utf-8")
    programs = folder / "bin"
    programs.mkdir()
    for office in OFFICE:
        script = programs / office.program
        options = f"--class {office.cls} --title '{office.title}' --size {office.size} --colour {office.colour}"
        script.write_text(f'#!/bin/sh\nexec "{sys.executable}" -m {windows} {options} "$@"\n', encoding="utf-8")
        script.chmod(0o755)
    return [*FILES, *(f"bin/{office.program}" for office in OFFICE)]
