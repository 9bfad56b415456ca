"""What is said of a recall: what stands, what came, what would not obey, what is left over."""

from collections import Counter
from collections.abc import Set
from typing import Final, NamedTuple

from jaklet.core.actions.change_words import refusal_told, window_name
from jaklet.core.actions.launching import failure_told
from jaklet.core.actions.layouts.displays import ADAPTED, arrangement_fit, display_set, displays_text, stood_in_for
from jaklet.core.actions.layouts.pairing import Pairing
from jaklet.core.actions.layouts.plans import OF_ONE_WINDOW, RecallPlan
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import TaskOutcome
from jaklet.core.values.changes import Change, Launch
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.layouts import FOCUS, SKIP, WAIT
from jaklet.core.values.words import counted, listed

MOST_LINES: Final = 12  # of what would not obey; a report is read, not studied
MOST_NAMED: Final = 5


class RecallProgress(NamedTuple):
    """How a recall went: its plan in the end, what was launched and refused, and what stood before."""

    plan: RecallPlan
    pairing: Pairing
    launched: tuple[Launch, ...]
    waited: dict[str, float]  # app -> seconds until its window was there
    refused: tuple[Change, ...]
    untouched: int
    cleared: Set[int]  # windows that are not the layout's and were to be put out of view
    closing: tuple[Window, ...]
    after: tuple[str, ...]


def recall_report(course: RecallProgress, moment: Moment) -> TaskOutcome:
    """Return how a recall ended, in a line and what is to be said beside it."""
    plan = course.plan
    layout, desk, total = plan.layout, moment.desk, len(plan.layout.entries)
    gone, skipped = _absent(plan, desk)
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
    elif not (course.launched or course.refused or gone):
        parts.append("nothing to move")
    if came:
        longest = max(course.waited.values(), default=0)
        parts.append(f"{counted(came.total(), 'program')} launched in {longest:.1f} s")
    parts += _tidied_told(course, desk)
    parts.append(_focus_told(plan, desk))
    more = [*_refusals(course, gone, moment), *course.after, *_remarks(course, skipped, desk)]
    if len(more) > MOST_LINES:
        more[MOST_LINES:] = [f"and {len(more) - MOST_LINES} more like these"]
    done = not (gone or course.refused or course.after or _open_still(course, desk))
    return TaskOutcome(done, f"recalled {layout.name}: {', '.join(parts)}", tuple(more))


def _absent(plan: RecallPlan, desk: Desk) -> tuple[list[int], list[int]]:
    """Return the entries without a window, by their indices: those that lack one, and those that may be left out."""
    gone = [i for i in range(len(plan.layout.entries)) if plan.pairs.get(i) not in desk.by_id]
    skipped = [i for i in gone if i not in plan.pairs and plan.layout.entries[i].missing == SKIP]
    return [i for i in gone if i not in skipped], skipped


def _focus_told(plan: RecallPlan, desk: Desk) -> str:
    layout = plan.layout
    if layout.focus is None or FOCUS not in layout.holds:
        return "focus: as it was"
    label = layout.entries[layout.focus].label
    return f"focus: {label if plan.focus is not None and desk.active == plan.focus else 'not on ' + label}"


def _tidied_told(course: RecallProgress, desk: Desk) -> list[str]:
    """Return in words what became of windows that are not in the layout."""
    refused = {change.window for change in course.refused if isinstance(change, OF_ONE_WINDOW)}
    cleared = len((course.cleared & desk.by_id.keys()) - refused)
    closed = len(course.closing) - len(_open_still(course, desk))
    parts = [f"{counted(cleared, 'other')} put out of view"] if cleared else []
    return [*parts, f"{counted(closed, 'other')} closed"] if closed else parts


def _open_still(course: RecallProgress, desk: Desk) -> list[Window]:
    return [desk.by_id[window.id] for window in course.closing if window.id in desk.by_id]


def _refusals(course: RecallProgress, gone: list[int], moment: Moment) -> list[str]:
    """Return lines on windows that refused, did not come, or did not close."""
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


def _remarks(course: RecallProgress, skipped: list[int], desk: Desk) -> list[str]:
    """Return the remarks of a recall that are no faults."""
    plan = course.plan
    layout, config = plan.layout, plan.config
    found = stood_in_for(layout.entries, desk, config)
    if layout.displays and not found and arrangement_fit(layout.arrangement, display_set(desk, config)) == ADAPTED:
        found.append(f"it was saved on {displays_text(layout.displays)}")
    if skipped:
        found.append(f"not open, and left out: {listed([layout.entries[i].label for i in skipped])}")
    for label in course.pairing.unclear:
        found.append(f"which window of {label} is which cannot be told: each took the place that was nearest to it")
    left = [window_name(window, desk, config) for window in plan.left_over(desk)]
    if left:
        some = left if len(left) <= MOST_NAMED else [*left[:MOST_NAMED], f"{len(left) - MOST_NAMED} more"]
        found.append(f"left over: {listed(some)}")
    return found
