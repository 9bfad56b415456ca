"""A thousand presses of `go` and `place` keys while windows open and close, and others give the focus away, move and raise.

A model says which window has the focus and where each stands. It knows nothing of Jaklet: windows in the order in which
they opened, and the order in which they were used. Where a window opens or closes, the window manager chooses the focus,
and the model takes note of it. Keys and what others do follow one another with a rest between them or with none.
"""

import argparse
import random
import struct
from collections.abc import Iterator
from typing import Protocol

import pytest
import xcffib.xproto as xp
from hypothesis import HealthCheck, Phase, seed, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, precondition, rule, run_state_machine_as_test

from jaklet.core.actions.ports.chord_source import KeyEdge, KeyEvent
from jaklet.core.actions.ports.desktop import Desktop, Moment
from jaklet.core.actions.tasks import TaskOutcome
from jaklet.core.language.actions import parse_action
from jaklet.core.values.apps import App, exactly
from jaklet.core.values.changes import Close, Focus, Move, Stack
from jaklet.core.values.chords import parse_chord, parse_keys
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.desk import Display
from jaklet.core.values.geometry import Rect
from jaklet.core.values.spans import Spot
from jaklet.demo import windows as demo
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.desktops.tabletop.room import Program, Room
from jaklet.desktops.x11 import connect
from jaklet.listener.reports import Reports
from jaklet.listener.session import ListenerSession
from jaklet.listener.tasks import NEVER
from tests.core.test_recall import Shelf
from tests.xserver import XServer, until

APPS = ("Berths", "Radio", "Tides")
LEAST_WINDOWS, MOST_WINDOWS = 4, 9


class World(Protocol):
    """A desk whose windows come and go under other hands, and an independent look at it."""

    @property
    def desktop(self) -> Desktop: ...

    def open(self, cls: str) -> int: ...

    def close(self, wid: int) -> None: ...

    def active(self) -> int: ...

    def give_focus(self, wid: int) -> None: ...

    def move(self, wid: int, x: int, y: int) -> None: ...

    def raise_up(self, wid: int) -> None: ...

    def frame(self, wid: int) -> Rect: ...

    def clear(self) -> None: ...


class SimulatedWorld:
    """The tabletop; its own state is what there is to look at."""

    def __init__(self) -> None:
        screen = Rect(0, 0, 1920, 1080)
        self.room = Room((Display("DP-1", screen, screen, True),))
        self.room.programs = {cls: Program(name=cls, cls=cls, instance=cls.lower(), title=cls) for cls in APPS}
        self.desktop = Tabletop(self.room)

    def open(self, cls: str) -> int:
        return self.room.add(self.room.programs[cls])

    def close(self, wid: int) -> None:
        self.room.change(Close(wid))

    def active(self) -> int:
        return self.room.active or 0

    def give_focus(self, wid: int) -> None:
        self.room.change(Focus(wid))

    def move(self, wid: int, x: int, y: int) -> None:
        self.room.change(Move(wid, Rect(x, y, 500, 400)))

    def raise_up(self, wid: int) -> None:
        self.room.change(Stack((wid,)))

    def frame(self, wid: int) -> Rect:
        return self.room.desk().by_id[wid].frame

    def clear(self) -> None:
        for wid in list(self.room.standing):
            self.close(wid)


