"""A made-up year at the harbour office: how often its keys were pressed on each day. Nobody has pressed them."""

import random
from collections.abc import Iterator, Sequence
from datetime import date, timedelta
from typing import Final

from jaklet.core.values.use_counts import FIRED, REACHED

DAYS: Final = 365
SEED: Final = 1913
RARE: Final = {"go": 0.0, "focus": 0.1, "place": 0.2, "recall": 0.3, "save": 1.4, "launch": 1.0, "enter": 0.9}
BUSIEST: Final = 60  # presses a day of the key that is used most


def made_up(
    bindings: Sequence[str], apps: Sequence[str], today: date, days: int = DAYS, seed: int = SEED
) -> Iterator[tuple[date, list[tuple[str, str, int]]]]:
    """Yield for each day the kinds, things and how often: few keys are used much, many seldom, some never.

    There are weekends, two weeks without anybody, and apps that are reached by mouse. The same seed is the same year.
    """
    dice = random.Random(seed)
    # Programs are gone to all day; a layout is kept once in a while, and recalled many times.
    order = sorted(bindings, key=lambda name: RARE.get(name.partition(": ")[2].split(" ")[0], 0.5) + dice.random())
    used = order[: max(1, len(order) * 5 // 6)]
    begins = {name: dice.randrange(days // 2) if dice.random() < 0.2 else 0 for name in used}
    away = range(days // 2, days // 2 + 14)
    for number in range(days):
        day = today - timedelta(days - 1 - number)
        if number in away or (day.weekday() >= 5 and dice.random() < 0.8):
            continue
        counted = []
        for rank, name in enumerate(used, 1):
            times = round(dice.gauss(1.0, 0.3) * BUSIEST / rank**1.1 + dice.random() - 0.5)
            if times > 0 and number >= begins[name]:
                counted.append((FIRED, name, times))
        counted += [
            (REACHED, app, times)
            for app in apps
            if (times := dice.randrange(4) * (app == apps[-1]) + dice.randrange(2))
        ]
        yield day, counted
