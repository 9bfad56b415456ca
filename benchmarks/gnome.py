"""GNOME on Wayland, beside bare requests over the same bus: python -m benchmarks.gnome [--write]"""

import json
import os
import re
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Final

from jeepney import HeaderFields, Message
from tests.gnome import Gnome, RemoteHand, session

from benchmarks.compositors import IDLE, ROUNDS, Watch, chords, recalls, windows
from benchmarks.measure import Row, percentile, report
from jaklet.core.values.changes import Move
from jaklet.core.values.geometry import Rect
from jaklet.desktops.gnome.desktop import GnomeDesktop
from jaklet.desktops.gnome.extension import GnomeExtension

RULES: Final = ("type='signal',interface='org.jaklet.Desk'", "type='method_call',interface='org.jaklet.Desk'")
TIMES, MOVES = 60, 300
SUPER: Final = 64
MARK = "<!-- gnome -->"


def rows() -> list[Row]:
    """Measure all of it in a session of its own."""
    with tempfile.TemporaryDirectory() as folder, session(Path(folder) / "s") as gnome:
        env, hand = gnome.env, RemoteHand(gnome)
        watched = lambda: Watch(env, RULES, _pressed, _moves)  # noqa: E731
        result = chords(env, hand.chord, watched, "benchmarks.gnome_floor", Path(folder), "none")
        hand.close()
        result += _late(env)
        with windows(env, 1):
            result += _of_the_shell(gnome)
    for count, rounds in ROUNDS.items():
        with tempfile.TemporaryDirectory() as folder, session(Path(folder) / "s") as gnome, windows(gnome.env, count):
            result.append(recalls(gnome.env, GnomeDesktop.connect, GnomeExtension.start, count, rounds))
    return result


def _pressed(message: Message) -> bool:
    return bool(
        message.header.fields.get(HeaderFields.member) == "Heard" and json.loads(message.body[0]).get("down") == 1
    )


def _moves(message: Message) -> bool:
    return bool(message.header.fields.get(HeaderFields.member) == "Do" and '"move"' in message.body[0])


def _late(env: dict[str, str]) -> list[Row]:
    """Measure how long keys still go elsewhere: until a layer has all of them, until a chord of a scope is heard."""
    os.environ.update(env)
    extension = GnomeExtension.start()
    taken, heard = [], []
    for _ in range(TIMES):
        start = time.perf_counter()
        extension.question("keyboard", on=True)
        taken.append((time.perf_counter() - start) * 1000)
        extension.question("keyboard", on=False)
        start = time.perf_counter()
        extension.question("chords", add=[[36 << 8 | SUPER, False], [37 << 8 | SUPER, False]], remove=[])
        heard.append((time.perf_counter() - start) * 1000)
        extension.question("chords", add=[], remove=[36 << 8 | SUPER, 37 << 8 | SUPER])
    start = time.perf_counter()
    keys, held = (*range(16, 26), *range(30, 39), *range(44, 51)), (5, 9, 12, 13, 68, 72, 76, 77)
    many = [[code << 8 | one, False] for one in held for code in keys]
    extension.question("chords", add=many, remove=[])
    took = (time.perf_counter() - start) * 1000
    extension.close()
    names = ("until a layer has the whole keyboard", "until two chords of a scope are heard")
    return [
        Row(f"{name}, p50, p99", f"{percentile(one, 0.5):.1f} ms, {percentile(one, 0.99):.1f} ms", "", "", aim)
        for name, one, aim in zip(names, (taken, heard), ("≤ 5 ms", ""), strict=True)
    ] + [Row(f"{len(many)} chords at once", f"{took:.0f} ms", "", "", "")]


def _of_the_shell(gnome: Gnome) -> list[Row]:
    """Measure the shell's processor time with the extension in it: at rest, and for a change of a window."""
    shell = int(gnome.probe("Number(imports.gi.GLib.file_read_link('/proc/self'))"))
    result = []
    bare = _used(shell, lambda: time.sleep(IDLE / 3))
    desk = GnomeDesktop.connect()
    window = desk.look().desk.windows[0].id
    listened = _used(shell, lambda: time.sleep(IDLE / 3))
    name = f"the shell's processor time in {IDLE / 3:.0f} idle seconds"
    result.append(Row(name, f"{listened:.0f} ms", f"{bare:.0f} ms", "", "the same"))

    def move() -> None:
        for turn in range(MOVES):
            desk.apply([Move(window, Rect(100 + turn % 7, 100, 500, 400))])
            while not desk.wait(desk.look().now + 1).settled:
                pass

    ours = _used(shell, move) / MOVES
    desk.close()
    return [*result, Row("the shell's processor time for a move, drawing included", f"{ours:.1f} ms", "", "", "")]


def _used(process: int, does: Callable[[], None]) -> float:
    """Return the processor time of a process meanwhile, in milliseconds (proc(5), stat)."""
    before = _ticks(process)
    does()
    return (_ticks(process) - before) * 1000 / os.sysconf("SC_CLK_TCK")


def _ticks(process: int) -> int:
    words = re.sub(r".*\) ", "", Path(f"/proc/{process}/stat").read_text()).split()
    return int(words[11]) + int(words[12])


if __name__ == "__main__":
    report(rows(), MARK)
