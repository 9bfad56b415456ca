"""No key becomes dearer unseen: what a press costs, counted, stays within limits."""

from pathlib import Path
from typing import Final

from tests.listener.key_costs import Cost, costs
from tests.xserver import XServer

# Each limit is a tenth above what was counted last: in how many pieces events come is chance. Who makes a key dearer has
# a reason for it, and writes another number here. Bytes are those of SQLite's journal, and follow its pages.
LIMITS: Final = {
    "`place`": Cost(175, 1045, 7, 4, 0, 40_000),
    "`place` with alternatives": Cost(235, 1100, 7, 4, 0, 40_000),
    "`nudge`": Cost(165, 965, 7, 4, 0, 40_000),
    "`nudge` held, a repeat": Cost(225, 940, 7, 4, 0, 300),
    "`go` to another app": Cost(130, 1090, 10, 7, 0, 900),
    "`go` where it is already": Cost(200, 340, 1, 0, 0, 600),
    "`go` back": Cost(130, 1090, 10, 7, 0, 900),
    "`focus last`": Cost(130, 1090, 10, 7, 0, 900),
    "`pair`": Cost(245, 1200, 9, 6, 0, 40_000),
    "`recall` with nothing to do": Cost(1050, 1250, 1, 0, 2, 40_000),
    "a layer, on": Cost(220, 390, 2, 1, 0, 650),
    "a layer, off": Cost(380, 550, 2, 1, 0, 350),
    "a key with a scope": Cost(178, 320, 1, 0, 0, 600),
}


def test_no_key_costs_more_than_before(x: XServer, tmp_path: Path) -> None:
    found = costs(x, tmp_path)
    over = {
        name: (cost, LIMITS[name])
        for name, cost in found.items()
        if any(counted > limit for counted, limit in zip(cost, LIMITS[name], strict=True))
    }
    assert not over
    assert found.keys() == LIMITS.keys()
