"""The number by which Plasma knows a chord: a key and modifiers of Qt (`Qt::Key`, `Qt::KeyboardModifier`).

What KWin does with a key, as measured (5.27): the number is that of what the key gives with the modifiers held. Shift
that has led to another sign is left out, so that Shift and 1 are `!`; with letters it stays, and they are capitals.
AltGr is never a part of it. Num Lock decides what keys of the number pad are; that they are of it is not told.
"""

from collections.abc import Sequence
from typing import Final

from jaklet.core.keys.strokes import KEYPAD, keysym_at
from jaklet.core.values.chords import Modifier, keysym_of, letter_of

SHIFT: Final = 0x02000000
MODIFIERS: Final = {
    Modifier.SHIFT: SHIFT, Modifier.CTRL: 0x04000000, Modifier.ALT: 0x08000000, Modifier.SUPER: 0x10000000,
}  # fmt: skip
_TAB: Final = 0x01000001
_BACKTAB: Final = 0x01000002
_NAMED: Final = {
    "escape": 0x01000000, "tab": _TAB, "iso_left_tab": _BACKTAB, "backspace": 0x01000003, "return": 0x01000004,
    "kp_enter": 0x01000005, "insert": 0x01000006, "delete": 0x01000007, "pause": 0x01000008, "print": 0x01000009,
    "sys_req": 0x0100000A, "clear": 0x0100000B, "home": 0x01000010, "end": 0x01000011, "left": 0x01000012,
    "up": 0x01000013, "right": 0x01000014, "down": 0x01000015, "prior": 0x01000016, "next": 0x01000017,
    "caps_lock": 0x01000024, "num_lock": 0x01000025, "scroll_lock": 0x01000026, "menu": 0x01000055,
    "help": 0x01000058, "xf86back": 0x01000061, "xf86forward": 0x01000062, "xf86stop": 0x01000063,
    "xf86refresh": 0x01000064, "xf86audiolowervolume": 0x01000070, "xf86audiomute": 0x01000071,
    "xf86audioraisevolume": 0x01000072, "xf86audioplay": 0x01000080, "xf86audiostop": 0x01000081,
    "xf86audioprev": 0x01000082, "xf86audionext": 0x01000083, "xf86audiorecord": 0x01000084,
    "xf86audiopause": 0x01000085, "xf86homepage": 0x01000090, "xf86favorites": 0x01000091, "xf86search": 0x01000092,
    "xf86standby": 0x01000093, "xf86openurl": 0x01000094, "xf86mail": 0x010000A0, "xf86audiomedia": 0x010000A1,
    "xf86mycomputer": 0x010000A2, "xf86calculator": 0x010000A3, "xf86monbrightnessup": 0x010000B2,
    "xf86monbrightnessdown": 0x010000B3, "xf86kbdlightonoff": 0x010000B4, "xf86kbdbrightnessup": 0x010000B5,
    "xf86kbdbrightnessdown": 0x010000B6, "xf86eject": 0x010000B9, "xf86screensaver": 0x010000BA,
    "xf86www": 0x010000BB,
}  # fmt: skip
_BY_KEYSYM: Final = {
    **{keysym: code for name, code in _NAMED.items() if (keysym := keysym_of(name)) is not None},
    **{0xFFBE + n: 0x01000030 + n for n in range(35)},  # F1 to F35
}
_PAD: Final = {
    0xFF80: 0x20, 0xFF95: 0x01000010, 0xFF96: 0x01000012, 0xFF97: 0x01000013, 0xFF98: 0x01000014, 0xFF99: 0x01000015,
    0xFF9A: 0x01000016, 0xFF9B: 0x01000017, 0xFF9C: 0x01000011, 0xFF9D: 0x0100000B, 0xFF9E: 0x01000006,
    0xFF9F: 0x01000007, 0xFFBD: 0x3D, **{0xFFAA + n: ord(sign) for n, sign in enumerate("*+,-./0123456789")},
}  # fmt: skip


def key_code(keysym: int) -> int:
    """Return Qt's number for what a key gives; 0 where it has none."""
    found = _BY_KEYSYM.get(keysym) or _PAD.get(keysym)
    if found:
        return found
    letter = letter_of(keysym)
    upper = letter.upper()
    return ord(upper) if letter and len(upper) == 1 else 0


def code_of(row: Sequence[int], modifiers: int, keysym: int) -> int:
    """Return the number of a chord that is on a key; 0 where Plasma cannot tell it from others.

    `row`: what is on the key, by level; `modifiers`: all that are held; `keysym`: by which the chord names the key.
    """
    shown = keysym if keysym in KEYPAD else keysym_at(row, modifiers)
    if modifiers & Modifier.ALTGR and shown == keysym_at(row, modifiers & ~Modifier.ALTGR):
        return 0  # AltGr changes nothing on it, and is not told of
    code, held = key_code(shown), sum(bit for one, bit in MODIFIERS.items() if modifiers & one)
    plain = keysym_at(row, modifiers & ~Modifier.SHIFT)
    if modifiers & Modifier.SHIFT and shown != plain and not letter_of(shown).isalpha() and shown not in KEYPAD:
        held &= ~SHIFT
    if code == _TAB and held & SHIFT:
        code, held = _BACKTAB, held & ~SHIFT
    return code | held if code else 0


def signed_number(code: int) -> int:
    """Return a number as D-Bus has it: 32 bits with a sign."""
    return code - (1 << 32) if code >= 1 << 31 else code
