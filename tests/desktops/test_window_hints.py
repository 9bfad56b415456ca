"""Size hints and titles as windows give them, those that are careless or lie included."""

import struct

import pytest

from jaklet.core.values.geometry import MAX_SIDE, NO_LIMITS, SizeLimits
from jaklet.desktops.window_hints import size_limits
from jaklet.desktops.x11.wire import Wire, decode_text
from jaklet.desktops.x11.xsettings import text_settings, theme_is_dark
from tests.conftest import Office
from tests.xserver import XServer, until

MIN, MAX, STEP, ASPECT, BASE = 1 << 4, 1 << 5, 1 << 6, 1 << 7, 1 << 8
NEGATIVE = 0xFFFFFFFF


def hints(flags: int, **at: tuple[int, int]) -> tuple[int, ...]:
    """Return 18 words with pairs at the places of ICCCM table 4-1."""
    words = [flags, *[0] * 17]
    for name, pair in at.items():
        start = {"least": 5, "most": 7, "step": 9, "low": 11, "high": 13, "base": 15}[name]
        words[start : start + 2] = pair
    return tuple(words)


CASES = [
    ((), NO_LIMITS),
    (hints(0, least=(400, 300)), NO_LIMITS),
    (hints(MIN, least=(400, 300)), SizeLimits(400, 300, base_width=400, base_height=300)),
    (
        hints(MIN | STEP | BASE, least=(10, 17), step=(6, 13), base=(4, 4)),
        SizeLimits(10, 17, MAX_SIDE, MAX_SIDE, 4, 4, 6, 13),
    ),
    (hints(STEP | BASE, step=(6, 13), base=(4, 4)), SizeLimits(4, 4, MAX_SIDE, MAX_SIDE, 4, 4, 6, 13)),
    (hints(MIN | MAX, least=(NEGATIVE, 9), most=(0, NEGATIVE)), SizeLimits(1, 9, base_width=0, base_height=9)),
    (hints(STEP, step=(0, NEGATIVE)), NO_LIMITS),
    (hints(ASPECT, low=(2, 1), high=(1, 1)), NO_LIMITS),
    (hints(ASPECT, low=(1, 0), high=(1, 0)), NO_LIMITS),
    (hints(MIN, least=(400, 300))[:15], SizeLimits(400, 300, base_width=400, base_height=300)),
]


@pytest.mark.parametrize(("words", "limits"), CASES)
def test_hints_become_limits(words: tuple[int, ...], limits: SizeLimits) -> None:
    assert size_limits(words) == limits


@pytest.mark.parametrize(
    ("raw", "cut", "text"),
    [
        ("Häfen 港".encode(), False, "Häfen 港"),
        ("Häfen".encode("latin-1"), False, "Häfen"),
        ("a港".encode()[:3], True, "a"),
        ("a港".encode()[:3], False, "aæ¸"),
        (b"\xff\xfe" * 9, True, "ÿþ" * 9),
        (b"", False, ""),
    ],
)
def test_titles_are_decoded_whatever_they_hold(raw: bytes, cut: bool, text: str) -> None:
    assert decode_text(raw, cut) == text


def test_windows_with_hostile_titles_are_listed_matched_and_gone_to(x: XServer, x_office: Office) -> None:
    """Titles set by raw requests: an escape sequence, 64 KiB, bytes that are no text, letters that turn the line round."""
    titles = (b"\x1b]0;owned\x07\x1b[31mred", "港".encode() * 22000, b"\xff\xfe\x80 board", "\u202egnp.exe".encode())
    connection = x.connect()
    atoms = {
        name: connection.core.InternAtom(False, len(name), name).reply().atom
        for name in ("_NET_WM_NAME", "UTF8_STRING")
    }
    for i, title in enumerate(titles):
        x.open(f"Odd{i}")
        (wid,) = x.of_class(f"Odd{i}")
        for atom in (39, atoms["_NET_WM_NAME"]):  # WM_NAME, too
            connection.core.ChangeProperty(0, int(wid, 16), atom, atoms["UTF8_STRING"], 8, len(title), title)
        connection.flush()
    connection.core.GetInputFocus().reply()
    connection.disconnect()
    rules = ("*owned*", "港港*港", "*board", "*gnp*")
    apps = "".join(f"  odd{i}: {{window: {{title: '{rule}'}}}}\n" for i, rule in enumerate(rules))
    x_office.config.write_text(f"apps:\n{apps}")
    for i in range(len(titles)):
        done = x_office.jaklet("act", f"go odd{i}")
        assert done.stdout.startswith(f"odd{i} (")
        assert x.active() == f"Odd{i}"
    said = "".join(
        x_office.jaklet(*words).stdout
        for words in (
            ["apps"],
            ["desk"],
            ["desk", "--format", "json"],
            ["pick", "windows"],
            ["apps", "explain", "odd0"],
        )
    )
    until(lambda: len(x.ids()) == len(titles), "the windows to be there still")
    assert not set("\x1b\x07\u202e\x9b") & set(said)


def shared(order: str, *settings: tuple[int, str, object]) -> bytes:
    """Return settings as XSETTINGS 0.5 packs them."""
    data = struct.pack(f"{order}BxxxII", order == ">", 7, len(settings))
    for kind, name, value in settings:
        data += struct.pack(f"{order}BxH", kind, len(name)) + name.encode() + b"\0" * (-len(name) % 4) + b"\0" * 4
        if isinstance(value, str):
            data += struct.pack(f"{order}I", len(value)) + value.encode() + b"\0" * (-len(value) % 4)
        else:
            data += b"\0" * (8 if kind == 2 else 4)
    return data


@pytest.mark.parametrize("order", ["<", ">"])
def test_settings_of_the_desktop_are_read_as_far_as_they_go(order: str) -> None:
    data = shared(order, (0, "Xft/DPI", 1), (2, "Net/Ink", 1), (1, "Net/ThemeName", "Slate-Dark"), (1, "Net/Font", "a"))
    assert text_settings(data) == {"Net/ThemeName": "Slate-Dark", "Net/Font": "a"}
    assert text_settings(data[:-6]) == {"Net/ThemeName": "Slate-Dark"}
    assert text_settings(b"") == text_settings(b"\1\2") == {}


@pytest.mark.parametrize(("theme", "dark"), [("Slate-Dark", True), ("Slate", False), ("Darkroom", False), (None, None)])
def test_a_theme_is_called_dark(theme: str | None, dark: bool | None, x: XServer) -> None:
    connection = x.connect()
    wire = Wire(x.display)
    core, root = connection.core, connection.setup.roots[0].root
    if theme:
        atoms = [
            core.InternAtom(False, len(name), name).reply().atom for name in ("_XSETTINGS_S0", "_XSETTINGS_SETTINGS")
        ]
        owner = connection.generate_id()
        core.CreateWindow(0, owner, root, 0, 0, 1, 1, 0, 2, 0, 0, [])
        data = shared("<", (1, "Net/ThemeName", theme))
        core.ChangeProperty(0, owner, atoms[1], atoms[1], 8, len(data), data)
        core.SetSelectionOwner(owner, atoms[0], 0)
        core.GetInputFocus().reply()
    assert theme_is_dark(wire) is dark
    wire.close()
    connection.disconnect()
