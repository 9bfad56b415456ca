"""Panels on a real server, judged by the pixels that it shows: through shared memory, and through the socket."""

import random
from collections.abc import Iterator

import pytest
import xcffib.xproto as xp

from jaklet.core.actions.ports.surface import Panel
from jaklet.core.values.geometry import Rect
from jaklet.desktops.x11 import shared_memory
from jaklet.desktops.x11.surface import X11Surface
from tests.xserver import XServer, until

SIZES = ((7, 5), (640, 480), (1300, 900), (33, 900), (1900, 1000))  # the last is more than is shared at first


@pytest.fixture(params=["shared", "sent"])
def surface(request: pytest.FixtureRequest, x: XServer, monkeypatch: pytest.MonkeyPatch) -> Iterator[X11Surface]:
    if request.param == "sent":
        monkeypatch.setattr(shared_memory, "MOST", 0)
    one = X11Surface(x.display)
    yield one
    one.close()


def test_what_is_seen_is_what_was_drawn(surface: X11Surface, x: XServer) -> None:
    connection, chance = x.connect(), random.Random(5)
    root = connection.setup.roots[0].root
    for turn in range(12):
        wide, high = SIZES[turn % len(SIZES)]
        rows = [bytes([chance.randrange(256), chance.randrange(256), turn, 0]) * wide for _ in range(high)]
        place = Rect(chance.randrange(20), chance.randrange(20), wide, high)
        surface.show([Panel("card", place, b"".join(rows)), Panel("edge", Rect(0, 0, 2, 2), bytes(16))])

        def seen(place: Rect = place) -> bytes:
            plane = 0xFFFFFFFF
            reply = connection.core.GetImage(xp.ImageFormat.ZPixmap, root, *place, plane).reply()
            return bytes(byte if at % 4 != 3 else 0 for at, byte in enumerate(reply.data.buf()[: 4 * place.width * 3]))

        at = place._replace(y=place.y + high - 3, height=3)
        wanted = b"".join(rows[-3:])
        until(lambda at=at, wanted=wanted: seen(at) == wanted, f"the picture of turn {turn}")  # type: ignore[misc]
    assert not surface.clicks()
    connection.disconnect()
