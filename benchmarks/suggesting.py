"""How long better keys take to find: 150 bindings by some 400 chords, beside SciPy's assignment of the same numbers."""

import random
import tempfile
import time
import tracemalloc
from pathlib import Path

from benchmarks.measure import Row
from jaklet.checks.run import check_config
from jaklet.config.paths import locate_config
from jaklet.core.values.use_counts import name_of
from jaklet.installed.programs import InstalledPrograms
from jaklet.suggesting.assignment import Problem, solve
from jaklet.suggesting.suggest import SuggestionRequest, suggest

BINDINGS, PRESSES = 150, 100_000
LETTERS = "abcdefghijklmnopqrstuvwxyz"
SETS = ("super", "super+shift", "ctrl+alt", "super+ctrl", "super+alt", "ctrl+alt+shift", "super+ctrl+shift")
SEED = 1913


def config_of(count: int, keyboards: str) -> str:
    """Return a config with so many bindings; two families, some sequences and relatives are among them."""
    chords = [f"{held}+{key}" for held in SETS for key in LETTERS if not (held == "super" and key in "pkos")]
    dice = random.Random(SEED)
    dice.shuffle(chords)
    lines = [f"  {chord}: place left {n + 1}/{count}" for n, chord in enumerate(chords[: count - 22])]
    lines += ["  super+<n>: recall <n>", "  super+s <n>: save <n>", *(f"  super+k {key}: undo" for key in "abcd")]
    return f"settings: {{keyboard: {keyboards}}}\nbindings:\n" + "\n".join(lines) + "\n"


def rows() -> list[Row]:
    """Measure in one process, after SciPy has been imported."""
    import numpy as np
    import scipy.optimize  # noqa: F401  # what is measured is beyond its import

    found = []
    dice = random.Random(SEED)
    for keyboards in ("us", "[us, de, fr]"):
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "jaklet.yaml").write_text(config_of(BINDINGS, keyboards))
            result = check_config(locate_config(folder), InstalledPrograms())
        assert not result.errors, result.errors[:3]
        names = [name_of(one) for one in result.config.bindings]
        counts = {name: round(PRESSES / (at + 1)) for at, name in enumerate(dice.sample(names, len(names)))}
        start = time.process_time()
        told = suggest(result.case, counts, SuggestionRequest())
        took = (time.process_time() - start) * 1000
        assert told.moves
        tracemalloc.start()
        suggest(result.case, counts, SuggestionRequest())
        _, most = tracemalloc.get_traced_memory()
        tracemalloc.stop()
        numbers = np.random.default_rng(SEED).random((BINDINGS, 400))
        start = time.process_time()
        for _ in range(20):
            solve(Problem(numbers, range(BINDINGS)))
        bare = (time.process_time() - start) * 1000 / 20
        name = f"(q) better keys, {len(names)} bindings, {'one keyboard' if keyboards == 'us' else 'three keyboards'}"
        found.append(
            Row(f"{name}, processor time", f"{took:.0f} ms", f"{bare:.1f} ms", f"{took / bare:.0f}", "under 2 s")
        )
        found.append(Row(f"{name}, memory at most", f"{most / 1e6:.1f} MB", "", "", "linear in bindings by chords"))
    return found
