"""Tables of numbers that others have defined: keysyms, Qt's keys, struts. Each is judged by them, or by hand."""

import ctypes
import ctypes.util

import pytest

from jaklet.core.values.chords import Modifier
from jaklet.core.values.geometry import Rect, Strut
from jaklet.core.values.keysyms import KEYSYMS
from jaklet.desktops.plasma.qt_keys import code_of, key_code
from jaklet.desktops.x11.workareas import struts_of

SHIFT, ALTGR = Modifier.SHIFT, Modifier.ALTGR
WHOLE = Rect(0, 0, 1920, 1080)
STRUTS = {
    "left": ((40, 0, 0, 0, 100, 199, 0, 0, 0, 0, 0, 0), Rect(0, 100, 40, 100)),
    "right": ((0, 50, 0, 0, 0, 0, 10, 509, 0, 0, 0, 0), Rect(1870, 10, 50, 500)),
    "top": ((0, 0, 30, 0, 0, 0, 0, 0, 5, 1284, 0, 0), Rect(5, 0, 1280, 30)),
    "bottom": ((0, 0, 0, 60, 0, 0, 0, 0, 0, 0, 640, 1919), Rect(640, 1020, 1280, 60)),
}
OLD = {
    "left": ((40, 0, 0, 0), Rect(0, 0, 40, 1080)),
    "right": ((0, 50, 0, 0), Rect(1870, 0, 50, 1080)),
    "top": ((0, 0, 30, 0), Rect(0, 0, 1920, 30)),
    "bottom": ((0, 0, 0, 60), Rect(0, 1020, 1920, 60)),
}
# From the enumeration Qt::Key of Qt's manual, in its order: a first number, and the keys that follow on it.
QT = {
    0x01000000: "Escape Tab ISO_Left_Tab BackSpace Return KP_Enter Insert Delete Pause Print Sys_Req Clear",
    0x01000010: "Home End Left Up Right Down Prior Next",
    0x01000024: "Caps_Lock Num_Lock Scroll_Lock",
    0x01000030: " ".join(f"F{n}" for n in range(1, 36)),
    0x01000055: "Menu",
    0x01000058: "Help",
    0x01000061: "XF86Back XF86Forward XF86Stop XF86Refresh",
    0x01000070: "XF86AudioLowerVolume XF86AudioMute XF86AudioRaiseVolume",
    0x01000080: "XF86AudioPlay XF86AudioStop XF86AudioPrev XF86AudioNext XF86AudioRecord XF86AudioPause",
    0x01000090: "XF86HomePage XF86Favorites XF86Search XF86Standby XF86OpenURL",
    0x010000A0: "XF86Mail XF86AudioMedia XF86MyComputer XF86Calculator",
    0x010000B2: "XF86MonBrightnessUp XF86MonBrightnessDown XF86KbdLightOnOff XF86KbdBrightnessUp XF86KbdBrightnessDown",
    0x010000B9: "XF86Eject XF86ScreenSaver XF86WWW",
}
A, ONE, TAB = (0x61, 0x41), (0x31, 0x21), (0xFF09, 0xFE20)
CODES = [
    (A, 0, 0x61, 0x41), (A, SHIFT, 0x61, 0x02000041), (A, Modifier.SUPER | SHIFT, 0x61, 0x12000041),
    (ONE, 0, 0x31, 0x31), (ONE, SHIFT, 0x31, 0x21), (ONE, Modifier.CTRL, 0x31, 0x04000031),
    (TAB, 0, 0xFF09, 0x01000001), (TAB, SHIFT, 0xFF09, 0x01000002), (TAB, Modifier.ALT | SHIFT, 0xFF09, 0x09000002),
    ((0x65, 0x45, 0x010020AC), ALTGR, 0x65, 0x20AC), (A, ALTGR, 0x61, 0),
    ((0xFFBE,), SHIFT, 0xFFBE, 0x03000030),
]  # fmt: skip


@pytest.mark.parametrize("side", STRUTS)
def test_struts_are_those_of_ewmh(side: str) -> None:
    """_NET_WM_STRUT_PARTIAL: left, right, top, bottom, then the first and last pixel along each of these."""
    for words, strip in (STRUTS[side], OLD[side]):
        assert [*struts_of(words, WHOLE)] == [Strut(side, strip)]
    assert [*struts_of(STRUTS[side][0][:3], WHOLE)] == []


def keysym(name: str) -> int:
    library = ctypes.CDLL(ctypes.util.find_library("xkbcommon") or "libxkbcommon.so.0")
    return int(library.xkb_keysym_from_name(name.encode(), 0))


def test_keysyms_are_those_of_libxkbcommon() -> None:
    """Names here are in small letters, of media keys also without XF86; they can be those of a letter's capital."""
    library = ctypes.CDLL(ctypes.util.find_library("xkbcommon") or "libxkbcommon.so.0")
    buffer = ctypes.create_string_buffer(64)

    def name_of(value: int) -> str:
        library.xkb_keysym_get_name(value, buffer, 64)
        return buffer.value.decode().lower()

    assert len(KEYSYMS) > 500

    def known(name: str) -> set[int]:
        small = [library.xkb_keysym_from_name(one.encode(), 1) for one in (name, f"xf86{name}")]
        return {*small, *map(library.xkb_keysym_to_upper, small)}

    wrong = {one: value for one, value in KEYSYMS.items() if value not in known(one) and name_of(value) != one}
    assert wrong == {}


def test_keys_of_qt_are_those_of_its_manual() -> None:
    for first, names in QT.items():
        assert [hex(key_code(keysym(name))) for name in names.split()] == [
            hex(first + n) for n in range(len(names.split()))
        ]


@pytest.mark.parametrize(("row", "modifiers", "key", "code"), CODES)
def test_chords_have_the_numbers_by_which_qt_tells_them(
    row: tuple[int, ...], modifiers: int, key: int, code: int
) -> None:
    assert hex(code_of(row, modifiers, key)) == hex(code)
