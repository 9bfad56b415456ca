"""The check of large configs, beside the bare YAML parser on the same text; and of one as people have, as a process."""

import gc
import os
import statistics
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import yaml

from benchmarks.measure import Row, compared, processor_time
from jaklet.checks.run import check_config
from jaklet.config.paths import locate_config
from jaklet.installed.programs import InstalledPrograms

SIZES = (100, 1_000, 10_000, 100_000)
LETTERS = "abcdefghijklmnopqrstuvwxyz"
PER_LAYER = 100
RUNS = 25
BARE = """
import sys, typer, yaml
app = typer.Typer()
@app.command()
def check(path: str) -> None:
    yaml.compose(open(path, encoding="utf-8").read(), Loader=yaml.CLoader)
    print("no findings")
app()
"""


def config(bindings: int) -> str:
    """Return a config without a finding: a hundred bindings outside layers, and as many in each of the others.

    Of four, three are a chord and an action, and one has a note.
    """
    chords = [f"{held}+{key}" for held in ("super", "super+shift", "super+ctrl", "ctrl+alt") for key in LETTERS]
    layers = -(-bindings // PER_LAYER) - 1
    rows = ["settings: {keyboard: us}", "apps:"]
    rows += [f"  app{number}: {{launch: sh, window: {{class: App{number}}}}}" for number in range(20)]
    rows += ["bindings:", *_some(chords[: min(bindings, PER_LAYER)], "  ")]
    for layer in range(layers):
        way = f"{LETTERS[layer % 26]} {LETTERS[layer // 26 % 26]} {LETTERS[layer // 676]}"
        rows.append(f"  super+f9 {way}: enter layer{layer}")
    rows += ["layers:"] if layers else []
    for layer in range(layers):
        rows += [f"  layer{layer}:", "    bindings:", *_some(chords[:PER_LAYER], "      ")]
    return "\n".join(rows) + "\n"


def _some(chords: list[str], indent: str) -> Iterator[str]:
    for number, chord in enumerate(chords):
        action = f"go app{number % 20}"
        yield indent + (f"{chord}: {{do: {action}, note: app {number}}}" if number % 4 == 3 else f"{chord}: {action}")


def _best(works: list[Callable[[], object]], times: int) -> list[float]:
    """Return the best time of each in milliseconds; they take turns, so that all see the same machine."""
    best = [float("inf")] * len(works)
    for _ in range(times):
        for number, work in enumerate(works):
            gc.collect()
            start = time.perf_counter()
            work()
            best[number] = min(best[number], (time.perf_counter() - start) * 1000)
    return best


def rows() -> list[Row]:
    """Measure with the collector off, as the program itself runs."""
    found = []
    gc.disable()
    with tempfile.TemporaryDirectory() as name:
        path = Path(name) / "jaklet.yaml"
        for size in SIZES:
            text = config(size)
            path.write_text(text)
            works: list[Callable[[], object]] = [
                lambda: check_config(locate_config(str(path)), InstalledPrograms()),
                lambda text=text: yaml.compose(text, Loader=yaml.CLoader),  # type: ignore[misc]
            ]
            ours, bare = _best(works, 9 if size <= 10_000 else 3)
            aim = "≤ 2.5" if size == 10_000 else ""
            what = f"(h) check of {size:,} bindings, beside YAML `compose`: {ours / size * 1000:.1f} µs a binding"
            found.append(compared(what, [ours], [bare], aim))
        gc.enable()
        path.write_text(config(100))
        found.append(_process(path))
    return found


def _process(path: Path) -> Row:
    bare = path.with_name("bare.py")
    bare.write_text(BARE)
    jaklet = str(Path(sys.executable).with_name("jaklet"))
    env = {name: value for name, value in os.environ.items() if not name.startswith("JAKLET_") and name != "DISPLAY"}
    times: dict[str, list[float]] = {"ours": [], "bare": []}
    for _ in range(RUNS):
        for key, command in (("ours", [jaklet, "check", str(path)]), ("bare", [sys.executable, str(bare), str(path)])):
            times[key].append(processor_time(command, env=env))
    return compared(
        "(h) `jaklet check`, 100 bindings, processor time, beside a Typer program that composes the file",
        [statistics.median(times["ours"])], times["bare"], "≤ 1.5",
    )  # fmt: skip
