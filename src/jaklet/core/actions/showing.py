"""What is shown over the windows: the finder, the keys, a layout, a place. Whoever runs the action shows it."""

from collections.abc import Mapping
from typing import Final

from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.requests import layout_asked
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest, outcome, waited_for
from jaklet.core.values.kinds import ALL
from jaklet.core.values.orders import FINDER, GRID, KEYS, LAYOUT, LETTERS, PLACE, USUAL_GRID, WALK, ShowView
from jaklet.core.values.sentences import Action

VIEW_OF: Final[Mapping[str, str]] = {"LAYOUT": LAYOUT, "PLACE": PLACE, "TEXT": KEYS}


def pick(action: Action, _context: TaskContext, moment: Moment) -> Task:
    """Show the finder over the windows, or what is walked through for as long as the key's modifiers are held."""
    kind = action.named("KIND")
    view = WALK if action.named("HELD") else FINDER
    return _shown(ShowView(view, kind.name if kind else ALL), "the finder is shown", moment)


def show(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Show the keys that work now, a layout, or a place."""
    ref = next(iter(action.refs), None)
    if ref is None:
        return _shown(ShowView(KEYS), "the keys are shown", moment)
    if ref.kind == "LAYOUT":
        return _layout_shown(ref.name, context, moment)
    return _shown(ShowView(VIEW_OF[ref.kind], ref.name), f"{ref.name} is shown", moment)


def _layout_shown(word: str, context: TaskContext, moment: Moment) -> Task:
    moment, layout = yield from waited_for(lambda: layout_asked(word, context.shelf), moment, f"reading {word}")
    return (yield from _shown(ShowView(LAYOUT, layout.name), f"{layout.name} is shown", moment))


def by_sight(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Let it be chosen with more keys what an action is about: letters on windows, or on the cells of a grid."""
    if not context.by_key:
        return outcome(False, f"only a listener can do {action.text!r}, as it is chosen on the screen")
    if action.named("GRID"):
        cells = action.named("CELLS")
        if moment.desk.focused is None:
            return outcome(False, "no window has the focus")
        return _shown(ShowView(GRID, cells.name if cells else USUAL_GRID), "a grid is shown", moment)
    if action.verb == "pair":  # what is said of the window that is chosen
        side, length = action.named("SIDE"), action.named("LENGTH")
        what = " ".join(("pair", side.name if side else "left", *([length.name] if length else []), "with"))
        return _shown(ShowView(LETTERS, what), "windows have letters", moment)
    return _shown(ShowView(LETTERS, action.verb), "windows have letters", moment)


def _shown(order: ShowView, line: str, moment: Moment) -> Task:
    yield TaskRequest((), moment.now, (), (order,))
    return TaskOutcome(True, line)
