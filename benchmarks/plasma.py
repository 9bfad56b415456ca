"""Plasma on Wayland, beside bare requests over the same bus: python -m benchmarks.plasma [--write]"""

import os
import tempfile
import time
from pathlib import Path
from typing import Final

from jeepney import HeaderFields, Message, MessageType
from tests.fake_input import Hand
from tests.plasma import Plasma, session

from benchmarks.compositors import ROUNDS, Watch, chords, recalls, windows
from benchmarks.measure import Row, percentile, report
from jaklet.desktops.compositor.bus import Bus
from jaklet.desktops.compositor.chord_source import ShortcutRequest
from jaklet.desktops.plasma.accelerators import Accelerators
from jaklet.desktops.plasma.desktop import PlasmaDesktop
from jaklet.desktops.plasma.kwin_script import KWinScript
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.whole_keyboard import WholeKeyboard

RULES: Final = ("type='signal',member='globalShortcutPressed'", "type='method_return'")
SUPER: Final = 0x10000000
TIMES = 60
MARK = "<!-- plasma -->"


def rows() -> list[Row]:
    """Measure all of it in a session of its own."""
    with tempfile.TemporaryDirectory() as folder, session(Path(folder)) as plasma:
        env = plasma.jaklet_env()
        hand = Hand(f"{env['XDG_RUNTIME_DIR']}/{env['WAYLAND_DISPLAY']}")
        watched = lambda: Watch(env, RULES, _pressed, _moves)  # noqa: E731
        result = chords(env, hand.chord, watched, "benchmarks.plasma_floor", Path(folder), "one in 15 s")
        hand.close()
        result += _late(plasma)
        for count, rounds in ROUNDS.items():
            with windows(env, count):
                result.append(recalls(env, PlasmaDesktop.connect, KWinScript.start, count, rounds))
        return result


def _pressed(message: Message) -> bool:
    return bool(message.header.fields.get(HeaderFields.member) == "globalShortcutPressed")


def _moves(message: Message) -> bool:
    is_answer = message.header.message_type is MessageType.method_return
    return is_answer and bool(message.body) and isinstance(message.body[0], str) and '"move"' in message.body[0]


def _late(plasma: Plasma) -> list[Row]:
    """Measure how long keys still go elsewhere: until a layer has all of them, until a chord of a scope is heard."""
    os.environ.update(plasma.env)
    wayland = Wayland()
    keyboard = WholeKeyboard(wayland)
    taken, heard = [], []
    for _ in range(TIMES):
        start = time.perf_counter()
        keyboard.take_all()
        taken.append((time.perf_counter() - start) * 1000)
        keyboard.give_back()
        time.sleep(0.1)
        wayland.sync()
    wayland.close()
    bus = Bus.open("KWin")
    accelerators = Accelerators(bus)
    accelerators.begin()
    for _ in range(TIMES):
        start = time.perf_counter()
        accelerators.hear([ShortcutRequest(SUPER | ord("J"), "a"), ShortcutRequest(SUPER | ord("K"), "b")])
        heard.append((time.perf_counter() - start) * 1000)
        accelerators.hear([])
    bus.close()
    names = ("until a layer has the whole keyboard", "until two chords of a scope are heard")
    return [
        Row(f"{name}, p50, p99", f"{percentile(one, 0.5):.1f} ms, {percentile(one, 0.99):.1f} ms", "", "", "")
        for name, one in zip(names, (taken, heard), strict=True)
    ]


if __name__ == "__main__":
    report(rows(), MARK)
