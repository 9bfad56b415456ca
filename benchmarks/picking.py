"""`jaklet pick`: until it can be typed into, beside a bare prompt_toolkit screen; each key with 5,000 candidates."""

import contextlib
import fcntl
import os
import pty
import select
import statistics
import struct
import subprocess
import sys
import tempfile
import termios
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.measure import Row, compared, percentile
from jaklet.demo.harbour import write_files

RUNS = 15
CANDIDATES = 5000
TYPED = "radio log bb\x7f\x7f\x7fberth tide gauge\x7f\x7f\x7fa e i\x7f\x7fquay"

BARE = """
from prompt_toolkit.application import Application
from prompt_toolkit.buffer import Buffer
from prompt_toolkit.key_binding import KeyBindings
from prompt_toolkit.layout import HSplit, Layout, VSplit, Window
from prompt_toolkit.layout.controls import BufferControl, FormattedTextControl
keys = KeyBindings()
keys.add("escape", eager=True)(lambda event: event.app.exit())
prompt = Window(FormattedTextControl("find: "), width=6, height=1)
top = VSplit([prompt, Window(BufferControl(Buffer(multiline=False)), height=1)])
Application(layout=Layout(HSplit([top, Window()]), top.children[1]), key_bindings=keys, full_screen=True).run()
"""
MANY = """
import gc, random, sys
gc.disable()  # as the program does
from jaklet.core.actions.pick_candidate import Candidate
from jaklet.finder.terminal import pick
from jaklet.finder.state import Finder
chance = random.Random(7)
words = "berth board radio log tide gauge ledger letters charts pilot quay harbour ferry dues mooring light".split()
def load():
    return [Candidate("windows", " ".join(chance.choices(words, k=4)) + f" {i}", "on main", ("super+r",), "", None)
            for i in range(int(sys.argv[1]))]
finder = Finder()
pick(finder, load, finder.load, True)
"""


@contextlib.contextmanager
def shown(command: list[str], env: dict[str, str]) -> Iterator[tuple[int, float]]:
    """Run a command on a terminal; give its descriptor, and the milliseconds until its prompt was there."""
    master, slave = pty.openpty()
    fcntl.ioctl(slave, termios.TIOCSWINSZ, struct.pack("HHHH", 46, 157, 0, 0))
    start = time.perf_counter()
    process = subprocess.Popen(command, env=env, stdin=slave, stdout=slave, stderr=slave, start_new_session=True)
    os.close(slave)
    try:
        said = b""
        while b"find:" not in said:
            said += _read(master)
        yield master, (time.perf_counter() - start) * 1000
    finally:
        with contextlib.suppress(OSError):
            os.write(master, b"\x1b")
            while _read(master, 0.5):
                pass
        process.kill()
        process.wait()
        os.close(master)


def _read(master: int, limit: float = 20.0) -> bytes:
    if not select.select([master], [], [], limit)[0]:
        return b""
    data = os.read(master, 1 << 16)
    if b"\x1b[6n" in data:
        os.write(master, b"\x1b[1;1R")  # the cursor's position, which a terminal tells when asked
    return data


def rows() -> list[Row]:
    """Measure both start-ups in turn, then the keys."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "office"
        write_files(folder)
        env = {**os.environ, "TERM": "xterm-256color", "JAKLET_CONFIG": str(folder)}
        env["JAKLET_DESK"] = f"tabletop:{folder}/tabletop.yaml"
        commands = {
            "pick": [str(Path(sys.executable).with_name("jaklet")), "pick"],
            "bare": [sys.executable, "-c", BARE],
        }
        times: dict[str, list[float]] = {key: [] for key in commands}
        for _ in range(RUNS):
            for key, command in commands.items():
                with shown(command, env) as (_, taken):
                    times[key].append(taken)
    keys = _keys(env)
    return [
        compared("(f) `jaklet pick` ready to type", times["pick"], times["bare"], "≤ 1.5"),
        Row(f"(f) a key with {CANDIDATES} candidates, p50", f"{statistics.median(keys):.2f} ms", "", "", "under 16 ms"),
        Row(f"(f) the same, p99 of {len(keys)}", f"{percentile(keys, 0.99):.2f} ms", "", "", "under 16 ms"),
    ]


def _keys(env: dict[str, str]) -> list[float]:
    """Return the milliseconds from each key to the new screen."""
    times = []
    with shown([sys.executable, "-c", MANY, str(CANDIDATES)], env) as (master, _):
        said = b""
        while str(CANDIDATES).encode() not in said:
            said += _read(master)
        for _ in range(3):
            for key in TYPED:
                _rest(master)
                start = time.perf_counter()
                os.write(master, key.encode())
                if _read(master, 1.0):  # a screen is written in one piece
                    times.append((time.perf_counter() - start) * 1000)
            os.write(master, b"\x15")  # Ctrl+U: an empty line again
    return times


def _rest(master: int) -> None:
    """Read until nothing comes any more."""
    while _read(master, 0.05):
        pass