class X11World:
    """Bare windows of a connection of our own, and the root window's properties as the server has them."""

    def __init__(self, x: XServer) -> None:
        self.connection = x.connect()
        self.root = self.connection.setup.roots[0].root
        self.atoms = {
            name: self.connection.core.InternAtom(False, len(name), name).reply().atom
            for name in ("_NET_ACTIVE_WINDOW", "_NET_CLIENT_LIST", "_NET_FRAME_EXTENTS")
        }
        self.desktop = connect(x.display)

    def _property(self, name: str) -> list[int]:
        reply = self.connection.core.GetProperty(False, self.root, self.atoms[name], 0, 0, 1024).reply()
        return [int(value) for value in reply.value.to_atoms()]

    def open(self, cls: str) -> int:
        arguments = argparse.Namespace(
            cls=cls, instance=cls.lower(), title=cls, size="300x200", least="", most="", step="", shadow=0, bar="",
            colour="24506b", count=1, role="", dialog="",
        )  # fmt: skip
        wid = demo.show(self.connection, arguments, 0)
        self.connection.flush()
        until(lambda: wid in self._property("_NET_CLIENT_LIST"), "the new window")
        until(lambda: self.active() == wid, "the new window in front")
        return wid

    def close(self, wid: int) -> None:
        self.connection.core.DestroyWindow(wid)
        self.connection.flush()
        until(lambda: wid not in self._property("_NET_CLIENT_LIST"), "the window to go")
        until(lambda: self.active() != wid, "the focus to go elsewhere")

    def active(self) -> int:
        return next(iter(self._property("_NET_ACTIVE_WINDOW")), 0)

    def give_focus(self, wid: int) -> None:
        """Do as a pager does, once all that was asked for before is on its way (EWMH, _NET_ACTIVE_WINDOW)."""
        self.desktop.look()
        event = struct.pack("=BBHII5I", 33, 32, 0, wid, self.atoms["_NET_ACTIVE_WINDOW"], 2, 0, 0, 0, 0)
        mask = xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify
        self.connection.core.SendEvent(False, self.root, mask, event)
        self.connection.core.GetInputFocus().reply()  # it is on its way before anything that is asked after it
        until(lambda: self.active() == wid, "the window that another program gave the focus to")

    def move(self, wid: int, x: int, y: int) -> None:
        mask = xp.ConfigWindow
        size = mask.Width | mask.Height  # small enough for the manager to let it stand anywhere
        self.connection.core.ConfigureWindow(wid, mask.X | mask.Y | size, [x, y, 500, 400])
        self.connection.flush()
        until(lambda: self.frame(wid)[:2] == (x, y), "a moved window")

    def raise_up(self, wid: int) -> None:
        self.connection.core.ConfigureWindow(wid, xp.ConfigWindow.StackMode, [xp.StackMode.Above])
        self.connection.flush()

    def frame(self, wid: int) -> Rect:
        """Return what is visible: the window and what the manager has drawn around it."""
        core = self.connection.core
        inner, at = core.GetGeometry(wid).reply(), core.TranslateCoordinates(wid, self.root, 0, 0).reply()
        reply = core.GetProperty(False, wid, self.atoms["_NET_FRAME_EXTENTS"], 0, 0, 4).reply()
        left, right, top, bottom = reply.value.to_atoms()
        return Rect(at.dst_x - left, at.dst_y - top, inner.width + left + right, inner.height + top + bottom)

    def clear(self) -> None:
        for wid in self._property("_NET_CLIENT_LIST"):
            self.close(wid)


MOST_ROUNDS = 40


class Model:
    """What ought to be."""

    def __init__(self) -> None:
        self.windows: dict[int, str] = {}  # in the order in which they opened
        self.used: list[int] = []  # latest first
        self.front = 0
        self.frames: dict[int, Rect] = {}  # of those that were placed, or moved by others

    def now_in_front(self, wid: int) -> None:
        self.front = wid
        if wid:
            self.used = [wid, *(other for other in self.used if other != wid)]

    def go(self, cls: str, step: int) -> None:
        own = [wid for wid, its in self.windows.items() if its == cls]
        if not own:
            return  # there is nothing to launch here, and the focus stays
        if self.front in own:
            self.now_in_front(own[(own.index(self.front) + step) % len(own)])
        else:
            self.now_in_front(next(wid for wid in self.used if wid in own))

    def half(self, wid: int, frame: Rect, side: str) -> None:
        """Give a window half of the display on which it is."""
        x, width, height = (0, 960, 1080) if self.frames.get(wid, frame).x < 1920 else (1920, 640, 1024)
        self.frames[wid] = Rect(x + (width if side == "right" else 0), 0, width, height)


SIDES = ("left", "right")


