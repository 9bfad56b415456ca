"""What a keymap of XKB has on its keys: libxkbcommon, which every compositor of Wayland comes with, by ctypes.

Compositors hand the keymap out as a text (wl_keyboard.keymap, XKB_V1), which that library alone reads in full.
"""

import ctypes
from ctypes import POINTER, byref, c_char_p, c_int, c_uint32, c_void_p
from functools import cache
from typing import Any, Final

from jaklet.core.values.errors import DeskError

LEVELS: Final = 4  # plain, Shift, AltGr, both
_TEXT_V1: Final = 1  # XKB_KEYMAP_FORMAT_TEXT_V1
_HOW: Final = "install libxkbcommon (on Debian: libxkbcommon0)"


@cache
def _library() -> Any:
    try:
        library = ctypes.CDLL("libxkbcommon.so.0")
    except OSError as fault:
        raise DeskError("the keyboard cannot be read: libxkbcommon is not there", _HOW) from fault
    for name, result, given in (
        ("xkb_context_new", c_void_p, [c_int]),
        ("xkb_context_set_log_level", None, [c_void_p, c_int]),
        ("xkb_context_unref", None, [c_void_p]),
        ("xkb_keymap_new_from_string", c_void_p, [c_void_p, c_char_p, c_int, c_int]),
        ("xkb_keymap_unref", None, [c_void_p]),
        ("xkb_keymap_min_keycode", c_uint32, [c_void_p]),
        ("xkb_keymap_max_keycode", c_uint32, [c_void_p]),
        ("xkb_keymap_num_levels_for_key", c_uint32, [c_void_p, c_uint32, c_uint32]),
        (
            "xkb_keymap_key_get_syms_by_level",
            c_int,
            [c_void_p, c_uint32, c_uint32, c_uint32, POINTER(POINTER(c_uint32))],
        ),
        ("xkb_keymap_num_layouts_for_key", c_uint32, [c_void_p, c_uint32]),
    ):
        function = getattr(library, name)
        function.restype, function.argtypes = result, given
    return library


def levels_of(keymap: bytes) -> dict[int, tuple[int, ...]]:
    """Return the keysyms of a keymap's first layout by evdev's number (the keycode less 8).

    Raises `DeskError` for a text that is no keymap.
    """
    xkb = _library()
    context = xkb.xkb_context_new(0)
    xkb.xkb_context_set_log_level(context, 10)  # critical
    keys = xkb.xkb_keymap_new_from_string(context, keymap, _TEXT_V1, 0)
    if not keys:
        xkb.xkb_context_unref(context)
        raise DeskError("the keyboard cannot be read: its keymap is none", _HOW)
    found = {}
    for code in range(xkb.xkb_keymap_min_keycode(keys), xkb.xkb_keymap_max_keycode(keys) + 1):
        if not xkb.xkb_keymap_num_layouts_for_key(keys, code):
            continue
        row = []
        for level in range(min(LEVELS, xkb.xkb_keymap_num_levels_for_key(keys, code, 0))):
            symbols = POINTER(c_uint32)()
            count = xkb.xkb_keymap_key_get_syms_by_level(keys, code, 0, level, byref(symbols))
            row.append(int(symbols[0]) if count > 0 else 0)
        if any(row):
            found[code - 8] = tuple(row)
    xkb.xkb_keymap_unref(keys)
    xkb.xkb_context_unref(context)
    return found
