"""In which way each kind of change is asked for, with managers that know some of them; and what is remembered."""

import struct
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import pytest

from jaklet.core.values.changes import Change, Move, Reveal, Send, Stack
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.geometry import Insets, Rect, Strut
from jaklet.desktops.learned_ways import DATABASE, LearnedWays
from jaklet.desktops.x11.ladders import WAYS, RequestContext, RequestLadders
from jaklet.desktops.x11.workareas import on_displays, unexplained_strips

FRAME = Rect(100, 200, 600, 400)
AREA = Rect(0, 0, 1920, 1080)
DESK = Desk(
    (Display("DP-1", AREA, AREA, True),),
    tuple(Window(wid, frame=Rect(0, 0, 300, 300), border=Insets(4, 4, 20, 4)) for wid in (1, 2, 3)),
    stacking=(1, 2, 3),
    active=3,
)
SHOWN = DESK._replace(windows=tuple(window._replace(minimised=window.id == 2) for window in DESK.windows))
# A change, the desk before it, and the ways in the order in which they are tried if none works.
CASES: list[tuple[Change, Desk]] = [
    (Move(1, FRAME), DESK),
    (Reveal(2), SHOWN),
    (Send(3, None), DESK),
    (Stack((3, 1, 2)), DESK),
]


class Manager:
    """One that does what it is asked in some ways, and notes in which ones it was asked."""

    def __init__(self, works: set[str]) -> None:
        self.works, self.asked = works, list[str]()
        self.desk = DESK


def play(manager: Manager, change: Change, ladders: RequestLadders, monkeypatch: pytest.MonkeyPatch) -> bool:
    """Ask for a change, and go on as long as there is another way; return whether it has come about."""
    done = [False]

    def ask(name: str) -> Any:
        def way(_change: Change, _asking: RequestContext) -> tuple[int, ...]:
            manager.asked.append(name)
            done[0] = done[0] or name in manager.works
            return ()

        return way

    table = {kind: tuple(way._replace(ask=ask(way.name)) for way in ways) for kind, ways in WAYS.items()}
    monkeypatch.setattr(ladders, "_ways", table)
    asking = RequestContext(None, manager.desk, 0, 3, lambda _wid: Insets(), lambda _wid: 1)  # type: ignore[arg-type]  # no wire
    monkeypatch.setattr("jaklet.desktops.x11.ladders._is_so", lambda *_: done[0])
    ladders.ask(change, asking)
    while ladders.read_back(manager.desk, lambda _wid: True):
        ladders.again(asking)
    return done[0]


