"""Saving layouts: the task, and when it hesitates."""

from collections.abc import Callable
from typing import NamedTuple

from jaklet.core.actions.change_words import window_name
from jaklet.core.actions.layouts.capturing import EVERYTHING, Selection, capture_layout, caught_in_parts, layout_summary
from jaklet.core.actions.layouts.carrying import carry_over, misgivings
from jaklet.core.actions.layouts.displays import present_for
from jaklet.core.actions.layouts.pairing import pair_entries
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest, waited_for
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.errors import StoreError
from jaklet.core.values.layouts import MINIMISE, SEND, Layout, LayoutEntry, name_fault, number_of
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import listed


class SaveRequest(NamedTuple):
    """What is to be saved: under which name and number, with which note (None: the former one), and what of the desk.

    `also`: entries of windows that are not open. `sure`: a number that is another layout's is taken from it.
    """

    name: str
    number: int | None = None
    note: str | None = None
    selection: Selection = EVERYTHING
    also: tuple[LayoutEntry, ...] = ()
    sure: bool = False


def save(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Save the desk under a name or number, and say what was found.

    From a key, a layout that would differ much from the former one waits for a second press.
    """
    word = action.refs[0].name
    try:
        moment, former = yield from waited_for(lambda: context.shelf.find(word), moment, f"reading {word}")
        written = number_of(word)
        number = written if written is not None else former.number if former else None
        name = former.name if former else f"layout {word}" if written is not None else word
        wanted, seen = SaveRequest(name, number), moment
        moment, new = yield from waited_for(lambda: capture_to_save(context, seen, wanted), moment, f"reading {name}")
        if new.doubts and context.by_key and not context.again:
            return TaskOutcome(
                False, f"{name} is not saved yet: press again to save it all the same", new.doubts, asks_again=True
            )
        kept = ", keeping the former version" if former else ""
        # Nothing is asked of the desk, but a dry run ends here.
        told = (f"save {name}{kept}: {layout_summary(new.here)}", *caught_in_parts(new.here), *new.doubts)
        moment = yield TaskRequest((), moment.now, told)
        return (yield from saving(lambda: wanted, context, moment))
    except StoreError as fault:
        return TaskOutcome(False, fault.message, (fault.remedy,) if fault.remedy else ())


def save_as(name: str, context: TaskContext, moment: Moment) -> Task:
    """Keep all of the desk under a name, or as the layout with this number; raises `StoreError`."""

    def wanted() -> SaveRequest:
        former = context.shelf.find(name)
        return SaveRequest(former.name if former else name)

    return saving(wanted, context, moment)


def saving(wanted: Callable[[], SaveRequest], context: TaskContext, moment: Moment) -> Task:
    """Keep the desk as it is now as a layout; raises `StoreError`. `wanted`: looks up what is to be saved."""
    seen, kept = moment, context.kept()  # the listener's state is asked for here, and not beside its loop
    still = context._replace(kept=lambda: kept)
    _, result = yield from waited_for(lambda: save_layout(still, seen, wanted()), moment, "saving")
    return result


class CapturedLayout(NamedTuple):
    """The desk as a layout: as it is to be kept, and as it is on these displays.

    `doubts`: why it may be a slip. `unopened`: windows that are kept in it, and not open. `left_out`: those that its
    last recall has put out of view, as they are none of it.
    """

    layout: Layout
    here: Layout
    doubts: tuple[str, ...] = ()
    unopened: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()

    @property
    def remarks(self) -> tuple[str, ...]:
        """What is to be said of it."""
        unopened = (f"not open, and kept in it: {listed(self.unopened)}",) if self.unopened else ()
        others = (f"out of view as none of its windows, and left out: {listed(self.left_out)}",)
        return (*self.doubts, *unopened, *(others if self.left_out else ()))


def hidden_others(former: Layout, desk: Desk, config: Config) -> list[Window]:
    """Return the windows that are out of view as `others` of a layout says, and are none of its entries."""
    layout = present_for(former, desk, config)
    rule = layout.rule
    own = {*pair_entries(layout, desk, config).pairs.values()}
    elsewhere = config.workspace_number(rule.workspace) if rule.what == SEND else None
    return [
        window
        for window in desk.main_windows
        if window.id not in own
        and ((rule.what == MINIMISE and window.minimised) or (elsewhere and window.workspace == elsewhere))
    ]


def capture_to_save(context: TaskContext, moment: Moment, wanted: SaveRequest) -> CapturedLayout:
    """Return the desk as a layout, with all that is kept of the former one; raises `StoreError`."""
    former = context.shelf.find(wanted.name)
    note = wanted.note if wanted.note is not None else former.note if former else ""
    number = wanted.number if wanted.number is not None else former.number if former else None
    selection = wanted.selection
    if former:  # what a layout holds is its user's choice, and stays it
        parts = former.holds if selection.parts is None else selection.parts
        hidden = hidden_others(former, moment.desk, context.config)
        selection = selection._replace(
            parts=parts, displays=selection.displays or former.only_on, without=frozenset(one.id for one in hidden)
        )
    layout = capture_layout(
        moment.desk,
        context.config,
        name=wanted.name,
        number=number,
        note=note,
        selection=selection,
        kept=context.kept(),
    )
    layout = layout._replace(entries=(*layout.entries, *wanted.also))
    if former is None:
        return CapturedLayout(layout, layout)
    new = carry_over(layout, former)
    left_out = tuple(window_name(one, moment.desk, context.config) for one in hidden)
    return CapturedLayout(new.layout, new.here, misgivings(new.here, former), new.unopened, left_out)


def save_layout(context: TaskContext, moment: Moment, wanted: SaveRequest) -> TaskOutcome:
    """Keep the desk as a layout; raises `StoreError`."""
    fault = name_fault(wanted.name)
    if fault:
        return TaskOutcome(False, f"{wanted.name!r} cannot be a layout's name: {fault}")
    new = capture_to_save(context, moment, wanted)
    layout, here = new.layout, new.here
    if not here.entries and wanted.selection.narrows:
        return TaskOutcome(False, f"{wanted.name} is not saved: no window is what was asked for")
    kept = context.shelf.keep(layout, take_number=wanted.sure)
    if context.history:
        context.history.stands(layout.name, saved=True)
    numbered = "" if layout.number is None else f" (number {layout.number})"
    more = (*caught_in_parts(here), *new.remarks)
    if kept.former is not None:
        more += (f"the former version is kept as {layout.name}@{kept.former}",)
    if kept.aside:
        more += (f"the history of layouts was broken: it is kept as {kept.aside}, and a new one is begun",)
    if kept.lost_number:
        more += (f"{kept.lost_number} has no number any more",)
    return TaskOutcome(True, f"saved {layout.name}{numbered}: {layout_summary(here)}", more)
