"""No key becomes dearer unseen: what a press costs, counted, stays within limits."""

from pathlib import Path
from typing import Final

from tests.listener.key_costs import Cost, costs
from tests.xserver import XServer

# Each limit is a tenth above what was counted last: in how many pieces events come is chance. Who makes a key dearer has
# a reason for it, and writes another number here. Bytes are those of SQLite's journal, and follow its pages.
LIMITS: Final = {
    "`place`": Cost(195, 1080, 7, 4, 0, 40_000),
    "`place` with alternatives": Cost(255, 1120, 7, 4, 0, 40_000),
    "`nudge`": Cost(180, 1080, 7, 4, 0, 40_000),
    "`go` to another app": Cost(146, 1100, 10, 7, 0, 900),
    "`go` where it is already": Cost(215, 355, 1, 0, 0, 600),
    "`go` back": Cost(146, 1100, 10, 7, 0, 900),
    "`focus last`": Cost(146, 1100, 10, 7, 0, 900),
    "`pair`": Cost(265, 1210, 9, 6, 0, 40_000),
    "`recall` with nothing to do": Cost(1065, 1265, 1, 0, 2, 40_000),
    "a layer, on": Cost(236, 402, 2, 1, 0, 650),
    "a layer, off": Cost(383, 550, 2, 1, 0, 350),
    "a key with a scope": Cost(185, 325, 1, 0, 0, 600),
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
