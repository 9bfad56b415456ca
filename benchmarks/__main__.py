"""Run all benchmarks and print the report: python -m benchmarks [--write]"""

import compileall
import os
import platform
import sys
from collections.abc import Callable, Mapping
from pathlib import Path

from tests.xserver import XServer, running

import jaklet
from benchmarks import (
    arranging,
    asking,
    checking,
    counting,
    flows,
    going,
    keys,
    overlay,
    picking,
    placing,
    pressing,
    recalls,
    startup,
    suggesting,
)
from benchmarks.measure import README, Row, former, table, written

MARK = "<!-- figures -->"


WITHOUT_X: Mapping[str, Callable[[], list[Row]]] = {
    "startup": startup.rows,
    "checking": checking.rows,
    "picking": picking.rows,
    "counting": counting.rows,
    "suggesting": suggesting.rows,
    "planning": lambda: [*placing.planning(), *arranging.planning()],
}
ON_X: Mapping[str, Callable[[XServer], list[Row]]] = {
    "asking": asking.rows,
    "going": going.rows,
    "keys": keys.rows,
    "pressing": pressing.rows,
    "flows": flows.rows,
    "overlay": overlay.rows,
    "recalls": recalls.rows,
    "placing": placing.rows,
    "arranging": arranging.rows,
}


def main(words: list[str]) -> None:
    """Measure all, or what is named, and print; with --write put the table into README.md, other rows as they are."""
    named = [word for word in words if not word.startswith("-")]
    rows: list[Row] = []
    compileall.compile_dir(str(Path(jaklet.__file__).parent), quiet=1)  # as an installation does
    for name, measure in WITHOUT_X.items():
        if not named or name in named:
            print(f"{name} …", file=sys.stderr)
            rows += measure()
    if not named or ON_X.keys() & {*named}:
        with running() as x:
            for name, on_x in ON_X.items():
                if not named or name in named:
                    print(f"{name} …", file=sys.stderr)
                    rows += on_x(x)
    page = README.read_text()
    kept = former(page.partition(MARK)[2].partition(MARK)[0]) if named else []
    rows += [row for row in kept if row.name[:3] not in {new.name[:3] for new in rows}]
    report = table(sorted(rows, key=lambda row: row.name[:3]))
    machine = f"{os.cpu_count()} cores, Python {platform.python_version()}, Xvfb and metacity from Debian"
    print(f"{machine}\n\n{report}")
    if "--write" in words:
        README.write_text(written(page, MARK, f"{machine}\n\n{report}"))


if __name__ == "__main__":
    main(sys.argv[1:])
