"""Run all benchmarks and print the report: python -m benchmarks [--write]"""

import compileall
import os
import platform
import sys
from pathlib import Path

from tests.xserver import running

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
    recalls,
    startup,
    suggesting,
)
from benchmarks.measure import README, table, written

MARK = "<!-- figures -->"


def main() -> None:
    """Measure, print, and with --write put the table into README.md."""
    rows = []
    compileall.compile_dir(str(Path(jaklet.__file__).parent), quiet=1)  # as an installation does
    print("start-up …", file=sys.stderr)
    rows += startup.rows()
    print("checking …", file=sys.stderr)
    rows += checking.rows()
    print("picking …", file=sys.stderr)
    rows += picking.rows()
    rows += counting.rows()
    rows += suggesting.rows()
    print("planning …", file=sys.stderr)
    rows += placing.planning()
    rows += arranging.planning()
    with running() as x:
        print("asking …", file=sys.stderr)
        rows += asking.rows(x)
        print("going …", file=sys.stderr)
        rows += going.rows(x)
        print("keys …", file=sys.stderr)
        rows += keys.rows(x)
        print("flows …", file=sys.stderr)
        rows += flows.rows(x)
        print("over the windows …", file=sys.stderr)
        rows += overlay.rows(x)
        print("recalls …", file=sys.stderr)
        rows += recalls.rows(x)
        print("placing …", file=sys.stderr)
        rows += placing.rows(x)
        print("arranging …", file=sys.stderr)
        rows += arranging.rows(x)
    report = table(sorted(rows, key=lambda row: row.name[:3]))
    machine = f"{os.cpu_count()} cores, Python {platform.python_version()}, Xvfb and metacity from Debian"
    print(f"{machine}\n\n{report}")
    if "--write" in sys.argv:
        README.write_text(written(README.read_text(), MARK, f"{machine}\n\n{report}"))


if __name__ == "__main__":
    main()
