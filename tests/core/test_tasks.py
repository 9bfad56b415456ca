"""Reaching a goal, moment by moment: when it waits, when it asks again, and what it calls refused."""

import pytest

from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import ATTEMPTS, SETTLE, TRYING, Goal, GoalResult, TaskContext, reach, wait_for_returns
from jaklet.core.values.changes import Change, Focus, Move, Raise, Stack
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.desk_abilities import EVERY, Ability
from jaklet.core.values.geometry import Rect
from tests.core.test_recall import Shelf

SCREEN, AWAY, HERE = Rect(0, 0, 1000, 800), Rect(0, 0, 300, 200), Rect(100, 100, 300, 200)
MOVE = Move(1, HERE)


def moment(frame: Rect, now: float, settled: bool = True) -> Moment:
    return Moment(Desk((Display("DP-1", SCREEN, SCREEN),), (Window(1, frame=frame),)), now, settled)


def goal(desk: Desk) -> tuple[Change, ...]:
    return () if desk.by_id[1].frame == HERE else (MOVE,)


def course(
    want: Goal, first: Moment, *then: Moment, lasting: bool = False
) -> tuple[list[tuple[Change, ...]], GoalResult]:
    """Return what was asked for, ask by ask, and how it ended, with these moments one after another."""
    task, asked, left = reach(want, first, lasting=lasting), [], list(then)
    try:
        ask = next(task)
        while True:
            asked.append(ask.changes)
            ask = task.send(left.pop(0))
    except StopIteration as end:
        assert not left
        reached: GoalResult = end.value
        return asked, reached


COURSES = [  # what is told, moment by moment (the frame, the time, whether settled); lasting; what is asked; what refused
    ("it holds", [(HERE, 0, True)], False, [], ()),
    ("it is moved", [(AWAY, 0, True), (HERE, 0.1, True)], False, [(MOVE,)], ()),
    ("it waits for it", [(AWAY, 0, True), (AWAY, 0.1, False), (HERE, 0.2, False)], False, [(MOVE,), ()], ()),
    ("it seems to hold, and did not", [(HERE, 0, False), (AWAY, 0.1, True), (HERE, 0.2, True)], False,
     [(), (MOVE,)], ()),
    ("it is given back", [(AWAY, 0, True), (HERE, 0.1, False), (AWAY, 0.2, True), (HERE, 0.3, True)], True,
     [(MOVE,), (), (MOVE,)], ()),
    ("what is given back does not count", [(AWAY, 0, True), (HERE, 0.1, False)], False, [(MOVE,)], ()),
    ("it is asked so often, and no more", [(AWAY, 0.1 * i, True) for i in range(ATTEMPTS + 1)], False,
     [(MOVE,)] * ATTEMPTS, (MOVE,)),
    ("it is not asked for long", [(AWAY, 0, True), (AWAY, TRYING + 0.1, True)], False, [(MOVE,)], (MOVE,)),
    ("a desk that never settles", [(AWAY, 0, True), (AWAY, SETTLE + 1, False)], False, [(MOVE,)], (MOVE,)),
]  # fmt: skip


@pytest.mark.parametrize(("name", "told", "lasting", "asked", "refused"), COURSES)
def test_a_goal_is_reached_or_refused(
    name: str, told: list[tuple[Rect, float, bool]], lasting: bool, asked: list[object], refused: tuple[Change, ...]
) -> None:
    first, *then = (moment(*one) for one in told)
    found, reached = course(goal, first, *then, lasting=lasting)
    assert (found, reached.refused, reached.asked) == (asked, refused, any(asked)), name


# What is told, moment by moment: whether the order is right, who has the focus, and how often it has gone to another
# window so far. Window 1 is to have it, and to be on top; the asks are told by their kinds.
ORDER, FOCUS = Stack((2, 1)), Focus(1)
FOCUSES = [
    ("it is there", [(True, 2, 0), (True, 1, 1)], [(FOCUS,)], ()),
    ("it was never given", [(True, 2, 0), (True, 2, 0), (True, 1, 1)], [(FOCUS,), (FOCUS,)], ()),
    ("it was given, and taken by somebody else", [(True, 2, 0), (True, 2, 2)], [(FOCUS,)], (FOCUS,)),
    ("the order takes it to and fro", [(False, 2, 0), (True, 2, 4), (True, 1, 5)], [(ORDER, FOCUS), (FOCUS,)], ()),
    ("and somebody else takes it behind that", [(False, 2, 0), (True, 2, 4), (True, 2, 6)],
     [(ORDER, FOCUS), (FOCUS,)], (FOCUS,)),
]  # fmt: skip


@pytest.mark.parametrize(("name", "told", "asked", "refused"), FOCUSES)
def test_a_focus_that_somebody_else_has_taken_is_left_to_them(
    name: str, told: list[tuple[bool, int, int]], asked: list[object], refused: tuple[Change, ...]
) -> None:
    def want(desk: Desk) -> tuple[Change, ...]:
        return (*(() if desk.stacking == (2, 1) else (ORDER,)), *(() if desk.active == 1 else (FOCUS,)))

    windows = Window(1, frame=HERE), Window(2, frame=HERE)
    first, *then = (
        Moment(
            Desk((Display("DP-1", SCREEN, SCREEN),), windows, (2, 1) if right else (1, 2), active=active, turns=turns),
            0.1 * at,
            True,
        )
        for at, (right, active, turns) in enumerate(told)
    )
    found, reached = course(want, first, *then)
    assert (found, reached.refused) == (asked, refused), name


def test_what_a_desk_cannot_do_is_not_asked_for_and_told() -> None:
    def both(desk: Desk) -> tuple[Change, ...]:
        return (*goal(desk), Raise(1, True))

    moments = [
        one._replace(desk=one.desk._replace(abilities=EVERY - {Ability.ABOVE}))
        for one in (moment(AWAY, 0), moment(HERE, 0.1))
    ]
    asked, reached = course(both, *moments)
    assert (asked, reached.refused) == ([(MOVE,)], (Raise(1, True),))


@pytest.mark.parametrize(("took", "until"), [(0.0, None), (0.2, 11.0), (2.0, 13.0)])
def test_a_window_that_has_gone_back_before_is_waited_for_half_as_long_again(took: float, until: float | None) -> None:
    """At least a second from 10 s on; what it needs then is asked of the desk of then."""
    context = TaskContext(Config(), Shelf(), goes_back={"Board": took}.get)  # type: ignore[arg-type]
    task = wait_for_returns(goal, (Window(1, cls="Board"),), context, moment(HERE, 10))
    waits = []
    try:
        waits.append(next(task).until)
        waits.append(task.send(moment(AWAY, 10.9)).until)
        task.send(moment(AWAY, until or 0))
    except StopIteration as end:
        assert end.value[1] == ((MOVE,) if until else ())
    assert waits == ([until, until] if until else [])
