"""Panels over the windows of a real compositor, judged by the picture that it gives of itself, and by clicks."""

import random
import select
from collections.abc import Iterator
from pathlib import Path

import pytest
from PIL import Image

from jaklet.core.actions.ports.surface import Click, Panel
from jaklet.core.values.geometry import Rect
from jaklet.desktops.wayland.surface import WaylandSurface
from tests.fake_input import Hand
from tests.plasma import Plasma, needed, session, taken
from tests.xserver import until

PLACES = (Rect(40, 50, 640, 480), Rect(1920 + 300, 20, 33, 900), Rect(5, 7, 1900, 1000), Rect(3700, 1000, 140, 80))


@pytest.fixture(scope="module")
def drawn(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Plasma]:
    """A session that draws by OpenGL, as pictures are only given of that."""
    needed()
    with session(tmp_path_factory.mktemp("drawn"), compositing="O2") as one:
        yield one


@pytest.fixture
def surface(drawn: Plasma, monkeypatch: pytest.MonkeyPatch) -> Iterator[WaylandSurface]:
    monkeypatch.setenv("XDG_RUNTIME_DIR", drawn.env["XDG_RUNTIME_DIR"])
    one = WaylandSurface(drawn.env["WAYLAND_DISPLAY"])
    yield one
    one.close()


def test_what_is_seen_is_what_was_drawn_on_each_output(surface: WaylandSurface, drawn: Plasma) -> None:
    chance = random.Random(5)
    for place in PLACES:
        row = b"".join(bytes([chance.randrange(256) for _ in range(3)] + [0]) for _ in range(place.width))
        rows = [row[turn * 4 :] + row[: turn * 4] for turn in range(place.height)]
        surface.show([Panel("card", place, b"".join(rows)), Panel("edge", Rect(0, 0, 2, 2), bytes(16))])
        wanted = Image.frombuffer("RGB", (place.width, place.height), b"".join(rows), "raw", "BGRX", 0, 1)
        box = (place.x, place.y, place.right, place.bottom)

        def stands(box: tuple[int, ...] = box, wanted: Image.Image = wanted) -> bool:
            if select.select([*surface.descriptors()], [], [], 0)[0]:  # as the helper does, which waits else
                surface.clicks()
            return taken(drawn).crop(box).tobytes() == wanted.tobytes()  # type: ignore[arg-type]

        until(stands, f"the picture at {place}")
    for _ in range(30):  # what is gone before it has come is no error, and does not come back
        surface.show([Panel("card", PLACES[0], bytes(640 * 480 * 4))])
        surface.show([])
    until(lambda: taken(drawn).crop((3700, 1000, 3840, 1080)).getextrema() == ((0, 0),) * 3, "no panel")


def test_clicks_go_to_the_panels_that_want_them_and_else_through(surface: WaylandSurface, drawn: Plasma) -> None:
    hand = Hand(Path(drawn.env["XDG_RUNTIME_DIR"], drawn.env["WAYLAND_DISPLAY"]).as_posix())
    at = Rect(2000, 100, 300, 200)
    surface.show([Panel("through", Rect(100, 100, 300, 200), bytes(240000)), Panel("mine", at, bytes(240000), True)])
    clicks: list[Click] = []

    def clicked() -> list[Click]:
        clicks.extend(surface.clicks())
        return clicks

    hand.click(3000, 900)  # there is a pointer only once it has moved
    hand.sync()
    until(lambda: not surface.clicks() and surface._pointer, "a pointer")
    for x, y in ((150, 150), (2040, 130), (2299, 299)):
        hand.click(x, y)
        hand.sync()
    until(lambda: len(clicked()) == 2, "two clicks")
    assert clicks == [Click("mine", 40, 30, 1), Click("mine", 299, 199, 1)]
    hand.close()
