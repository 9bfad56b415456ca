"""WM_NORMAL_HINTS as limits, those of windows that are careless or lie included."""

import pytest

from jaklet.core.geometry import MAX_SIDE, NO_LIMITS, SizeLimits
from jaklet.desktops.x11.mirror import size_limits

MIN, MAX, STEP, ASPECT, BASE = 1 << 4, 1 << 5, 1 << 6, 1 << 7, 1 << 8
NEGATIVE = 0xFFFFFFFF


def hints(flags: int, **at: tuple[int, int]) -> tuple[int, ...]:
    """Return 18 words with pairs at the places of ICCCM table 4-1."""
    words = [flags, *[0] * 17]
    for name, pair in at.items():
        start = {"least": 5, "most": 7, "step": 9, "low": 11, "high": 13, "base": 15}[name]
        words[start : start + 2] = pair
    return tuple(words)


CASES = [
    ((), NO_LIMITS),
    (hints(0, least=(400, 300)), NO_LIMITS),
    (hints(MIN, least=(400, 300)), SizeLimits(400, 300, base_width=400, base_height=300)),
    (
        hints(MIN | STEP | BASE, least=(10, 17), step=(6, 13), base=(4, 4)),
        SizeLimits(10, 17, MAX_SIDE, MAX_SIDE, 4, 4, 6, 13),
    ),
    (hints(STEP | BASE, step=(6, 13), base=(4, 4)), SizeLimits(4, 4, MAX_SIDE, MAX_SIDE, 4, 4, 6, 13)),
    (hints(MIN | MAX, least=(NEGATIVE, 9), most=(0, NEGATIVE)), SizeLimits(1, 9, base_width=0, base_height=9)),
    (hints(STEP, step=(0, NEGATIVE)), NO_LIMITS),
    (hints(ASPECT, low=(2, 1), high=(1, 1)), NO_LIMITS),
    (hints(ASPECT, low=(1, 0), high=(1, 0)), NO_LIMITS),
    (hints(MIN, least=(400, 300))[:15], SizeLimits(400, 300, base_width=400, base_height=300)),
]


@pytest.mark.parametrize(("words", "limits"), CASES)
def test_hints_become_limits(words: tuple[int, ...], limits: SizeLimits) -> None:
    assert size_limits(words) == limits
