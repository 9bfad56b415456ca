"""Recalling layouts: the task, and what is said of how it went."""

from collections.abc import Generator
from typing import Final, NamedTuple

from jaklet.core.actions.ending import CLOSING
from jaklet.core.actions.layouts.arrangements import restore_sharings
from jaklet.core.actions.layouts.displays import present_for
from jaklet.core.actions.layouts.pairing import pair_entries
from jaklet.core.actions.layouts.plans import OF_ONE_WINDOW, RecallPlan, unknown
from jaklet.core.actions.layouts.reporting import RecallProgress, recall_report
from jaklet.core.actions.layouts.trust import refusal
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.requests import layout_asked
from jaklet.core.actions.tasks import (
    Goal,
    Task,
    TaskContext,
    TaskOutcome,
    TaskRequest,
    reach,
    run_within,
    wait_for_returns,
    waited_for,
)
from jaklet.core.values.changes import Change, Focus, Launch, Reshape, launching
from jaklet.core.values.desk import Desk
from jaklet.core.values.errors import JakletError
from jaklet.core.values.layouts import LAST, LAUNCH, SKIP, WAIT, Layout, names_of
from jaklet.core.values.orders import Expect
from jaklet.core.values.sentences import Action
from jaklet.core.values.sharings import NOTHING_KEPT

UNKNOWN_REMEDY: Final = "define it under `places` or `workspaces`; `jaklet check` shows where it stands"


