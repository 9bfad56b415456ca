"""One suite that all desks pass: what the port promises, whoever keeps it, and whatever else a desk cannot do."""

from collections.abc import Callable, Iterator
from importlib import import_module
from pathlib import Path
from typing import Any

import pytest

from jaklet.core.actions.launching import focus_window
from jaklet.core.actions.ports.chord_source import KeyEdge, KeyEvent, RefusedChord
from jaklet.core.actions.ports.desktop import Desktop, Moment, ProgramExit
from jaklet.core.actions.tasks import Goal, Task, TaskContext, TaskOutcome, reach
from jaklet.core.keys.keymap import HearableKeys
from jaklet.core.keys.strokes import RELEASED, TypedKey
from jaklet.core.values.changes import (
    Change,
    Close,
    Focus,
    Kill,
    Launch,
    Minimise,
    Move,
    Press,
    Provide,
    Reshape,
    Reveal,
    Send,
    ShowWorkspace,
    Stack,
)
from jaklet.core.values.chords import parse_chord
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window, WindowShape
from jaklet.core.values.desk_abilities import EVERY, Ability, ability_called
from jaklet.core.values.geometry import Rect
from jaklet.core.values.recency import PAUSE
from jaklet.demo.harbour import write_files
from jaklet.desktops.drive import drive_task
from jaklet.desktops.gnome.abilities import MOST_OF_GNOME
from jaklet.desktops.plasma.abilities import MOST_OF_PLASMA
from jaklet.desktops.tabletop.desktop import Tabletop
from tests.conftest import Office
from tests.core.test_recall import Shelf
from tests.gnome import Gnome
from tests.neighbours.programs import CLASS
from tests.neighbours.table import NEIGHBOURS
from tests.plasma import Plasma
from tests.xserver import XServer


def needs(*abilities: Ability) -> Callable[[Callable[..., None]], Callable[..., None]]:
    """Say what a promise is about: a desk that can do nothing of it makes no such promise."""

    def marked(test: Callable[..., None]) -> Callable[..., None]:
        test.needs = {Ability.SEE, *abilities}  # type: ignore[attr-defined]
        return test

    return marked


def pytest_generate_tests(metafunc: pytest.Metafunc) -> None:
    """Hold each promise against all desks, and against tabletops that lack one ability that it is not about."""
    needed = getattr(metafunc.function, "needs", set(Ability))
    lacking = [f"tabletop without {one.word}" for one in Ability if one not in needed]
    real = [
        "x11",
        *(name for name, most in {"plasma": MOST_OF_PLASMA, "gnome": MOST_OF_GNOME}.items() if needed <= most),
    ]
    company = [
        pytest.param(f"x11 beside {name}", marks=() if name in IN_SHORT else pytest.mark.slow) for name in COMPANY
    ]
    metafunc.parametrize("desktop", ["tabletop", *real, *company, *lacking], indirect=True)


COMPOSITORS = {"plasma", "gnome"}
CONNECTORS = {"KWin": ["Virtual-0", "Virtual-1"], "GNOME Shell": ["Meta-0", "Meta-1"]}
# Neighbours beside whom X11 is held against all promises: those that take neither the focus nor the keyboard.
COMPANY = ["a title of 5,000 letters", "a window that jumps about", "windows that open and vanish"]
IN_SHORT = {"windows that open and vanish"}


class Company:
    """A desk of which the windows of neighbours are left out, so that promises can be exact about the others."""

    def __init__(self, desktop: Desktop) -> None:
        self._desktop = desktop

    def __getattr__(self, name: str) -> Any:
        return getattr(self._desktop, name)

    def look(self) -> Moment:
        return without_neighbours(self._desktop.look())

    def wait(self, until: float) -> Moment:
        return without_neighbours(self._desktop.wait(until))


def without_neighbours(moment: Moment) -> Moment:
    """Return a moment without the windows of neighbours."""
    desk = moment.desk
    ours = {window.id: window for window in desk.windows if window.cls != CLASS}
    stacking, recent = (tuple(wid for wid in order if wid in ours) for order in (desk.stacking, desk.recent))
    active = desk.active if desk.active in ours else None
    desk = desk._replace(windows=tuple(ours.values()), stacking=stacking, recent=recent, active=active)
    return moment._replace(desk=desk)


