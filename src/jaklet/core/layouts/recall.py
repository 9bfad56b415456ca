"""Recalling layouts: the task, and what is said of how it went."""

from collections import Counter
from collections.abc import Generator
from dataclasses import replace
from typing import Final, NamedTuple

from jaklet.core.config import Config
from jaklet.core.desk import Change, Desk, Focus, Launch, Window
from jaklet.core.ending import CLOSING
from jaklet.core.errors import StoreError
from jaklet.core.layouts.displays import ADAPTED, display_set, fit, present_for, stand_in, told
from jaklet.core.layouts.layouts import (
    FOCUS,
    LAST,
    LAUNCH,
    LEAVE,
    PLACE,
    SKIP,
    STATE,
    WAIT,
    Layout,
    names_of,
    no_such_layout,
)
from jaklet.core.layouts.pairing import Pairing, paired
from jaklet.core.layouts.plans import OF_ONE_WINDOW, Plan, unknown_place
from jaklet.core.ports import Moment
from jaklet.core.programs import failure_told
from jaklet.core.sentences import Action
from jaklet.core.tasks import Ask, Context, Goal, Outcome, Task, outcome, reach, within
from jaklet.core.telling import refusal_told, window_name
from jaklet.core.words import counted, listed

MOST_LINES: Final = 12  # of what would not obey; a report is read, not studied
MOST_NAMED: Final = 5
UNKNOWN_REMEDY: Final = "define it under `places`; `jaklet check` shows where it stands"


def recall(action: Action, context: Context, moment: Moment) -> Task:
    """Set the desk up as a layout says: one by name or number, `home`, or `last`, the one recalled before this."""
    word = action.refs[0].name
    try:
        if word == LAST:
            return _former(context, moment)
        layout = context.shelf.find(word)
    except StoreError as fault:
        return outcome(False, fault.message, fault.remedy)
    if layout is None:
        return outcome(False, *no_such_layout(word, context.shelf.names()))
    return recalled(layout, context, moment)


def _former(context: Context, moment: Moment) -> Task:
    """Recall the layout that stood before the present one."""
    stood = context.history.layouts() if context.history else []
    for name in stood[1:]:
        layout = context.shelf.find(name)
        if layout:
            return recalled(layout, context, moment)
    return outcome(False, "no other layout was recalled here before")


class Wait(NamedTuple):
    """What a recall waits for: apps with the time until which each may take, and since when."""

    until: dict[str, float]
    since: float


class Course(NamedTuple):
    """How a recall went: its plan in the end, what was launched and refused, and what stood before."""

    plan: Plan
    pairing: Pairing
    launched: tuple[Launch, ...]
    waited: dict[str, float]  # app -> seconds until its window was there
    refused: tuple[Change, ...]
    untouched: int
    closing: tuple[Window, ...]
    after: tuple[str, ...]


def recalled(layout: Layout, context: Context, moment: Moment) -> Task:
    """Launch what is missing, wait for it, place, restack, focus, read back, and say what came of it."""
    config, start = context.config, moment.desk
    unknown = unknown_place(layout, config)
    if unknown:
        return Outcome(False, f"{layout.name} names a place that is not there: {unknown}", (UNKNOWN_REMEDY,))
    layout = present_for(layout, start, config)
    pairing = paired(layout, start, config)
    plan = Plan(layout, config, pairing.pairs, frozenset(start.by_id))
    first = plan.needed(start)
    needed = _remembered(plan, start, first)
    untouched = len(plan.pairs) - len({change.window for change in first if isinstance(change, OF_ONE_WINDOW)})
    launches = _launches(plan)
    wait = _wait(plan, launches, moment.now)
    closes = plan.closed(start)
    waited: dict[str, float] = {}
    if wait.until or closes:
        moment = yield Ask((*first, *closes, *launches), _next(wait, moment.now), _later(plan, wait))
        moment, plan, waited = yield from _come(plan, wait, moment)
    if closes:
        moment = yield from _gone({change.window for change in closes}, moment)
    if wait.until:
        needed = plan.needed
    moment, refused, _ = yield from reach(needed, moment)
    after: tuple[str, ...] = ()
    if any(layout.entries[i].after for i in plan.pairs):
        moment, after = yield from _afterwards(plan, context, moment)
        moment, refused, _ = yield from reach(plan.needed, moment)
    if context.history:
        context.history.stands(layout.name)
    closing = tuple(start.by_id[change.window] for change in closes)
    course = Course(plan, pairing, launches, waited, refused, untouched, closing, after)
    return _report(course, moment)


