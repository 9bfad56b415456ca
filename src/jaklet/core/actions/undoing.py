"""Undo: every placing action leaves behind how the windows were that it changed, and `undo` puts them back.

A step is kept after the changes were asked for, so that no key waits for it, and is kept for each desk apart.
"""

from collections.abc import Iterable, Mapping, Set
from functools import partial
from typing import Final

from jaklet.core.actions.change_words import refusal_told, window_name
from jaklet.core.actions.placing.swapping import shaped_at
from jaklet.core.actions.placing.windows import placing
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.ports.history import FormerWindow, UndoStep
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest, reach, waited_for
from jaklet.core.values.changes import (
    Change,
    Focus,
    Gaps,
    Minimise,
    Move,
    Raise,
    Reshape,
    Reveal,
    Send,
    ShowWorkspace,
    Stack,
)
from jaklet.core.values.desk import NORMAL, Desk, Window, WindowShape
from jaklet.core.values.errors import JakletError
from jaklet.core.values.orders import Arrange, Float, Restore
from jaklet.core.values.sentences import Action
from jaklet.core.values.sharings import NOTHING_KEPT
from jaklet.core.values.words import counted, listed

OF_ONE: Final = Move | Reshape | Minimise | Reveal | Send | Raise
# What changes the desk around a window, and how others stay arranged.
KEPT: Final = frozenset({Stack, Focus, Minimise, Send, ShowWorkspace, Gaps, Arrange, Float, Restore})


def undoable(task: Task, what: str, context: TaskContext, moment: Moment) -> Task:
    """Do a task, and keep how the windows were before that it changes."""
    history = context.history
    if history is None:
        return (yield from task)
    start, number = moment.desk, None
    was: dict[int, FormerWindow] = {}
    asked: set[type] = set()
    kept = context.kept()
    try:
        ask = next(task)
        while True:
            desk = moment.desk
            try:
                moment = yield ask
            except JakletError as fault:  # what it asked for cannot be asked of this desk
                ask = task.throw(fault)
                continue
            new = _before(ask, desk, context, was)  # after the request: no key waits for it
            was |= new
            kinds = {type(one) for one in (*ask.changes, *ask.orders) if type(one) in KEPT}
            if new or not asked.issuperset(kinds):
                asked |= kinds
                before = NOTHING_KEPT if kept is None and Arrange in asked else kept
                step = _step(what, was, start, asked)._replace(kept=before)
                number = history.keep(step) if number is None else history.more(number, step)
            ask = task.send(moment)
    except StopIteration as end:
        result: TaskOutcome = end.value
        return result
    finally:
        task.close()


def _step(what: str, was: Mapping[int, FormerWindow], start: Desk, asked: Set[type]) -> UndoStep:
    """Return a step; of the desk around the windows it has what was asked to change."""
    return UndoStep(
        what,
        tuple(was.values()),
        start.stacking if asked & {Stack, Focus} else (),
        start.active if asked & {Focus, Minimise, Send, ShowWorkspace} else None,
        start.workspace if ShowWorkspace in asked else None,
        start.gaps if Gaps in asked else None,
    )


def _before(
    ask: TaskRequest, desk: Desk, context: TaskContext, known: dict[int, FormerWindow]
) -> dict[int, FormerWindow]:
    """Return how the windows are now that are about to be changed for the first time."""
    new = {}
    for change in ask.changes:
        if isinstance(change, OF_ONE) and change.window not in known and change.window in desk.by_id:
            new[change.window] = _was(desk.by_id[change.window], desk, context)
    for order in ask.orders:
        if isinstance(order, Arrange):  # which moves all that share the display, a moment later
            spot = order.spot
            sharing = [one for one in desk.main_windows if desk.in_view(one) and one.kind == NORMAL]
            here = [one for one in sharing if desk.display_of(desk.frame_of(one)).name == spot.display]
            new |= {one.id: _was(one, desk, context) for one in here if one.id not in known}
    return new


def _was(window: Window, desk: Desk, context: TaskContext) -> FormerWindow:
    return FormerWindow(
        window.id,
        window_name(window, desk, context.config),
        desk.frame_of(window),
        window.shape,
        window.minimised,
        window.above,
        window.workspace,
    )


