"""A thousand presses of `go` keys while windows open and close: a model says which window has the focus, each time.

The model knows nothing of Jaklet: windows in the order in which they opened, and the order in which they were used. Where
a window opens or closes, the window manager chooses the focus, and the model takes note of it.
"""

import argparse
import random
from collections.abc import Iterator
from typing import Protocol

import pytest
from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, precondition, rule, run_state_machine_as_test

from jaklet.core.apps import App, exactly
from jaklet.core.config import Binding, Config
from jaklet.core.desk import Close, Display
from jaklet.core.geometry import Rect
from jaklet.core.keys.chords import parse_chord, parse_keys
from jaklet.core.ports import Desktop, Edge, KeyEvent
from jaklet.core.spans import Spot
from jaklet.core.tasks import Outcome
from jaklet.core.verbs import parse_action
from jaklet.demo import windows as demo
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.desktops.tabletop.room import Program, Room
from jaklet.desktops.x11 import connect
from jaklet.listener.running import NEVER
from jaklet.listener.session import Session
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
            for name in ("_NET_ACTIVE_WINDOW", "_NET_CLIENT_LIST")
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


def machine(world: World, presses: list[int]) -> type[RuleBasedStateMachine]:
    """Return a state machine on a world; `presses` counts what was pressed."""
    keys = {
        (cls, back): f"{'shift+' if back else ''}super+f{i + 1}" for i, cls in enumerate(APPS) for back in (False, True)
    }
    bindings = tuple(
        Binding(parse_keys(key), parse_action(f"go {cls}{' backwards' if back else ''}"), Spot("", 1, 1, 2))
        for (cls, back), key in keys.items()
    )
    config = Config(apps={cls: App(cls, (), (exactly(cls=cls),)) for cls in APPS}, bindings=bindings)

    class Presses(RuleBasedStateMachine):
        @initialize(first=st.lists(st.sampled_from(APPS), min_size=LEAST_WINDOWS, max_size=MOST_WINDOWS))
        def begin(self, first: list[str]) -> None:
            world.clear()
            self.model = Model()
            self.told: list[Outcome] = []
            self.session = Session(world.desktop, config, Shelf(), lambda _chord, _action, end: self.told.append(end))
            for cls in first:
                self.open(cls)

        def settle(self) -> None:
            """Let the listener see all that happened, as its loop does, until the desk has come to rest."""
            moment = world.desktop.wait(world.desktop.look().now)
            while self.session.deadline < NEVER or not moment.settled or moment.desk.active != (world.active() or None):
                moment = world.desktop.wait(min(self.session.deadline, moment.now + 0.05))
                self.session.step(moment)

        @precondition(lambda self: len(self.model.windows) < MOST_WINDOWS)
        @rule(cls=st.sampled_from(APPS))
        def open(self, cls: str) -> None:
            self.model.windows[world.open(cls)] = cls
            self.model.now_in_front(world.active())
            self.settle()

        @precondition(lambda self: len(self.model.windows) > LEAST_WINDOWS)
        @rule(choice=st.randoms(use_true_random=False))
        def close(self, choice: random.Random) -> None:
            wid = choice.choice(list(self.model.windows))
            world.close(wid)
            del self.model.windows[wid]
            self.model.used.remove(wid)
            self.model.now_in_front(world.active())
            self.settle()

        def _press(self, cls: str, back: bool) -> None:
            presses.append(len(self.model.windows))
            self.told.clear()
            self.session.key(KeyEvent(Edge.PRESS, parse_chord(keys[cls, back]), 0), world.desktop.look())
            self.settle()
            self.model.go(cls, -1 if back else 1)
            assert world.active() == self.model.front, (cls, back, self.told)
            assert self.told[0].done == (cls in self.model.windows.values())

        # Most of what happens are presses.
        first = rule(cls=st.sampled_from(APPS), back=st.booleans())(lambda self, cls, back: self._press(cls, back))
        second = rule(cls=st.sampled_from(APPS))(lambda self, cls: self._press(cls, False))
        third = rule(cls=st.sampled_from(APPS))(lambda self, cls: self._press(cls, True))

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


@pytest.mark.parametrize("enough", [250, pytest.param(1000, marks=pytest.mark.slow)])
def test_presses_of_go_keys_go_where_a_model_says(world: World, enough: int) -> None:
    """Some of the thousand in every run, as each takes a real window manager its time."""
    presses: list[int] = []
    enough = enough if isinstance(world, X11World) else 1000
    checked = settings(
        max_examples=3 if enough == 250 else 10,
        stateful_step_count=100,
        deadline=None,
        suppress_health_check=list(HealthCheck),
        phases=[Phase.generate],
        database=None,
    )
    for _ in range(MOST_ROUNDS):
        run_state_machine_as_test(machine(world, presses), settings=checked)
        if len(presses) >= enough and len(set(presses)) > 3:  # a round may happen to open and close next to nothing
            break
    assert len(presses) >= enough
    assert len(set(presses)) > 3, "windows opened and closed meanwhile"
