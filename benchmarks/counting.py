"""What counting adds to a key, and how long a year of use takes to tell."""

import statistics
import tempfile
import time
from datetime import date
from pathlib import Path

from benchmarks.measure import Row, percentile
from jaklet.core.keys.sheet import sheet_lines
from jaklet.core.language.actions import parse_action
from jaklet.core.values.chords import parse_keys
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.spans import Spot
from jaklet.core.values.use_counts import name_of
from jaklet.counters.use_counts import UseCounts
from jaklet.counters.use_report import use_report
from jaklet.demo.year import made_up
from jaklet.listener.counting import Counting

BINDINGS, PRESSES = 200, 20_000


def rows() -> list[Row]:
    """Measure both, in one process."""
    letters = "abcdefghijklmnopqrstuvwxyz"
    chords = [f"{held}+{key}" for held in ("super", "super+shift", "ctrl+alt", "super+ctrl") for key in letters]
    chords += [f"super+f9 {chord}" for chord in chords]
    bindings = [
        Binding(parse_keys(chord), parse_action(f"place left {n % 9 + 1}/10"), Spot("", n + 1, 1, 2))
        for n, chord in enumerate(chords[:BINDINGS])
    ]
    counting = Counting(lambda _counted: None)
    times = []
    for n in range(PRESSES):
        start = time.perf_counter()
        counting.fired(bindings[n % BINDINGS])
        times.append((time.perf_counter() - start) * 1e6)
    config = Config(bindings=tuple(bindings))
    with tempfile.TemporaryDirectory() as folder:
        for day, counted in made_up([name_of(one) for one in bindings], ["radio"], date(2026, 11, 26)):
            UseCounts(lambda: Path(folder), lambda day=day: day).add(counted)  # type: ignore[misc]
        start = time.process_time()
        told = use_report(
            UseCounts(lambda: Path(folder), lambda: date(2026, 11, 26)).since(365), sheet_lines(config), config
        )
        took = (time.process_time() - start) * 1000
    assert told.total > 1000
    return [
        Row(
            f"(p) counting a key, {BINDINGS} bindings: p50, p99",
            f"{statistics.median(times):.1f} µs, {percentile(times, 0.99):.1f} µs", "", "", "under 20 µs",
        ),
        Row(f"(p) a year of {BINDINGS} bindings told, processor time", f"{took:.0f} ms", "", "", ""),
    ]  # fmt: skip