def undo(_action: Action, context: TaskContext, moment: Moment) -> Task:
    """Put the windows back as they were before the last placing action that is not undone yet."""
    if context.history is None:
        return TaskOutcome(False, "nothing is kept here that could be undone")
    gone: list[str] = []
    history = context.history
    moment, steps = yield from waited_for(history.steps, moment, "reading what can be undone")
    for number, step in steps:
        left = [was for was in step.windows if was.id in moment.desk.by_id]
        lost = [was.name for was in step.windows if was.id not in moment.desk.by_id]
        gone += [name for name in lost if name not in gone]
        # Nothing is asked of the desk yet, but a dry run ends here.
        told = tuple(f"put {was.name} back to {_told(was)}" for was in left)
        moment = yield TaskRequest((), moment.now, told or (f"pass over {step.action}, as its windows are gone",))
        moment, _ = yield from waited_for(partial(history.drop, number), moment, "noting what is undone")
        if left or (not step.windows and (put_back(step, moment.desk) or _arranged_before(step, context))):
            return (yield from _undone(step, left, gone, context, moment))
    return TaskOutcome(False, "there is nothing to undo", _skipped(gone))


def _arranged_before(step: UndoStep, context: TaskContext) -> tuple[Restore, ...]:
    """Return the order that restores the arrangements of before a step; empty where they still stand."""
    now = context.kept()
    return () if step.kept is None or now is None or step.kept == now else (Restore(step.kept),)


def _told(was: FormerWindow) -> str:
    if was.minimised:
        return "minimised"
    return str(was.frame) if was.shape is WindowShape.NORMAL else was.shape.value


def _undone(step: UndoStep, left: list[FormerWindow], gone: list[str], context: TaskContext, moment: Moment) -> Task:
    changed = {was.id for was in left if _back(was, moment.desk.by_id[was.id], moment.desk)}
    if orders := _arranged_before(step, context):
        moment = yield TaskRequest((), moment.now, (), orders)
    moment, refused, asked = yield from reach(lambda desk: put_back(step, desk), moment)
    told = tuple(refusal_told(change, moment.desk, context.config) for change in refused)
    line = f"undone: {step.action}"
    if changed:
        line += f" ({counted(len(changed), 'window')} put back)"
    elif not asked and not orders:
        line += " (all stood as before)"
    return TaskOutcome(not refused, line, (*_skipped(gone), *told))


def _skipped(gone: Iterable[str]) -> tuple[str, ...]:
    names = list(gone)
    return (f"gone since, and left out: {listed(names)}",) if names else ()


def put_back(step: UndoStep, desk: Desk) -> tuple[Change, ...]:
    """Return the changes that a desk still needs to be as it was before a step."""
    changes: list[Change] = []
    if step.gaps is not None and desk.gaps is not step.gaps:
        changes.append(Gaps(step.gaps))
    for was in step.windows:
        window = desk.by_id.get(was.id)
        if window:
            changes += _back(was, window, desk)
    if step.workspace is not None and desk.workspace != step.workspace:
        changes.append(ShowWorkspace(step.workspace))
    active = desk.by_id.get(step.active) if step.active is not None else None
    if active and desk.active != active.id and not active.minimised:
        changes.append(Focus(active.id))
    # What is out of view has no order that anybody sees, and some managers would bring it here.
    order = tuple(wid for wid in step.stacking if wid in desk.by_id and desk.in_view(desk.by_id[wid]))
    if not _ordered(order, desk):
        changes.append(Stack(order))
    return tuple(changes)


def _back(was: FormerWindow, window: Window, desk: Desk) -> tuple[Change, ...]:
    changes: tuple[Change, ...] = ()
    if window.workspace != was.workspace:
        changes += (Send(was.id, was.workspace),)
    if window.above is not was.above:
        changes += (Raise(was.id, was.above),)
    # A window that is to be hidden again is put back without being shown.
    shown = window._replace(minimised=window.minimised and not was.minimised)
    if was.shape is WindowShape.NORMAL:
        changes += placing(shown, was.frame, desk)
    else:
        changes += shaped_at(shown, was.frame, was.shape, desk)
    if was.minimised and not window.minimised:
        changes += (Minimise(was.id),)
    return changes


def _ordered(order: tuple[int, ...], desk: Desk) -> bool:
    """True if these stand in this order, as far as windows kept above let them."""
    rank = {wid: i for i, wid in enumerate(order)}
    for above in (False, True):
        standing = [rank[wid] for wid in desk.stacking if wid in rank and desk.by_id[wid].above is above]
        if standing != sorted(standing):
            return False
    return True
