"""What the benchmarks share: percentiles, rows, and an X server to work on."""

import resource
import statistics
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any, Final, NamedTuple

README: Final = Path(__file__).parent / "README.md"


class Row(NamedTuple):
    """One line of the report; times in milliseconds unless the name says otherwise."""

    name: str
    jaklet: str
    floor: str
    ratio: str
    aim: str


def percentile(values: Sequence[float], share: float) -> float:
    """Return the value below which this share lies (nearest rank)."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, int(share * len(ordered)))]


def compared(name: str, ours: Sequence[float], floor: Sequence[float], aim: str) -> Row:
    """Return a row of medians in milliseconds, and their ratio."""
    a, b = statistics.median(ours), statistics.median(floor)
    return Row(name, f"{a:.2f} ms", f"{b:.2f} ms", f"{a / b:.2f}", aim)


def table(rows: Sequence[Row]) -> str:
    """Return rows as a Markdown table."""
    lines = ["| what | Jaklet | bare floor | ratio | aim |", "|---|---|---|---|---|"]
    return "\n".join([*lines, *(f"| {' | '.join(row)} |" for row in rows)])


def former(text: str) -> list[Row]:
    """Return the rows of a table that was written before."""
    cells = [line.strip("| ").split(" | ") for line in text.splitlines() if line.startswith("| (")]
    return [Row(*(row + [""] * 5)[:5]) for row in cells]


def processor_time(command: Sequence[str], **options: Any) -> float:
    """Run a command; return the processor time that it took, in milliseconds: less noisy than a clock."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(command, stdout=subprocess.DEVNULL, check=False, **options)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return 1000 * (after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime)


def report(rows: Sequence[Row], mark: str) -> None:
    """Print the rows, and with --write put their table into README.md, between two marks."""
    text = table(rows)
    print(text)
    if "--write" in sys.argv:
        README.write_text(written(README.read_text(), mark, text))


def written(page: str, mark: str, text: str) -> str:
    """Return a page with a text put between two marks."""
    head, _, rest = page.partition(mark)
    return f"{head}{mark}\n{text}\n{mark}{rest.partition(mark)[2]}"