def _remembered(plan: Plan, desk: Desk, first: tuple[Change, ...]) -> Goal:
    """Return the goal of a plan, where what it needs of one desk is known already."""
    return lambda now: first if now is desk else plan.needed(now)


def _launches(plan: Plan) -> tuple[Launch, ...]:
    """Return the launches for the entries without window, as far as their apps can be launched."""
    missing = (entry for i, entry in enumerate(plan.layout.entries) if i not in plan.pairs and entry.missing == LAUNCH)
    apps = (plan.config.apps.get(entry.app) for entry in missing if entry.app)
    return tuple(app.launch(plan.config.settings.terminal) for app in apps if app and app.command)


def _wait(plan: Plan, launches: tuple[Launch, ...], now: float) -> Wait:
    config = plan.config
    awaited = [e.app for i, e in enumerate(plan.layout.entries) if i not in plan.pairs and e.missing == WAIT and e.app]
    apps = dict.fromkeys([*(launch.app for launch in launches), *awaited])
    return Wait({app: now + config.wait_of(app) for app in apps}, now)


def _next(wait: Wait, now: float) -> float:
    return min(wait.until.values(), default=now)


def _later(plan: Plan, wait: Wait) -> tuple[str, ...]:
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


def _come(plan: Plan, wait: Wait, moment: Moment) -> Generator[Ask, Moment, tuple[Moment, Plan, dict[str, float]]]:
    """Place the windows as they come, each program with its own time; one that fails holds up no other."""
    until, waited = dict(wait.until), dict[str, float]()
    while until:
        before = plan.pairs
        plan = plan._replace(pairs=paired(plan.layout, moment.desk, plan.config, before).pairs)
        open_still = {e.app for i, e in enumerate(plan.layout.entries) if i not in plan.pairs and e.missing != SKIP}
        ended = {one.app for one in moment.ended if one.status}
        for app in [app for app in until if app not in open_still]:
            waited[app] = moment.now - wait.since
        until = {app: limit for app, limit in until.items() if app in open_still - ended and moment.now < limit}
        if until:  # what refuses its place is asked again when all are there
            changes = plan.frames(moment.desk) if plan.pairs != before else ()
            moment = yield Ask(changes, min(until.values()))
    return moment, plan, waited


def _gone(closing: set[int], moment: Moment) -> Generator[Ask, Moment, Moment]:
    """Wait for windows to close; one that asks its user stays."""
    until = moment.now + CLOSING
    while closing & moment.desk.by_id.keys() and moment.now < until:
        moment = yield Ask((), until)
    return moment


def _afterwards(plan: Plan, context: Context, moment: Moment) -> Generator[Ask, Moment, tuple[Moment, tuple[str, ...]]]:
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
            moment, result = yield from within(begin(action, own, moment), moment)
            failed += [] if result.done else [f"{entry.label}: {action}: {result.line}"]
    return moment, tuple(failed)


def _to_front(wid: int, desk: Desk) -> tuple[Change, ...]:
    return (Focus(wid),) if wid in desk.by_id and desk.active != wid else ()


def _report(course: Course, moment: Moment) -> Outcome:
    plan = course.plan
    layout, desk, total = plan.layout, moment.desk, len(plan.layout.entries)
    gone = [i for i in range(total) if plan.pairs.get(i) not in desk.by_id]
    skipped = [i for i in gone if i not in plan.pairs and layout.entries[i].missing == SKIP]
    gone = [i for i in gone if i not in skipped]
    came = Counter(launch.app for launch in course.launched) - Counter(layout.entries[i].label for i in gone)
    stubborn = {change.window for change in course.refused if isinstance(change, OF_ONE_WINDOW)} & {
        *plan.pairs.values()
    }
    wanted = total - len(skipped)
    standing = wanted - len(gone) - len(stubborn)
    moved = standing - course.untouched - came.total()
    parts = [f"{standing} of {counted(wanted, 'window')} in place"]
    if moved > 0:
        parts.append(f"{moved} moved")
    elif not course.launched and not course.refused and not gone:
        parts.append("nothing to move")
    if came:
        longest = max(course.waited.values(), default=0)
        parts.append(f"{counted(came.total(), 'program')} launched in {longest:.1f} s")
    parts += _tidied_told(course, desk)
    parts.append(_focus_told(plan, desk))
    more = [*_refusals(course, gone, moment), *course.after, *_remarks(course, skipped, desk)]
    if len(more) > MOST_LINES:
        more[MOST_LINES:] = [f"and {len(more) - MOST_LINES} more like these"]
    done = not gone and not course.refused and not course.after and not _open_still(course, desk)
    return Outcome(done, f"recalled {layout.name}: {', '.join(parts)}", tuple(more))


