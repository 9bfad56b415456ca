"""What one sentence does to three windows on two displays, to the pixel, and what is said of it."""

import pytest

from jaklet.core.values.config import Config, Settings
from jaklet.core.values.desk import Display
from jaklet.core.values.geometry import Length, Rect
from tests.core.test_placing import World

MAIN = Display("DP-1", Rect(0, 0, 1920, 1080), Rect(0, 40, 1920, 1040), True)
QUAY = Display("HDMI-1", Rect(1920, 0, 1280, 1024), Rect(1920, 0, 1280, 1024))
CONFIG = Config(settings=Settings(gap=Length(None, 8)), displays={"main": "DP-1", "quay": "HDMI-1"})
LEFT, RIGHT, FULL = Rect(8, 48, 948, 1024), Rect(964, 48, 948, 1024), Rect(1928, 8, 1264, 1008)
# Windows 1, 2, 3 stand at LEFT, RIGHT and FULL; the one named first is in front, the second was used before it.
# fmt: off
CASES: list[tuple[str, str, str, dict[int, Rect]]] = [
    ("1 2 3", "swap right", "Plain (A) and Plain (B) have changed places", {1: Rect(964, 48, 948, 1024), 2: Rect(8, 48, 948, 1024)}),
    ("1 2 3", "swap left", "no window is to the left", {}),
    ("1 2 3", "swap up", "no window is above", {}),
    ("1 2 3", "swap down", "no window is below", {}),
    ("1 2 3", "swap last", "Plain (A) and Plain (B) have changed places", {1: Rect(964, 48, 948, 1024), 2: Rect(8, 48, 948, 1024)}),
    ("1 2 3", "send to display next", "Plain (A) is on quay", {1: Rect(1928, 8, 628, 1008)}),
    ("1 2 3", "send to display previous", "Plain (A) is on quay", {1: Rect(1928, 8, 628, 1008)}),
    ("1 2 3", "send to display quay", "Plain (A) is on quay", {1: Rect(1928, 8, 628, 1008)}),
    ("1 2 3", "send to display pier", "display pier is not there", {}),
    ("1 2 3", "send to display right", "Plain (A) is on quay", {1: Rect(1928, 8, 628, 1008)}),
    ("1 2 3", "send to display left", "no display is to the left", {}),
    ("1 2 3", "send to display up", "no display is above", {}),
    ("1 2 3", "nudge right 50px", "Plain (A) is nudged right: 948x1024 at 58,48", {1: Rect(58, 48, 948, 1024)}),
    ("1 2 3", "nudge left 50px", "nothing to do: the window is as far left as it goes", {}),
    ("1 2 3", "nudge down 5%", "nothing to do: the window is as far down as it goes", {}),
    ("1 2 3", "nudge up", "nothing to do: the window is as far up as it goes", {}),
    ("1 2 3", "stretch right 10%", "Plain (A) is stretched right: 1140x1024 at 8,48", {1: Rect(8, 48, 1140, 1024)}),
    ("1 2 3", "stretch left 50px", "nothing to do: the window is as far left as it goes", {}),
    ("1 2 3", "stretch down 40px", "nothing to do: the window is as far down as it goes", {}),
    ("1 2 3", "shrink right 30px", "Plain (A) is shrunk right: 918x1024 at 8,48", {1: Rect(8, 48, 918, 1024)}),
    ("1 2 3", "shrink left 40px", "Plain (A) is shrunk left: 908x1024 at 48,48", {1: Rect(48, 48, 908, 1024)}),
    ("1 2 3", "shrink up 10%", "Plain (A) is shrunk up: 948x920 at 8,152", {1: Rect(8, 152, 948, 920)}),
    ("1 2 3", "shrink down 2000px", "Plain (A) is shrunk down: 948x1 at 8,48", {1: Rect(8, 48, 948, 1)}),
    ("1 2 3", "stretch up", "nothing to do: the window is as far up as it goes", {}),
    ("1 2 3", "pair right 1/3", "Plain (A) is at the right, Plain (B) at the left", {1: Rect(1283, 48, 629, 1024), 2: Rect(8, 48, 1267, 1024)}),
    ("1 2 3", "pair up", "Plain (A) is at the top, Plain (B) at the bottom", {1: Rect(8, 48, 1904, 508), 2: Rect(8, 564, 1904, 508)}),
    ("1 2 3", "pair left 600px", "Plain (A) is at the left, Plain (B) at the right", {1: Rect(8, 48, 600, 1024), 2: Rect(616, 48, 1296, 1024)}),
    ("1 2 3", "spread columns", "2 windows share main in columns already", {}),
    ("1 2 3", "spread rows", "2 windows share main in rows", {1: Rect(8, 48, 1904, 508), 2: Rect(8, 564, 1904, 508)}),
    ("1 2 3", "spread grid on quay", "Plain (C) has quay to itself already", {}),
    ("1 2 3", "spread columns on pier", "display pier is not there", {}),
    ("1 2 3", "spread rows on main", "2 windows share main in rows", {1: Rect(8, 48, 1904, 508), 2: Rect(8, 564, 1904, 508)}),
    ("1 2 3", "place same place on quay", "Plain (A) is at same place on quay", {1: Rect(1928, 8, 628, 1008)}),
    ("1 2 3", "place at 100,160 size 700x500", "Plain (A) is at 100,160 size 700x500", {1: Rect(100, 200, 700, 500)}),
    ("1 2 3", "place left 1/3, left 1/2, left 2/3", "Plain (A) is at left 2/3", {1: Rect(8, 48, 1267, 1024)}),
    ("1 2 3", "gaps off", "gaps are off, 3 windows moved", {1: Rect(0, 40, 960, 1040), 2: Rect(960, 40, 960, 1040), 3: Rect(1920, 0, 1280, 1024)}),
    ("1 2 3", "gaps", "gaps are off, 3 windows moved", {1: Rect(0, 40, 960, 1040), 2: Rect(960, 40, 960, 1040), 3: Rect(1920, 0, 1280, 1024)}),
    ("1 2 3", "send to workspace 2", "Plain (A) is on workspace 2", {}),
    ("1 2 3", "send to workspace all", "Plain (A) is on all workspaces", {}),
    ("1 2 3", "workspace 3", "workspace 3 is shown", {}),
    ("1 2 3", "send to workspace 9", "there is no workspace 9: there are 4", {}),
    ("1 2 3", "maximise", "Plain (A) is maximised", {1: Rect(0, 40, 1920, 1040)}),
    ("1 2 3", "fullscreen", "Plain (A) is fullscreen", {1: Rect(0, 0, 1920, 1080)}),
    ("1 2 3", "minimise", "Plain (A) is minimised", {}),
    ("1 2 3", "restore", "Plain (A) is restored already", {}),
    ("1 2 3", "keep above", "Plain (A) is kept above", {}),
    ("1 2 3", "sweep above", "no window in view is kept above", {}),
    ("1 2 3", "gather", "no window is out of reach", {}),
    ("1 2 3", "undo", "there is nothing to undo", {}),
    ("1 2 3", "focus right", "Plain (B) is in front", {}),
    ("1 2 3", "focus left", "no window is to the left", {}),
    ("1 2 3", "focus next", "Plain (B) is in front", {}),
    ("1 2 3", "focus last", "Plain (B) is in front", {}),
    ("1 2 3", "focus up", "no window is above", {}),
    ("3 1 2", "swap left", "Plain (C) and Plain (B) have changed places", {2: Rect(1928, 8, 1264, 1008), 3: Rect(964, 48, 948, 1024)}),
    ("3 1 2", "swap last", "Plain (C) and Plain (A) have changed places", {1: Rect(1928, 8, 1264, 1008), 3: Rect(8, 48, 948, 1024)}),
    ("3 1 2", "send to display main", "Plain (C) is on main", {3: Rect(8, 48, 1904, 1024)}),
    ("3 1 2", "send to display next", "Plain (C) is on main", {3: Rect(8, 48, 1904, 1024)}),
    ("3 1 2", "send to display left", "Plain (C) is on main", {3: Rect(8, 48, 1904, 1024)}),
    ("3 1 2", "nudge right 50px", "nothing to do: the window is as far right as it goes", {}),
    ("3 1 2", "nudge left 999px", "nothing to do: the window is as far left as it goes", {}),
    ("3 1 2", "stretch left 500px", "nothing to do: the window is as far left as it goes", {}),
    ("3 1 2", "shrink right 90%", "Plain (C) is shrunk right: 112x1008 at 1928,8", {3: Rect(1928, 8, 112, 1008)}),
    ("3 1 2", "pair left", "Plain (C) is at the left, Plain (A) at the right", {1: Rect(2564, 8, 628, 1008), 3: Rect(1928, 8, 628, 1008)}),
    ("3 1 2", "spread columns", "Plain (C) has quay to itself already", {}),
    ("3 1 2", "focus left", "Plain (B) is in front", {}),
]
# fmt: on


def world_of(order: str, frames: tuple[Rect, ...] = (LEFT, RIGHT, FULL)) -> World:
    world = World((MAIN, QUAY), CONFIG)
    for frame in frames:
        world.open(frame=frame, title="ABC"[len(world.room.standing)])
    for number in reversed(order.split()):
        world.room._focus(int(number), False)
    return world


@pytest.mark.parametrize(("order", "sentence", "line", "moved"), CASES)
def test_a_sentence_does_this_and_no_more(order: str, sentence: str, line: str, moved: dict[int, Rect]) -> None:
    world = world_of(order)
    before = dict(enumerate(world.frames(), 1))
    outcome = world.act(sentence)
    after = dict(enumerate(world.frames(), 1))
    assert (outcome.line, {wid: frame for wid, frame in after.items() if frame != before[wid]}) == (line, moved)