def machine(world: World, presses: list[int]) -> type[RuleBasedStateMachine]:
    """Return a state machine on a world; `presses` counts what was pressed."""
    keys = {
        (cls, back): f"{'shift+' if back else ''}super+f{i + 1}" for i, cls in enumerate(APPS) for back in (False, True)
    }
    bindings = tuple(
        Binding(parse_keys(key), parse_action(f"go {cls}{' backwards' if back else ''}"), Spot("", 1, 1, 2))
        for (cls, back), key in keys.items()
    )
    bindings += tuple(
        Binding(parse_keys(f"super+{side}"), parse_action(f"place {side} 1/2"), Spot("", 1, 1, 2)) for side in SIDES
    )
    config = Config(apps={cls: App(cls, (), (exactly(cls=cls),)) for cls in APPS}, bindings=bindings)

    class Presses(RuleBasedStateMachine):
        @initialize(first=st.lists(st.sampled_from(APPS), min_size=LEAST_WINDOWS, max_size=MOST_WINDOWS))
        def begin(self, first: list[str]) -> None:
            self.told: list[TaskOutcome] = []
            self.placing: set[int] = set()
            self.calm = True  # nothing is under way
            self.model = Model()
            world.clear()
            self.session = ListenerSession(
                world.desktop, config, Shelf(), Reports(lambda _chord, _action, end, _took: self.told.append(end))
            )
            for cls in first:
                self.open(cls)

        def now(self) -> Moment:
            """Return the desk as the listener knows it when it gets a key: with all that was told before."""
            return world.desktop.wait(world.desktop.look().now)

        def settle(self) -> None:
            """Let the listener see all that happened, as its loop does, until the desk has come to rest."""
            moment = self.now()
            while self.session.deadline < NEVER or not moment.settled or moment.desk.active != (world.active() or None):
                moment = world.desktop.wait(min(self.session.deadline, moment.now + 0.05))
                self.session.step(moment)
            self.placing.clear()
            self.calm = True
            assert world.active() == self.model.front, self.told
            assert {wid: world.frame(wid) for wid in self.model.frames} == self.model.frames, self.told

        @precondition(lambda self: len(self.model.windows) < MOST_WINDOWS)
        @rule(cls=st.sampled_from(APPS), asked=st.sampled_from(APPS))
        def another(self, cls: str, asked: str) -> None:
            self.settle()
            self.open(cls)
            self._press(asked, False, True)  # a round of nothing but windows that come and go proves little, slowly

        def open(self, cls: str) -> None:
            self.model.windows[world.open(cls)] = cls
            self.model.now_in_front(world.active())
            self.settle()

        @precondition(lambda self: len(self.model.windows) > LEAST_WINDOWS)
        @rule(choice=st.randoms(use_true_random=False), asked=st.sampled_from(APPS))
        def close(self, choice: random.Random, asked: str) -> None:
            self.settle()
            wid = choice.choice(list(self.model.windows))
            world.close(wid)
            del self.model.windows[wid]
            self.model.frames.pop(wid, None)
            self.model.used.remove(wid)
            self.model.now_in_front(world.active())
            self.settle()
            self._press(asked, False, True)

        @rule(choice=st.randoms(use_true_random=False), rest=st.booleans())
        def give_focus(self, choice: random.Random, rest: bool) -> None:
            if not self.calm:
                self.settle()  # who of two comes last within a millisecond, only the server knows
            wid = choice.choice(list(self.model.windows))
            world.give_focus(wid)
            self.now()  # who is in front for no longer than the listener takes to look was not used
            self.model.now_in_front(wid)
            if rest:
                self.settle()

        @rule(choice=st.randoms(use_true_random=False), at=st.tuples(st.integers(0, 900), st.integers(0, 500)))
        def move(self, choice: random.Random, at: tuple[int, int]) -> None:
            wid = choice.choice(list(self.model.windows))
            if wid in self.placing:
                self.settle()  # a window that is being placed is asked more than once
            world.move(wid, *at)
            self.model.frames[wid] = world.frame(wid)

        @rule(choice=st.randoms(use_true_random=False))
        def raise_up(self, choice: random.Random) -> None:
            world.raise_up(choice.choice(list(self.model.windows)))

        @rule(side=st.sampled_from(SIDES), rest=st.booleans())
        def place(self, side: str, rest: bool) -> None:
            moment = self.now()
            self.placing.add(self.model.front)
            self.model.half(self.model.front, world.frame(self.model.front), side)
            self.session.key(KeyEvent(KeyEdge.PRESS, parse_chord(f"super+{side}"), 0), moment)
            if rest:
                self.settle()
            self.calm = rest

        def _press(self, cls: str, back: bool, rest: bool) -> None:
            presses.append(len(self.model.windows))
            self.told.clear()
            self.session.key(KeyEvent(KeyEdge.PRESS, parse_chord(keys[cls, back]), 0), self.now())
            self.model.go(cls, -1 if back else 1)
            if rest:
                alone = self.calm
                self.settle()
                assert not alone or self.told[-1].done == (cls in self.model.windows.values())
            self.calm = rest

        # Most of what happens are presses.
        @rule(cls=st.sampled_from(APPS), back=st.booleans(), rest=st.booleans())
        def first(self, cls: str, back: bool, rest: bool) -> None:
            self._press(cls, back, rest)

        @rule(cls=st.sampled_from(APPS), rest=st.booleans())
        def second(self, cls: str, rest: bool) -> None:
            self._press(cls, False, rest)

        @rule(cls=st.sampled_from(APPS), rest=st.booleans())
        def third(self, cls: str, rest: bool) -> None:
            self._press(cls, True, rest)

        def teardown(self) -> None:
            self.settle()

    return Presses


@pytest.fixture(params=["tabletop", "x11"])
def world(request: pytest.FixtureRequest) -> Iterator[World]:
    if request.param == "tabletop":
        yield SimulatedWorld()
        return
    one = X11World(request.getfixturevalue("x"))
    yield one
    one.clear()
    one.desktop.close()
    one.connection.disconnect()


@pytest.mark.parametrize("enough", [120, pytest.param(1000, marks=pytest.mark.slow)])
def test_presses_of_keys_do_what_a_model_says(world: World, enough: int) -> None:
    """Some of the thousand in every run, as each takes a real window manager its time."""
    presses: list[int] = []
    enough = enough if isinstance(world, X11World) else 1000
    checked = settings(
        max_examples=2 if enough == 120 else 10,
        stateful_step_count=100,
        deadline=None,
        suppress_health_check=list(HealthCheck),
        phases=[Phase.generate],
        database=None,
    )
    for number in range(MOST_ROUNDS):
        # Each round has a seed of its own, or all would be the first one where Hypothesis runs without chance.
        run_state_machine_as_test(seed(number)(machine(world, presses)), settings=checked)
        if len(presses) >= enough and len(set(presses)) > 3:  # a round may happen to open and close next to nothing
            break
    assert len(presses) >= enough
    assert len(set(presses)) > 3, "windows opened and closed meanwhile"
