"""A program that answers a chord of GNOME with one request made beforehand, and does nothing else."""

import itertools
import json

from jeepney import MessageFlag, new_method_call

from jaklet.desktops.compositor.bus import is_signal, member_of
from jaklet.desktops.gnome.extension import DESK, GnomeExtension

SUPER, F8, F9 = 64, 66, 67  # of a state, and of evdev


def main() -> None:
    """Hear super+f8 and super+f9 until it is ended."""
    extension = GnomeExtension.start()
    extension.question("chords", add=[[F8 << 8 | SUPER, False], [F9 << 8 | SUPER, False]], remove=[])
    window = extension.state["active"]
    answers = [
        json.dumps({"requests": [{"op": "move", "id": window, "args": [x, 40, 900, 1000]}], "serial": 0})
        for x in (8, 900)
    ]
    turn, connection = itertools.cycle(answers), extension.bus._connection
    print("listening", flush=True)
    while True:
        message = connection.receive()
        if is_signal(message) and member_of(message) == "Heard" and '"down":1' in message.body[0]:
            request = new_method_call(DESK, "Do", "s", (next(turn),))
            request.header.flags |= MessageFlag.no_auto_start | MessageFlag.no_reply_expected
            connection.send(request)


if __name__ == "__main__":
    main()
