"""A program that answers a shortcut of Plasma with one request made beforehand, and does nothing else."""

import itertools
import json
import time

from jeepney import new_method_return

from jaklet.desktops.compositor.bus import is_call, is_signal, member_of
from jaklet.desktops.compositor.chord_source import ShortcutRequest
from jaklet.desktops.plasma.accelerators import Accelerators
from jaklet.desktops.plasma.kwin_script import KWinScript

SUPER_F8 = 0x10000000 | 0x01000037


def main() -> None:
    """Hear super+f8 until it is ended."""
    agent = KWinScript.start()
    accelerators = Accelerators(agent.bus)
    accelerators.begin()
    accelerators.hear([ShortcutRequest(SUPER_F8, "floor"), ShortcutRequest(SUPER_F8 + 1, "floor")])
    window = agent.state["active"]
    answers = [
        json.dumps({"requests": [{"op": "move", "id": window, "args": [x, 8, 900, 1000]}], "serial": 0})
        for x in (8, 900)
    ]
    agent.take(0.5)
    turn, asks = itertools.cycle(answers), agent._asks
    agent.bus.others.clear()
    connection = agent.bus._connection
    print("listening", flush=True)
    while True:
        message = connection.receive()
        if is_signal(message) and member_of(message) == "globalShortcutPressed" and asks:
            connection.send(new_method_return(asks, "s", (next(turn),)))
            asks = None
        elif is_call(message) and member_of(message) == "Next":
            asks = message
        elif is_call(message):
            connection.send(new_method_return(message))
        time.sleep(0)


if __name__ == "__main__":
    main()
