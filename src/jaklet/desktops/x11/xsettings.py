"""The settings that X11 desktops share with toolkits (XSETTINGS protocol 0.5), as far as they are text."""

import re
import struct
from collections.abc import Mapping
from typing import Final

from jaklet.desktops.x11.wire import Wire

THEME: Final = "Net/ThemeName"
_TEXT, _COLOUR = 1, 2  # all others are integers
_MOST_WORDS: Final = 1 << 16
_DARK: Final = re.compile(r"(?<![a-z])dark(?![a-z])", re.IGNORECASE)


def theme_is_dark(wire: Wire) -> bool | None:
    """Return whether the theme's name says that it is dark; None where no settings are shared."""
    theme = text_settings(_property(wire)).get(THEME)
    return None if theme is None else bool(_DARK.search(theme))


def _property(wire: Wire) -> bytes:
    """Return the settings of whoever manages those of the first screen; empty for nobody."""
    selection = wire.core.InternAtom(False, len("_XSETTINGS_S0"), "_XSETTINGS_S0").reply().atom
    name = wire.core.InternAtom(False, len("_XSETTINGS_SETTINGS"), "_XSETTINGS_SETTINGS").reply().atom
    owner = wire.core.GetSelectionOwner(selection).reply().owner
    if not owner:
        return b""
    reply = wire.core.GetProperty(False, owner, name, name, 0, _MOST_WORDS).reply()
    return bytes(reply.value.buf()) if reply.format == 8 else b""


def text_settings(data: bytes) -> Mapping[str, str]:
    """Return the settings that are text; those before the fault where the data is broken."""
    found: dict[str, str] = {}
    order = ">" if data[:1] == b"\x01" else "<"
    try:
        (count,) = struct.unpack_from(f"{order}I", data, 8)
        at = 12
        for _ in range(count):
            kind, length = struct.unpack_from(f"{order}BxH", data, at)
            name = data[at + 4 : at + 4 + length]
            at += 4 + _padded(length) + 4  # the serial number of its last change
            if kind == _TEXT:
                (length,) = struct.unpack_from(f"{order}I", data, at)
                found[name.decode("utf-8", "replace")] = data[at + 4 : at + 4 + length].decode("utf-8", "replace")
                at += 4 + _padded(length)
            else:
                at += 8 if kind == _COLOUR else 4
    except struct.error:
        pass
    return found


def _padded(length: int) -> int:
    return (length + 3) & ~3
