"""When something learned is asked again: SM-2 (P. A. Wozniak, Optimization of learning, 1990, section 3.2).

Docs: docs/practise.md.
"""

from datetime import date, timedelta
from typing import Final, NamedTuple

FIRST, SECOND = 1, 6  # days to the second and the third time
LEAST_EASE: Final = 1.3
MOST_DAYS: Final = 365  # our own: a key that is asked once a year is not worth forgetting
AT_ONCE, WITH_THOUGHT, WRONG = 5, 4, 2  # of the qualities from 0 to 5
KNOWN: Final = 2  # right so often in a row, on different days


class LearnedState(NamedTuple):
    """How well something is known: right so often in a row, how easy it is, and when it is due again.

    `days`: between the last time and that; `due`: a day (ISO 8601), empty for what was never asked.
    """

    times: int = 0
    ease: float = 2.5
    days: int = 0
    due: str = ""

    @property
    def is_known(self) -> bool:
        """True for what was right on several days."""
        return self.times >= KNOWN


NEW: Final = LearnedState()


def review(one: LearnedState, quality: int, today: date) -> LearnedState:
    """Return how well something is known once it was asked; `quality`: from 0 to 5, from 3 on it was right."""
    if quality < 3:
        return LearnedState(0, one.ease, FIRST, (today + timedelta(FIRST)).isoformat())
    ease = max(LEAST_EASE, one.ease + 0.1 - (5 - quality) * (0.08 + (5 - quality) * 0.02))
    days = FIRST if one.times == 0 else SECOND if one.times == 1 else min(MOST_DAYS, round(one.days * ease))
    return LearnedState(one.times + 1, ease, days, (today + timedelta(days)).isoformat())
