"""The keyboard that this machine was set up with (keyboard(5) of Debian)."""

import re
from pathlib import Path
from typing import Final

from jaklet.core.keys.keyboards import NAMES
from jaklet.core.values.regexes import regex
from jaklet.files import read_ordinary

FILE: Final = Path("/etc/default/keyboard")
DEFAULT: Final = "us"
_VALUE: Final = regex(r'^\s*(XKBLAYOUT|XKBVARIANT)\s*=\s*"?([\w,-]*)"?\s*$', re.M)


def usual_keyboard(file: Path = FILE) -> str:
    """Return the name of the machine's keyboard if there is a table of it, else `us`."""
    try:
        values = dict(_VALUE.findall(read_ordinary(file).decode("utf-8", "replace")))
    except OSError:
        return DEFAULT
    names = (values.get(key, "").split(",")[0] for key in ("XKBVARIANT", "XKBLAYOUT"))
    return next((name for name in names if name in NAMES), DEFAULT)
