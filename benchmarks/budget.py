"""What a press of the commonest keys costs, counted: python -m benchmarks.budget [--write]"""

import sys
import tempfile
from pathlib import Path
from typing import Final

from tests.listener.key_costs import Cost, costs
from tests.xserver import running

from benchmarks.measure import README, written

MARK: Final = "<!-- budget -->"
HEAD: Final = ("key", "calls of Python until the first byte", "until rest", "requests", "replies", "files", "bytes")


def table(found: dict[str, Cost]) -> str:
    """Return costs as a Markdown table."""
    rows = [HEAD, ["---"] * len(HEAD), *([name, *(f"{one:,}" for one in cost)] for name, cost in found.items())]
    return "\n".join(f"| {' | '.join(row)} |" for row in rows)


if __name__ == "__main__":
    with running() as x, tempfile.TemporaryDirectory() as folder:
        counted = table(costs(x, Path(folder)))
    print(counted)
    if "--write" in sys.argv:
        README.write_text(written(README.read_text(), MARK, counted))
