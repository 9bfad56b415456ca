"""Saving and recalling layouts: the tasks, and what is said of how they went."""

from collections import Counter
from typing import Final

from jaklet.core.config import Config
from jaklet.core.desk import Change, Launch
from jaklet.core.errors import StoreError
from jaklet.core.layouts import Layout, captured, caught, name_fault, no_such_layout
from jaklet.core.plans import OF_ONE_WINDOW, Pairs, Plan, paired
from jaklet.core.ports import Moment
from jaklet.core.programs import failure_told
from jaklet.core.sentences import Action
from jaklet.core.tasks import Ask, Context, Outcome, Task, outcome, reach
from jaklet.core.telling import refusal_told
from jaklet.core.words import counted

MOST_LINES: Final = 12  # of what would not obey; a report is read, not studied


def save(action: Action, context: Context, moment: Moment) -> Task:
    """Keep the desk under a name or number, and say what was caught."""
    word = action.refs[0].name
    try:
        former = context.shelf.find(word)
        number = int(word) if word.isdigit() else former.number if former else None
        name = former.name if former else f"layout {word}" if word.isdigit() else word
        holds = caught(captured(moment.desk, context.config, name=name, number=number, note=""))
        # Nothing is asked of the desk, but a dry run ends here.
        moment = yield Ask((), moment.now, (f"save {name}{', keeping the former version' if former else ''}: {holds}",))
        return saved(context, moment, name=name, number=number, note=former.note if former else "")
    except StoreError as fault:
        return Outcome(False, fault.message, (fault.remedy,) if fault.remedy else ())


def saved(context: Context, moment: Moment, *, name: str, number: int | None, note: str) -> Outcome:
    """Keep the desk as a layout; raises `StoreError`."""
    fault = name_fault(name)
    if fault:
        return Outcome(False, f"{name!r} cannot be a layout's name: {fault}")
    layout = captured(moment.desk, context.config, name=name, number=number, note=note)
    kept = context.shelf.keep(layout)
    numbered = "" if number is None else f" (number {number})"
    line = f"saved {name}{numbered}: {caught(layout)}"
    return Outcome(True, line, () if kept.former is None else (f"the former version is kept as {name}@{kept.former}",))


def recall(action: Action, context: Context, moment: Moment) -> Task:
    """Set the desk up as the layout says."""
    word = action.refs[0].name
    try:
        layout = context.shelf.find(word)
    except StoreError as fault:
        return outcome(False, fault.message, fault.remedy)
    if layout is None:
        return outcome(False, *no_such_layout(word, context.shelf.names()))
    return recalled(layout, context, moment)


def recalled(layout: Layout, context: Context, moment: Moment) -> Task:
    """Launch what is missing, wait for it, place, restack, focus, read back, and say what came of it."""
    config, start = context.config, moment.desk
    pairs = paired(layout, start, config)
    launches = _launches(layout, pairs, config)
    plan = Plan(layout, config, pairs)
    untouched = len(pairs) - len({change.window for change in plan.needed(start) if isinstance(change, OF_ONE_WINDOW)})
    missing = [i for i in range(len(layout.entries)) if i not in pairs]
    waited_for = {launched.app for launched in launches}
    if launches:
        until = moment.now + config.settings.wait
        later = tuple(
            f"then place {entry.label} {entry.place}, {config.settings.wait:g} s at most after the launch"
            for entry in (layout.entries[i] for i in missing)
            if entry.app in waited_for
        )
        moment = yield Ask((*plan.needed(start), *launches), until, later)
        while waited_for and moment.now < until:
            before, pairs = pairs, paired(layout, moment.desk, config, pairs)
            plan = Plan(layout, config, pairs)
            ended = {one.app for one in moment.ended if one.status}
            waited_for = {e.app for i, e in enumerate(layout.entries) if i not in pairs and e.app in waited_for - ended}
            if waited_for:  # place what has come, while the rest is still starting; what refuses is asked again later
                moment = yield Ask(plan.frames(moment.desk) if pairs != before else (), until)
    moment, refused, _ = yield from reach(plan.needed, moment)
    return _report(plan, moment, refused, launches, untouched)


def _launches(layout: Layout, pairs: Pairs, config: Config) -> tuple[Launch, ...]:
    """Return the launches for the entries without window, as far as their apps can be launched."""
    missing = (entry for i, entry in enumerate(layout.entries) if i not in pairs)
    apps = (config.apps.get(entry.app) for entry in missing if entry.app)
    return tuple(app.launch(config.settings.terminal) for app in apps if app and app.command)


def _report(
    plan: Plan, moment: Moment, refused: tuple[Change, ...], launches: tuple[Launch, ...], untouched: int
) -> Outcome:
    layout, config = plan.layout, plan.config
    launched = Counter(launch.app for launch in launches)
    desk, total = moment.desk, len(layout.entries)
    gone = [i for i in range(total) if plan.pairs.get(i) not in desk.by_id]
    came = launched - Counter(layout.entries[i].label for i in gone)
    stubborn = {change.window for change in refused if isinstance(change, OF_ONE_WINDOW)}
    standing = total - len(gone) - len(stubborn)
    parts = [f"{standing} of {counted(total, 'window')} in place"]
    moved = standing - untouched - came.total()
    if moved > 0:
        parts.append(f"{moved} moved")
    elif not launches and not refused and not gone:
        parts.append("nothing to move")
    if came:
        parts.append(f"{counted(came.total(), 'program')} launched")
    if layout.focus is None:
        parts.append("focus: as it was")
    else:
        label = layout.entries[layout.focus].label
        parts.append(f"focus: {label if plan.focus is not None and desk.active == plan.focus else 'not on ' + label}")
    more = [refusal_told(change, desk, config) for change in refused]
    ended = {one.app: one for one in moment.ended if one.status}
    for i in gone:
        entry = layout.entries[i]
        if i in plan.pairs:
            more.append(f"{entry.label} closed meanwhile")
        elif entry.app not in launched:
            more.append(f"{entry.label} is not open, and no app says how to launch it")
        elif entry.app and entry.app in ended:
            line, said = failure_told(ended[entry.app], moment.said(entry.app))
            more += (line, *said)
        else:
            more.append(f"{entry.label} was launched but showed no window within {config.settings.wait:g} s")
    absent = {
        e.place.display for e in layout.entries if e.place.display and config.display(e.place.display, desk) is None
    }
    for display in sorted(absent):
        more.append(f"display {display} is not there: its windows stand on {config.role_of(desk.primary)}")
    if len(more) > MOST_LINES:
        more[MOST_LINES:] = [f"and {len(more) - MOST_LINES} more like these"]
    return Outcome(not gone and not refused, f"recalled {layout.name}: {', '.join(parts)}", tuple(more))