@pytest.fixture
def desktop(request: pytest.FixtureRequest, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Desktop]:
    """A desk with nothing on it, on which the harbour office's programs can be launched."""
    folder = tmp_path / "office"
    write_files(folder)
    if request.param in COMPOSITORS:
        session: Plasma | Gnome = request.getfixturevalue(request.param)
        for name, value in session.env.items():
            monkeypatch.setenv(name, value)
        monkeypatch.setenv("PATH", f"{folder / 'bin'}:/usr/bin:/bin")
        real: Desktop = import_module(f"jaklet.desktops.{request.param}").connect(lambda: tmp_path / "logs")
        yield real
        change(real, *(Kill(window.id) for window in real.look().desk.windows))
        real.close()
        return
    if not request.param.startswith("x11"):
        tabletop = Tabletop.open(folder / "tabletop.yaml")
        without = ability_called(request.param.partition(" without ")[2])
        tabletop.room.abilities = EVERY - {without} if without else EVERY
        yield tabletop
        return
    x: XServer = request.getfixturevalue("x")
    monkeypatch.setenv("PATH", f"{folder / 'bin'}:/usr/bin:/bin")
    monkeypatch.setenv("DISPLAY", x.display)
    from jaklet.desktops.x11 import connect

    desk = connect(x.display, lambda: tmp_path / "logs")
    beside = request.param.partition(" beside ")[2] or "nobody"
    with NEIGHBOURS[beside].beside(x, Office(tmp_path / "of_neighbours")):
        yield Company(desk) if beside != "nobody" else desk
    desk.close()


def ask(desktop: Desktop, goal: Goal) -> Desk:
    """Reach a goal, which must not be refused; return the desk as it then is."""
    last: list[Moment] = []

    def task(moment: Moment) -> Task:
        moment, refused, _ = yield from reach(goal, moment)
        last.append(moment)
        return TaskOutcome(not refused, str(refused))

    outcome = drive_task(desktop, task)
    assert outcome.done, outcome.line
    return last[0].desk


def framed(wid: int, frame: Rect) -> Goal:
    """Return the goal that a window has a frame."""
    return lambda now: () if now.by_id[wid].frame == frame else (Move(wid, frame),)


def shaped(wid: int, shape: WindowShape, normal: Rect) -> Goal:
    """Return the goal that a window has a shape and the frame that goes with it."""

    def goal(now: Desk) -> tuple[Change, ...]:
        window, display = now.by_id[wid], now.display_of(now.by_id[wid].frame)
        frames = {WindowShape.MAXIMISED: display.work, WindowShape.FULLSCREEN: display.rect, WindowShape.NORMAL: normal}
        return () if (window.shape, window.frame) == (shape, frames[shape]) else (Reshape(wid, shape),)

    return goal


def change(desktop: Desktop, *changes: Change) -> Desk:
    """Ask for changes until the desk is settled."""
    desktop.apply(changes)
    moment = desktop.look()
    for _ in range(200):
        moment = desktop.wait(moment.now + 1)
        if moment.settled:
            return moment.desk
    raise AssertionError(f"never settled after {changes}")


def launch(desktop: Desktop, program: str, cls: str, *options: str) -> Window:
    """Launch a program and wait for its window."""
    before = {window.id for window in desktop.look().desk.windows}
    desktop.apply([Launch(program, (program, *options))])
    end = desktop.look().now + 20
    while (moment := desktop.wait(end)).now < end:
        # KWin tells classes in small letters.
        new = [w for w in moment.desk.windows if w.id not in before and w.cls.lower() == cls.lower()]
        if new and moment.desk.active == new[0].id:
            return new[0]
    raise AssertionError(f"no window of {program}: {moment.desk.windows}, ended {moment.ended}")


