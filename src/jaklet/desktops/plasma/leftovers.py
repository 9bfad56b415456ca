"""Giving back what a listener has left behind that was killed: the desktop keeps shortcuts, whoever asked for them."""

from collections.abc import Callable, Iterator
from pathlib import Path

from jaklet.core.values.errors import DeskError
from jaklet.desktops.plasma.accelerators import Accelerators
from jaklet.desktops.plasma.bus import Bus
from jaklet.desktops.plasma.ledger import LentFile


def given_back(state: Callable[[], Path]) -> Iterator[str]:
    """Give all back, and yield a line for each program that has something again."""
    try:
        bus = Bus.open()
    except DeskError:
        return
    try:
        accelerators = Accelerators(bus, LentFile(state))
        names, lent = accelerators.begin()
        if names:
            yield f"{len(names)} chords that a listener had left behind are free again"
        for one in lent:
            yield f"given back to {one.action[2]}: {one.action[3]}"
    except DeskError:
        return  # there is no such service, and so nothing of ours in it
    finally:
        bus.close()