def _focus_told(plan: Plan, desk: Desk) -> str:
    layout = plan.layout
    if layout.focus is None or FOCUS not in layout.holds:
        return "focus: as it was"
    label = layout.entries[layout.focus].label
    return f"focus: {label if plan.focus is not None and desk.active == plan.focus else 'not on ' + label}"


def _tidied_told(course: Course, desk: Desk) -> list[str]:
    """Return in words what became of windows that are not in the layout."""
    plan, rule = course.plan, course.plan.layout.rule
    if rule.what == LEAVE and not plan.layout.absent:
        return []
    closed = len(course.closing) - len(_open_still(course, desk))
    return [f"{closed} closed"] if closed else []


def _open_still(course: Course, desk: Desk) -> list[Window]:
    return [desk.by_id[window.id] for window in course.closing if window.id in desk.by_id]


def _refusals(course: Course, gone: list[int], moment: Moment) -> list[str]:
    """Return what would not obey, did not come, or would not go."""
    plan, desk = course.plan, moment.desk
    config, entries = plan.config, plan.layout.entries
    told_of = [refusal_told(change, desk, config) for change in course.refused]
    launched = {launch.app for launch in course.launched}
    ended = {one.app: one for one in moment.ended if one.status}
    for i in gone:
        entry = entries[i]
        if i in plan.pairs:
            told_of.append(f"{entry.label} closed meanwhile")
        elif entry.app and entry.app in ended and entry.app in launched:
            line, said = failure_told(ended[entry.app], moment.said(entry.app))
            told_of += (line, *said)
        elif entry.app in launched:
            told_of.append(f"{entry.label} was launched but showed no window within {config.wait_of(entry.app):g} s")
        elif entry.missing == WAIT:
            told_of.append(f"{entry.label} was waited for and showed no window")
        else:
            told_of.append(f"{entry.label} is not open, and no app says how to launch it")
    told_of += [
        f"{window_name(window, desk, config)} was asked to close and is still open"
        for window in _open_still(course, desk)
    ]
    return told_of


def _remarks(course: Course, skipped: list[int], desk: Desk) -> list[str]:
    """Return what is worth knowing, and no fault."""
    plan = course.plan
    layout, config = plan.layout, plan.config
    found = []
    absent = sorted({e.display for e in layout.entries if e.display and config.display(e.display, desk) is None})
    for name in absent:
        found.append(
            f"display {name} is not there: its windows stand on {config.role_of(stand_in(name, desk, config))}"
        )
    if layout.displays and not absent and fit(layout.arrangement, display_set(desk, config)) == ADAPTED:
        found.append(f"it was saved on {told(layout.displays)}")
    if skipped:
        found.append(f"not open, and left out: {listed([layout.entries[i].label for i in skipped])}")
    for label in course.pairing.unclear:
        found.append(f"which window of {label} is which cannot be told: each took the place that was nearest to it")
    left = [window_name(window, desk, config) for window in plan.left_over(desk)]
    if left:
        some = left if len(left) <= MOST_NAMED else [*left[:MOST_NAMED], f"{len(left) - MOST_NAMED} more"]
        found.append(f"left over: {listed(some)}")
    return found


def came_late(window: Window, layout: Layout, desk: Desk, config: Config) -> Plan | None:
    """Return how a window is to stand that opened after the recall of a layout; None if the layout has no place for it.

    It is put where it belongs, and shown, whatever the layout says of it: its user has just opened it. All other
    windows are left as they are, the order and the focus too.
    """
    if unknown_place(layout, config):
        return None
    layout = present_for(layout, desk, config)
    former = replace(desk, windows=tuple(other for other in desk.windows if other.id != window.id))
    kept = paired(layout, former, config).pairs
    i = next((i for i, wid in paired(layout, desk, config, kept).pairs.items() if wid == window.id), None)
    if i is None:
        return None
    entries = tuple(entry._replace(minimised=False) for entry in layout.entries)
    holds = layout.holds & {PLACE, STATE}
    return Plan(layout._replace(entries=entries, holds=holds), config, {i: window.id})


def placed_late(window: Window, plan: Plan, context: Context, moment: Moment) -> Task:
    """Put a window where the layout that stands has a place for it."""
    moment, refused, _ = yield from reach(plan.frames, moment)
    name = window_name(window, moment.desk, context.config)
    told_of = tuple(refusal_told(change, moment.desk, context.config) for change in refused)
    return Outcome(not refused, f"{name} has its place in {plan.layout.name}", told_of)