@needs()
def test_displays_have_names_and_work_areas_within_them(desktop: Desktop) -> None:
    displays = desktop.look().desk.displays
    names = CONNECTORS.get(desktop.manager_name(), ["DP-1", "HDMI-1"])
    assert [display.name for display in displays] == names
    for display in displays:
        assert display.rect.overlap(display.work) == display.work.width * display.work.height > 0


@needs()
def test_a_launched_program_shows_a_window_in_front(desktop: Desktop) -> None:
    window = launch(desktop, "berth-board", "BerthBoard")
    desk = desktop.look().desk
    assert (window.title, desk.active, desk.stacking[-1], desk.recent[0]) == ("Berth board", *[window.id] * 3)


@needs()
def test_a_program_that_is_not_there_has_ended(desktop: Desktop) -> None:
    desktop.apply([Launch("whistle", ("no-such-whistle",))])
    moment = desktop.wait(desktop.look().now + 1)
    assert moment.ended == (ProgramExit("whistle", 127, "there is no program 'no-such-whistle'"),)


@needs(Ability.MOVE)
def test_a_moved_window_has_exactly_that_frame(desktop: Desktop) -> None:
    window = launch(desktop, "radio-log", "RadioLog")
    for frame in (Rect(100, 200, 640, 480), Rect(1920, 0, 999, 777), Rect(0, 40, 401, 301)):
        desk = ask(desktop, framed(window.id, frame))
        assert desk.by_id[window.id].frame == frame


@needs(Ability.FOCUS)
def test_focus_raises_and_orders_by_use(desktop: Desktop) -> None:
    first, second, third = (
        launch(desktop, program, cls).id
        for program, cls in (("berth-board", "BerthBoard"), ("radio-log", "RadioLog"), ("tide-gauge", "TideGauge"))
    )
    desk = ask(desktop, lambda now: () if now.active == first else (Focus(first),))
    assert desk.stacking[-1] == first
    assert desk.recent == (first, third, second)
    assert [window.id for window in desk.windows] == [first, second, third]


@needs(Ability.STACK)
def test_stack_puts_windows_on_top_in_order_and_keeps_the_focus(desktop: Desktop) -> None:
    ids = [
        launch(desktop, program, cls).id
        for program, cls in (("berth-board", "BerthBoard"), ("radio-log", "RadioLog"), ("tide-gauge", "TideGauge"))
    ]
    order = (ids[2], ids[0])
    desk = ask(desktop, lambda now: () if now.stacking[-2:] == order else (Stack(order),))
    assert (desk.stacking, desk.active) == ((ids[1], *order), ids[2])


@needs(Ability.ORDER)
def test_windows_come_into_an_order_with_the_focus_in_front(desktop: Desktop) -> None:
    programs = (("berth-board", "BerthBoard"), ("radio-log", "RadioLog"), ("tide-gauge", "TideGauge"))
    ids = [launch(desktop, program, cls).id for program, cls in programs]
    before = desktop.look().desk.recent
    order = (ids[1], ids[0], ids[2])
    desk = ask(desktop, lambda now: () if now.stacking[-3:] == order else (Stack(order),))
    assert (desk.stacking, desk.active, desk.recent) == (order, ids[2], before)


@needs(Ability.MAKE_WORKSPACES)
def test_workspaces_are_made_and_taken_away(desktop: Desktop) -> None:
    before = desktop.look().desk.workspaces
    for count in (before + 2, before):
        desk = ask(desktop, lambda now, count=count: () if now.workspaces == count else (Provide(count),))  # type: ignore[misc]
        assert desk.workspaces == count


@needs(Ability.MOVE, Ability.SHAPE)
def test_shapes_change_and_come_back(desktop: Desktop) -> None:
    window = launch(desktop, "ledger", "Ledger")
    frame = Rect(300, 200, 800, 640)
    ask(desktop, framed(window.id, frame))
    for shape in (WindowShape.MAXIMISED, WindowShape.FULLSCREEN, WindowShape.NORMAL):
        desk = ask(desktop, shaped(window.id, shape, frame))
        assert desk.by_id[window.id].shape is shape