@pytest.mark.parametrize(("change", "desk"), CASES, ids=lambda one: type(one).__name__)
def test_the_next_way_is_tried_and_what_worked_is_begun_with(
    change: Change, desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    names = [way.name for way in WAYS[type(change)]]
    for works in names:
        manager = Manager({works})
        manager.desk = desk
        kept: dict[str, str] = {}
        ladders = RequestLadders(lambda _atom: True, keep=kept.__setitem__)
        assert play(manager, change, ladders, monkeypatch)
        at = names.index(works)
        assert manager.asked == (names[:1] if at == 0 else [names[0], *names[: at + 1]])
        assert list(kept.values()) == [works]
        manager.asked.clear()
        assert play(manager, change, ladders, monkeypatch)
        assert manager.asked == [works]
        again = RequestLadders(lambda _atom: True, learned=lambda kept=kept: kept)  # type: ignore[misc]  # of another session
        manager.asked.clear()
        assert play(manager, change, again, monkeypatch)
        assert manager.asked == [works]


def test_a_way_that_has_worked_is_not_given_up_for_one_lucky_other(monkeypatch: pytest.MonkeyPatch) -> None:
    change = CASES[0][0]
    first, second = (way.name for way in WAYS[Move][:2])
    ladders = RequestLadders(lambda _atom: True)
    assert play(Manager({first}), change, ladders, monkeypatch)
    for begins in (first, first, first, second):
        manager = Manager({second})
        assert play(manager, change, ladders, monkeypatch)
        assert manager.asked[0] == begins


def test_a_window_that_no_way_works_for_is_not_asked_in_all_of_them_for_ever(monkeypatch: pytest.MonkeyPatch) -> None:
    ladders, ways = RequestLadders(lambda _atom: True), len(WAYS[Move])
    asked = []
    for _ in range(8):
        manager = Manager(set())
        assert not play(manager, Move(1, FRAME), ladders, monkeypatch)
        asked.append(len(manager.asked))
        assert manager.asked[-1] == manager.asked[0]  # what it is left with is what is best in all
    assert asked == [ways + 2] * 6 + [1] * 2


def test_a_window_that_always_misses_by_the_same_is_asked_with_that_taken_off(monkeypatch: pytest.MonkeyPatch) -> None:
    """A manager that adds something to each request; and one that no longer does."""
    asked: list[tuple[int, int]] = []
    desk, adds = [DESK], [(1, -2)]

    def way(change: Move, _asking: RequestContext) -> tuple[int, ...]:
        x, y, width, height = change.frame
        asked.append((x, y))
        lands = Rect(x + adds[0][0], y + adds[0][1], width, height)
        desk[0] = DESK._replace(windows=(DESK.windows[0]._replace(frame=lands, cls="Dillo"), *DESK.windows[1:]))
        return ()

    def placed(ladders: RequestLadders) -> tuple[Rect, int]:
        """Ask for a place; return where the window is then, and how often that took."""
        asked.clear()
        ways = tuple(one._replace(ask=way) for one in WAYS[Move])
        monkeypatch.setattr(ladders, "_ways", {Move: ways})
        desk[0] = DESK._replace(windows=(DESK.windows[0]._replace(cls="Dillo"), *DESK.windows[1:]))

        def asking() -> RequestContext:
            return RequestContext(None, desk[0], 0, 3, lambda _wid: Insets(), lambda _wid: 1)  # type: ignore[arg-type]  # no wire

        ladders.ask(Move(1, FRAME), asking())
        while ladders.read_back(desk[0], lambda _wid: True):
            ladders.again(asking())
        return desk[0].by_id[1].frame, len(asked)

    kept: dict[str, str] = {}
    ladders = RequestLadders(lambda _atom: True, keep=kept.__setitem__)
    assert placed(ladders) == (FRAME, len(WAYS[Move]) + 2)
    assert asked[-1] == (99, 202)
    assert placed(ladders) == (FRAME, 1)
    assert placed(RequestLadders(lambda _atom: True, learned=lambda: kept)) == (FRAME, 1)  # in another session
    adds[0] = (0, 0)
    assert placed(ladders) == (FRAME, 3)
    assert placed(ladders) == (FRAME, 1)
    adds[0] = (500, 0)  # nothing of a frame is so wide: the window stands where it wants to
    assert placed(ladders)[0] != FRAME


def test_ways_that_the_manager_does_not_list_are_left_out() -> None:
    class Sent:
        """What goes over the wire."""

        def __init__(self) -> None:
            self.told, self.core = list[tuple[object, ...]](), self
            self.atoms = {"_NET_WM_STATE_STICKY": 7}

        def tell_manager(self, *words: object) -> None:
            self.told.append(words)

        def ConfigureWindow(self, *words: object) -> None:  # noqa: N802  # as the library calls it
            self.told.append(words)
            struct.pack("=4i", *words[2]) if isinstance(words[2], list) and len(words[2]) == 4 else None

    sent = Sent()
    asking = RequestContext(sent, DESK, 5, 3, lambda _wid: Insets(4, 4, 20, 4), lambda _wid: 1)  # type: ignore[arg-type]
    ladders = RequestLadders(lambda _atom: False)
    ladders.ask(Move(1, Rect(-50, 0, 600, 400)), asking)
    assert sent.told == [(1, 15, [-50, 0, 592, 376])]
    sent.told.clear()
    ladders.ask(Stack((3, 1, 2)), asking)
    assert [words[0] for words in sent.told] == [1, 2]  # raised from the back to the front, as few as it takes
    sent.told.clear()
    learned = RequestLadders(lambda _atom: True, learned=lambda: {"stack": "activate"})
    assert learned.is_activating(Stack((3, 1, 2)))
    assert list(learned.ask(Stack((3, 1, 2)), asking)) == [1, 2, 3]  # who had the focus has it in the end
    assert [words[1] for words in sent.told] == ["_NET_ACTIVE_WINDOW"] * 3


def test_what_was_learned_is_kept_by_manager_and_a_broken_file_is_put_aside(tmp_path: Path) -> None:
    def ways(manager: str) -> LearnedWays:
        return LearnedWays(lambda: tmp_path / "state", lambda: manager)

    assert ways("quay 1").all() == {}
    assert not (tmp_path / "state").exists()
    ways("quay 1").keep("stack", "activate")
    ways("quay 1").keep("move framed", "configure")
    ways("quay 2").keep("stack", "restack")
    assert ways("quay 1").all() == {"stack": "activate", "move framed": "configure"}
    assert ways("quay 2").all() == {"stack": "restack"}
    (tmp_path / "state" / DATABASE).write_bytes(b"no database" * 200)
    assert ways("quay 1").all() == {}
    assert list((tmp_path / "state").glob(f"{DATABASE}.broken-*"))
    ways("quay 1").keep("stack", "activate")
    assert ways("quay 1").all() == {"stack": "activate"}


ONE, BESIDE, ABOVE = Rect(0, 0, 1280, 1024), Rect(1280, 0, 1024, 768), Rect(200, 1024, 1920, 1080)
BAR = Rect(0, 998, 1280, 26)
AREAS: Mapping[str, tuple[list[Rect], Rect, list[Strut], list[Rect], list[Strut]]] = {
    "no bar": ([ONE], ONE, [], [], []),
    "a bar that no strut tells of": ([ONE], Rect(0, 0, 1280, 998), [], [], [Strut("bottom", BAR)]),
    "a strut tells of it": ([ONE], Rect(0, 0, 1280, 998), [Strut("bottom", BAR)], [], []),
    "it touches one display": ([ONE, BESIDE], Rect(0, 0, 2304, 998), [], [], [Strut("bottom", BAR)]),
    "it is seen on one of two": (
        [ONE, Rect(1280, 0, 1280, 1024)], Rect(0, 0, 2560, 998), [], [BAR], [Strut("bottom", BAR)],
    ),
    "between two displays, where no area tells": ([ONE, ABOVE], Rect(0, 0, 2120, 2104), [], [BAR], [Strut("bottom", BAR)]),
    "a panel that keeps nothing free": ([ONE], ONE, [], [BAR], []),
    "an area of before": ([ONE, BESIDE], ONE, [], [], []),
    "a small thing in a corner": ([ONE, ABOVE], Rect(0, 0, 2120, 2104), [], [Rect(0, 960, 64, 64)], []),
}  # fmt: skip


@pytest.mark.parametrize("case", AREAS)
def test_bars_of_which_no_strut_tells(case: str) -> None:
    displays, area, struts, windows, lost = AREAS[case]
    whole = Rect(0, 0, max(one.right for one in displays), max(one.bottom for one in displays))
    assert on_displays(unexplained_strips(area, whole, struts), displays, windows) == lost