def recall(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Set the desk up as a layout says: one by name or number, `home`, or `last`, the one recalled before this."""
    word = action.refs[0].name

    def find() -> Layout:
        return _former(context) if word == LAST else layout_asked(word, context.shelf)

    try:
        moment, layout = yield from waited_for(find, moment, f"reading {word}")
    except JakletError as fault:
        return TaskOutcome(False, fault.message, (fault.remedy,) if fault.remedy else ())
    return (yield from recall_layout(layout, context, moment))


def _former(context: TaskContext) -> Layout:
    """Return the layout that stood before the present one; raises `JakletError` where none did."""
    stood = context.history.layouts() if context.history else []
    layout = next((found for name in stood[1:] if (found := context.shelf.find(name))), None)
    if layout is None:
        raise JakletError("no other layout was recalled here before")
    return layout


class RecallWait(NamedTuple):
    """What a recall waits for: apps with the time until which each may take, and since when."""

    until: dict[str, float]
    since: float


def recall_layout(layout: Layout, context: TaskContext, moment: Moment) -> Task:
    """Launch what is missing, wait for it, place, restack, focus, read back, and say what came of it."""
    config, start = context.config, moment.desk
    if missing := unknown(layout, config):
        return TaskOutcome(False, f"{layout.name} names what is not there: {missing}", (UNKNOWN_REMEDY,))
    layout = present_for(layout, start, config)
    if not layout.launches:
        layout = layout._replace(entries=tuple(one._replace(missing=SKIP) for one in layout.entries))
    pairing = pair_entries(layout, start, config)
    plan = RecallPlan(layout, config, pairing.pairs, frozenset(start.by_id))
    first = plan.needed(start)
    needed = _remembered(plan, start, first)
    changed = {change.window for change in first if isinstance(change, OF_ONE_WINDOW)}
    own = {*plan.pairs.values()}
    launches = _launches(plan)
    wait = _wait(plan, launches, moment.now)
    closes = plan.closed(start)
    waited: dict[str, float] = {}
    if wait.until or closes:
        placed = Expect(frozenset(launch.app for launch in launches))
        moment = yield TaskRequest((*first, *closes, *launches), _next(wait, moment.now), _later(plan, wait), (placed,))
        moment, plan, waited = yield from _come(plan, wait, moment)
    if closes:
        moment = yield from _gone({change.window for change in closes}, moment)
    if wait.until:
        needed = plan.needed
    # A window that changes its shape can go to another layer, and change the order after it seemed to be right.
    lasting = any(isinstance(change, Reshape) for change in first)
    moment, refused, _ = yield from reach(needed, moment, lasting=lasting)
    after: tuple[str, ...] = ()
    if any(layout.entries[i].after for i in plan.pairs):
        moment, after = yield from _afterwards(plan, context, moment)
        moment, refused, _ = yield from reach(plan.needed, moment)
    if not refused:
        # What has come and gone while it waited for programs is looked at once more.
        windows = [moment.desk.by_id[wid] for wid in plan.pairs.values() if wid in moment.desk.by_id]
        moment, refused = yield from wait_for_returns(plan.needed, windows, context, moment)
        if not refused and (launches or after):
            moment, refused, _ = yield from reach(plan.needed, moment)
    kept = context.kept()
    if layout.arranged or kept is not None:
        order = restore_sharings(layout, plan.pairs, kept or NOTHING_KEPT, moment.desk, config)
        moment = yield TaskRequest((), moment.now, (), (order,))
    if context.history:
        context.history.stands(layout.name)
    closing = tuple(start.by_id[change.window] for change in closes)
    untouched, cleared = len(own - changed), changed - own
    course = RecallProgress(plan, pairing, launches, waited, refused, untouched, cleared, closing, after)
    return recall_report(course, moment)


def _remembered(plan: RecallPlan, desk: Desk, first: tuple[Change, ...]) -> Goal:
    """Return the goal of a plan, where what it needs of one desk is known already."""
    return lambda now: first if now is desk else plan.needed(now)


def _launches(plan: RecallPlan) -> tuple[Launch, ...]:
    """Return the launches for the entries without window, as far as their apps can be launched."""
    missing = (entry for i, entry in enumerate(plan.layout.entries) if i not in plan.pairs and entry.missing == LAUNCH)
    apps = (plan.config.apps.get(entry.app) for entry in missing if entry.app)
    return tuple(launching(app, plan.config.settings.terminal) for app in apps if app and app.command)


def _wait(plan: RecallPlan, launches: tuple[Launch, ...], now: float) -> RecallWait:
    config = plan.config
    awaited = [e.app for i, e in enumerate(plan.layout.entries) if i not in plan.pairs and e.missing == WAIT and e.app]
    apps = dict.fromkeys([*(launch.app for launch in launches), *awaited])
    return RecallWait({app: now + config.wait_of(app) for app in apps}, now)


def _next(wait: RecallWait, now: float) -> float:
    return min(wait.until.values(), default=now)


def _later(plan: RecallPlan, wait: RecallWait) -> tuple[str, ...]:
    """Return in words what will be done with windows that are still to come, for a dry run."""
    entries = plan.layout.entries
    later = []
    for i, entry in enumerate(entries):
        if i not in plan.pairs and entry.app in wait.until:
            limit = wait.until[entry.app or ""] - wait.since
            where = f" {entry.place}" if entry.place else ""
            later.append(f"then place {entry.label}{where}, {limit:g} s at most after the launch")
    names = names_of(entries)
    later += [f"then with {names[i]}: {action}" for i, entry in enumerate(entries) for action in entry.after]
    return tuple(later)


def _come(
    plan: RecallPlan, wait: RecallWait, moment: Moment
) -> Generator[TaskRequest, Moment, tuple[Moment, RecallPlan, dict[str, float]]]:
    """Place the windows as they come, each program with its own time; one that fails holds up no other."""
    until, waited = dict(wait.until), dict[str, float]()
    while until:
        before = plan.pairs
        plan = plan._replace(pairs=pair_entries(plan.layout, moment.desk, plan.config, before).pairs)
        open_still = {e.app for i, e in enumerate(plan.layout.entries) if i not in plan.pairs and e.missing != SKIP}
        ended = {one.app for one in moment.ended if one.status}
        for app in [app for app in until if app not in open_still]:
            waited[app] = moment.now - wait.since
        until = {app: limit for app, limit in until.items() if app in open_still - ended and moment.now < limit}
        if until:  # what refuses its place is asked again when all are there
            changes = plan.frames(moment.desk) if plan.pairs != before else ()
            moment = yield TaskRequest(changes, min(until.values()))
    return moment, plan, waited


def _gone(closing: set[int], moment: Moment) -> Generator[TaskRequest, Moment, Moment]:
    """Wait for windows to close; one that asks its user stays."""
    until = moment.now + CLOSING
    while closing & moment.desk.by_id.keys() and moment.now < until:
        moment = yield TaskRequest((), until)
    return moment


def _afterwards(
    plan: RecallPlan, context: TaskContext, moment: Moment
) -> Generator[TaskRequest, Moment, tuple[Moment, tuple[str, ...]]]:
    """Do with each window what its entry says is done once it stands; return what went wrong."""
    failed: list[str] = []
    begin = context.begin
    for i, entry in enumerate(plan.layout.entries):
        window = plan.pairs.get(i)
        if not entry.after or begin is None or window not in moment.desk.by_id:
            continue
        moment, refused, _ = yield from reach(lambda desk, wid=window: _to_front(wid, desk), moment)  # type: ignore[misc]
        if refused:
            failed.append(f"{entry.label} did not get the focus, so that this was not done: {entry.after[0]}")
            continue
        own = context._replace(window=window, history=None)
        for action in entry.after:
            app = context.config.apps.get(entry.app or "")
            if reason := refusal(action.presses, app, moment.desk.by_id.get(window or 0)):
                failed.append(f"{entry.label}: {action}: {reason}")
                continue
            moment, result = yield from run_within(begin(action, own, moment), moment)
            failed += [] if result.done else [f"{entry.label}: {action}: {result.line}"]
    return moment, tuple(failed)


def _to_front(wid: int, desk: Desk) -> tuple[Change, ...]:
    return (Focus(wid),) if wid in desk.by_id and desk.active != wid else ()