@needs(Ability.MINIMISE)
def test_minimise_gives_the_focus_away_and_reveal_brings_back(desktop: Desktop) -> None:
    berths, radio = launch(desktop, "berth-board", "BerthBoard").id, launch(desktop, "radio-log", "RadioLog").id
    desk = ask(desktop, lambda now: () if now.by_id[radio].minimised else (Minimise(radio),))
    end = desktop.look().now + 5
    while desktop.look().desk.active != berths:
        assert desktop.wait(end).now < end, "the focus is given away"
    desk = ask(desktop, lambda now: () if not now.by_id[radio].minimised else (Reveal(radio),))
    assert not desk.by_id[radio].minimised


@needs(Ability.WORKSPACES)
def test_workspaces_are_counted_from_one(desktop: Desktop) -> None:
    window = launch(desktop, "tide-gauge", "TideGauge").id
    assert desktop.look().desk.workspaces == 4
    desk = ask(desktop, lambda now: () if now.by_id[window].workspace == 3 else (Send(window, 3),))
    assert desk.workspace == 1
    desk = ask(desktop, lambda now: () if now.workspace == 3 else (ShowWorkspace(3),))
    ask(desktop, lambda now: () if now.by_id[window].workspace is None else (Send(window, None),))
    desk = ask(desktop, lambda now: () if now.workspace == 1 else (ShowWorkspace(1),))
    assert desk.by_id[window].workspace is None


@needs(Ability.WORKSPACES, Ability.FOCUS)
def test_going_to_a_window_on_another_workspace_shows_it(desktop: Desktop) -> None:
    far, near = launch(desktop, "tide-gauge", "TideGauge"), launch(desktop, "ledger", "Ledger")
    ask(desktop, lambda now: () if now.by_id[far.id].workspace == 2 else (Send(far.id, 2),))
    assert desktop.look().desk.active == near.id
    outcome = drive_task(desktop, lambda moment: focus_window(far, TaskContext(Config(), Shelf()), moment))
    desk = desktop.look().desk
    assert (outcome.done, desk.active, desk.workspace) == (True, far.id, 2)
    ask(desktop, lambda now: () if now.workspace == 1 else (ShowWorkspace(1),))


@needs(Ability.WORKSPACES, Ability.FOCUS)
def test_once_settled_the_front_window_is_the_one_with_the_focus(desktop: Desktop) -> None:
    """Whether the focus was given or refused: a window that was only asked for is not acted upon later."""
    far = launch(desktop, "tide-gauge", "TideGauge").id
    launch(desktop, "ledger", "Ledger")
    ask(desktop, lambda now: () if now.by_id[far].workspace == 2 else (Send(far, 2),))
    desk = change(desktop, Focus(far))  # without its workspace, which some managers do not show by themselves
    assert desk.aimed is None
    assert desk.front
    assert desk.front.id == desk.active
    ask(desktop, lambda now: () if now.workspace == 1 else (ShowWorkspace(1),))


@needs(Ability.CLOSE)
def test_a_closed_window_is_gone(desktop: Desktop) -> None:
    window = launch(desktop, "letters", "Letters").id
    desk = ask(desktop, lambda now: (Close(window),) if window in now.by_id else ())
    assert desk.windows == ()
    assert window not in desk.stacking + desk.recent


@needs(Ability.CLOSE)
def test_changes_to_a_window_that_has_gone_are_harmless(desktop: Desktop) -> None:
    window = launch(desktop, "letters", "Letters").id
    ask(desktop, lambda now: (Close(window),) if window in now.by_id else ())
    asked = (
        Move(window, Rect(0, 0, 9, 9)), Focus(window), Minimise(window), Reveal(window), Close(window),
        Reshape(window, WindowShape.MAXIMISED), Send(window, 2), Stack((window,)),
    )  # fmt: skip
    assert change(desktop, *asked).windows == ()


@needs()
def test_a_window_tells_its_process_and_what_it_was_launched_for(desktop: Desktop) -> None:
    """A launched window is known as its app's whatever class it has; one that was there before is not."""
    window = launch(desktop, "berth-board", "BerthBoard")
    assert window.launched_for == Launch("berth-board", ("berth-board",)).tie
    assert window.kind == "normal"
    assert window.parent is None
    assert window.process


