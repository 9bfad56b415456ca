"""Windows that open after a recall: they go where the layout that stands has a place for them."""

from jaklet.core.actions.change_words import refusal_told, window_name
from jaklet.core.actions.layouts.arrangements import takes_part
from jaklet.core.actions.layouts.displays import present_for
from jaklet.core.actions.layouts.pairing import pair_entries
from jaklet.core.actions.layouts.plans import RecallPlan, unknown
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest, reach
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.layouts import PLACE, STATE, Layout
from jaklet.core.values.orders import Restore


def came_late(window: Window, layout: Layout, desk: Desk, config: Config) -> RecallPlan | None:
    """Return how a window is to stand that opened after the recall of a layout; None if the layout has no place for it.

    It is put where it belongs, and shown, whatever the layout says of it: its user has just opened it. All other
    windows are left as they are, the order and the focus too.
    """
    if unknown(layout, config):
        return None
    layout = present_for(layout, desk, config)
    former = desk._replace(windows=tuple(other for other in desk.windows if other.id != window.id))
    kept = pair_entries(layout, former, config).pairs
    i = next((i for i, wid in pair_entries(layout, desk, config, kept).pairs.items() if wid == window.id), None)
    if i is None:
        return None
    entries = tuple(entry._replace(minimised=False) for entry in layout.entries)
    holds = layout.holds & {PLACE, STATE}
    return RecallPlan(layout._replace(entries=entries, holds=holds), config, {i: window.id})


def placed_late(window: Window, plan: RecallPlan, context: TaskContext, moment: Moment) -> Task:
    """Put a window where the layout that stands has a place for it."""
    moment, refused, _ = yield from reach(plan.frames, moment)
    kept = context.kept()
    if kept is not None and not takes_part(next(iter(plan.pairs)), plan.layout, moment.desk, context.config):
        moment = yield TaskRequest((), moment.now, (), (Restore(kept, frozenset({window.id})),))
    name = window_name(window, moment.desk, context.config)
    told_of = tuple(refusal_told(change, moment.desk, context.config) for change in refused)
    return TaskOutcome(not refused, f"{name} has its place in {plan.layout.name}", told_of)