@needs()
def test_only_the_first_window_of_a_launch_is_tied_to_it(desktop: Desktop) -> None:
    first = launch(desktop, "tide-gauge", "TideGauge")
    second = launch(desktop, "tide-gauge", "TideGauge")
    assert [window.launched_for for window in desktop.look().desk.windows] == [
        Launch("tide-gauge", ("tide-gauge",)).tie
    ] * 2
    assert first.id != second.id


@needs(Ability.KILL)
def test_a_killed_program_has_no_window(desktop: Desktop) -> None:
    first, second = launch(desktop, "letters", "Letters"), launch(desktop, "ledger", "Ledger")
    desk = ask(desktop, lambda now: (Kill(first.id),) if first.id in now.by_id else ())
    assert [window.id for window in desk.windows] == [second.id]


@needs(Ability.FOCUS)
def test_a_walk_leaves_the_order_of_use_until_it_is_over(desktop: Desktop) -> None:
    a, b, c = (
        launch(desktop, program, cls).id
        for program, cls in (("berth-board", "BerthBoard"), ("radio-log", "RadioLog"), ("tide-gauge", "TideGauge"))
    )
    for step in (b, a):
        desk = ask(desktop, lambda now, wid=step: () if now.active == wid else (Focus(wid, walking=True),))  # type: ignore[misc]
        assert (desk.active, desk.recent) == (step, (c, b, a))
    desk = ask(desktop, lambda now: () if now.active == c else (Focus(c),))
    assert desk.recent == (c, a, b)  # where the walk ended was used before this
    ask(desktop, lambda now: () if now.active == b else (Focus(b, walking=True),))
    end = desktop.look().now + PAUSE + 1  # it counts from when the window manager has answered
    while (moment := desktop.wait(end)).now < end:
        pass
    assert moment.desk.recent == (b, c, a)  # nobody went on


@needs()
def test_what_a_program_wrote_as_an_error_is_told_when_it_fails(desktop: Desktop, tmp_path: Path) -> None:
    """On the tabletop its file says what it says; here a script does."""
    if isinstance(desktop, Tabletop):
        program = desktop.room.programs["charts"]
        desktop.room.programs["charts"] = program._replace(fails=3, says="no chart of these waters")
        desktop.apply([Launch("charts", ("charts",))])
    else:
        script = "echo first >&2; printf 'no chart of these waters\\n\\n' >&2; exit 3"
        desktop.apply([Launch("charts", ("sh", "-c", script), str(tmp_path), (("A", "b"),))])
    end = desktop.look().now + 20
    while not (moment := desktop.wait(end)).ended and moment.now < end:
        pass
    assert (moment.ended, moment.said("charts")) == ((ProgramExit("charts", 3),), "no chart of these waters")
    assert moment.said("ledger") == ""


class Keys:
    """The keyboard of either desk: chords pressed and let go by hand, and what the desk has heard of them."""

    def __init__(self, desktop: Desktop, request: pytest.FixtureRequest) -> None:
        assert desktop.chords
        self.desktop, self.source = desktop, desktop.chords
        self._x: XServer | None = None if isinstance(desktop, Tabletop) else request.getfixturevalue("x")

    def hear(self, *texts: str, scoped: tuple[str, ...] = (), every: bool = False) -> list[RefusedChord]:
        chords, some = (frozenset(parse_chord(text) for text in group) for group in (texts, scoped))
        return self.source.grab(HearableKeys(chords | some, some, every))

    def tap(self, text: str) -> None:
        if self._x:
            self._x.press(text)
        elif isinstance(self.desktop, Tabletop):
            for edge in (KeyEdge.PRESS, KeyEdge.RELEASE):
                self.desktop.keyboard.strike(parse_chord(text), edge)

    def typed(self, count: int) -> list[TypedKey]:
        """Return what the next keys type, so many, and take in that the last one is let go of."""
        found: list[KeyEvent] = []
        end = self.desktop.look().now + 20
        while sum(bool(one.typed) for one in found) < count or not any(one.edge is KeyEdge.RELEASE for one in found):
            for event in self.source.key_events():
                if event.waits:
                    self.source.answer(False)
                found.append(event)
            self.desktop.wait(self.desktop.look().now if isinstance(self.desktop, Tabletop) else end)
            assert self.desktop.look().now < end, found
        return [one.typed for one in found if one.typed]

    def heard(self, count: int, passed: bool = False) -> list[tuple[str, str]]:
        """Return the next events, answering those that wait."""
        found: list[tuple[str, str]] = []
        end = self.desktop.look().now + 20
        while len(found) < count:
            for event in self.source.key_events():
                if event.waits:
                    self.source.answer(passed)
                found.append((event.edge.value, str(event.chord)))
            if len(found) < count and self.desktop.wait(end).now >= end and not isinstance(self.desktop, Tabletop):
                break
        return found


@needs(Ability.HEAR, Ability.PASS_ON, Ability.WHOLE_KEYBOARD, Ability.AT_ONCE, Ability.RELEASE, Ability.UNASKED)
def test_keys_are_heard_as_asked_for(desktop: Desktop, request: pytest.FixtureRequest) -> None:
    """Both edges of a chord; one that is passed on is over with; of a whole keyboard every key, by name if it has one."""
    keys = Keys(desktop, request)
    assert keys.hear("super+f5", scoped=("super+f6",)) == []
    keys.tap("super+f5")
    assert keys.heard(2) == [("press", "super+f5"), ("release", "super+f5")]
    keys.tap("super+f6")
    assert keys.heard(2) == [("press", "super+f6"), ("release", "super+f6")]
    keys.tap("super+f6")
    assert keys.heard(1, passed=True)[0] == ("press", "super+f6")
    assert keys.hear("b", every=True) == []
    keys.tap("b")
    assert keys.heard(2) == [("press", "b"), ("release", "b")]
    keys.tap("c")
    assert keys.heard(2) == [("press", "None"), ("release", "None")]
    assert keys.hear("super+f5") == []
    keys.tap("c")  # nobody's but the program's
    keys.tap("super+f5")
    assert keys.heard(2) == [("press", "super+f5"), ("release", "super+f5")]
    assert keys.hear() == []


@needs(Ability.HEAR, Ability.WHOLE_KEYBOARD, Ability.AT_ONCE, Ability.RELEASE, Ability.UNASKED)
def test_what_keys_type_is_told_where_that_is_asked_for(desktop: Desktop, request: pytest.FixtureRequest) -> None:
    keys = Keys(desktop, request)
    assert keys.source.grab(HearableKeys(every=True, typed=True)) == []
    for text, typed in (
        ("b", TypedKey("b", "b")), ("ctrl+b", TypedKey("ctrl+b")), ("escape", TypedKey("escape")),
        ("shift+tab", TypedKey("shift+tab")), ("super+left", TypedKey("super+left")),
    ):  # fmt: skip
        keys.tap(text)
        wanted = [typed, RELEASED] if "+" in text else [typed]  # that no modifier is held any more is told, too
        assert keys.typed(len(wanted)) == wanted
    keys.hear()


@needs(Ability.HEAR, Ability.WHOLE_KEYBOARD, Ability.AT_ONCE, Ability.TYPE, Ability.UNASKED)
def test_what_another_holds_is_refused_and_keys_can_be_pressed_for_programs(
    desktop: Desktop, request: pytest.FixtureRequest
) -> None:
    keys = Keys(desktop, request)
    taken = "ctrl+alt+delete" if isinstance(desktop, Tabletop) else "super+tab"  # metacity's
    (refusal,) = keys.hear("super+f5", taken)
    assert (str(refusal.chord), refusal.reason) == (taken, "another program holds it")
    assert keys.hear(taken, every=True) == []  # within a layer it is ours
    keys.hear()
    window = launch(desktop, "berth-board", "BerthBoard")
    pressed = (parse_chord("ctrl+k"), parse_chord("a"))
    assert change(desktop, Press(pressed, window.id)).active == window.id
    assert not isinstance(desktop, Tabletop) or desktop.room.sent == pressed
