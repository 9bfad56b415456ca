"""Saving and recalling layouts."""

from collections import Counter
from collections.abc import Mapping
from typing import Final, NamedTuple

from jaklet.core.config import Config
from jaklet.core.desk import (
    Change,
    Desk,
    Focus,
    Launch,
    Minimise,
    Move,
    Reshape,
    Reveal,
    Send,
    Shape,
    Show,
    Stack,
    Window,
)
from jaklet.core.errors import StoreError
from jaklet.core.geometry import Rect
from jaklet.core.layouts import Entry, Layout, captured, caught, name_fault
from jaklet.core.places import Place, resolved
from jaklet.core.ports import Moment
from jaklet.core.programs import failure_told
from jaklet.core.sentences import Action
from jaklet.core.tasks import Ask, Context, Outcome, Task, outcome, reach
from jaklet.core.telling import refusal_told
from jaklet.core.windows import goal_frame, placing
from jaklet.core.words import counted, listed, nearest

MOST_LINES: Final = 12  # of what would not obey; a report is read, not studied

Pairs = Mapping[int, int]  # index of an entry -> window id


def save(action: Action, context: Context, moment: Moment) -> Task:
    """Keep the desk under a name or number, and say what was caught."""
    word = action.refs[0].name
    try:
        former = context.shelf.find(word)
        number = int(word) if word.isdigit() else former.number if former else None
        name = former.name if former else f"layout {word}" if word.isdigit() else word
        kept = saved(context, moment, name=name, number=number, note=former.note if former else "")
        return outcome(kept.done, kept.line, *kept.more)
    except StoreError as fault:
        return outcome(False, fault.message, fault.remedy)


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
        near = nearest(word, context.shelf.names())
        said = f"no layout has number {word}" if word.isdigit() else f"no layout is called {word!r}"
        return outcome(
            False, said, f"did you mean {listed(near, 'or')}?" if near else f"save one: jaklet layout save {word}"
        )
    return recalled(layout, context, moment)


def recalled(layout: Layout, context: Context, moment: Moment) -> Task:
    """Launch what is missing, wait for it, place, restack, focus, read back, and say what came of it."""
    config, start = context.config, moment.desk
    pairs = paired(layout, start, config)
    launches, stuck = _launches(layout, pairs, config)
    plan = Plan(layout, config, pairs)
    untouched = len(pairs) - len({change.window for change in plan.needed(start) if isinstance(change, _OF_ONE_WINDOW)})
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
            ended = {name for name, _ in moment.ended}
            waited_for = {e.app for i, e in enumerate(layout.entries) if i not in pairs and e.app in waited_for - ended}
            if waited_for:  # place what has come, while the rest is still starting
                moment = yield Ask(plan.frames(moment.desk) if moment.settled or pairs != before else (), until)
    moment, refused, _ = yield from reach(plan.needed, moment)
    return _report(layout, moment, plan, refused, launches, stuck, untouched, config)


_OF_ONE_WINDOW = Move | Reshape | Minimise | Reveal | Send


def _launches(layout: Layout, pairs: Pairs, config: Config) -> tuple[tuple[Launch, ...], list[str]]:
    """Return the launches for the entries without window, and the labels of those that cannot be launched."""
    launches, stuck = [], []
    for i, entry in enumerate(layout.entries):
        if i in pairs:
            continue
        app = config.apps.get(entry.app) if entry.app else None
        if app and app.command:
            launches.append(Launch(app.name, app.command))
        else:
            stuck.append(entry.label)
    return tuple(launches), stuck


def paired(layout: Layout, desk: Desk, config: Config, kept: Pairs | None = None) -> Pairs:
    """Pair entries with live windows: same app (or class), then same title, then least way to go.

    Pairs in `kept` stay while their windows live, so that a window once placed is not taken for another.
    """
    pairs = {i: wid for i, wid in (kept or {}).items() if wid in desk.by_id}
    taken = set(pairs.values())
    live: dict[tuple[bool, str], list[Window]] = {}
    for window in desk.windows:
        if window.id not in taken:
            app = config.claims.app_of(window)
            live.setdefault((True, app) if app else (False, window.cls), []).append(window)
    offers: list[tuple[bool, int, int, int, int]] = []
    for i, entry in enumerate(layout.entries):
        if i in pairs:
            continue
        for order, window in enumerate(live.get((entry.app is not None, entry.label), ())):
            frame = goal_frame(window, entry.place, config, desk)
            way = frame.distance(window.frame) if frame else 0
            offers.append((entry.title is not None and entry.title != window.title, way, i, order, window.id))
    for _, _, i, _, wid in sorted(offers):
        if i not in pairs and wid not in taken:
            pairs[i] = wid
            taken.add(wid)
    return pairs


class Plan(NamedTuple):
    """What a layout still needs of a desk, once its entries have their windows."""

    layout: Layout
    config: Config
    pairs: Pairs

    def needed(self, desk: Desk) -> tuple[Change, ...]:
        """Return every change that is left, in the order in which to make them."""
        return (*self.frames(desk), *self._front(desk))

    def frames(self, desk: Desk) -> tuple[Change, ...]:
        """Return what each window needs for itself: workspace, shape, frame."""
        changes: list[Change] = []
        for i in self._back_to_front():
            window = desk.by_id.get(self.pairs[i])
            if window:
                changes += self._of_one(self.layout.entries[i], window, desk)
        return tuple(changes)

    def _back_to_front(self) -> list[int]:
        return [i for i in reversed(range(len(self.layout.entries))) if i in self.pairs]

    def _of_one(self, entry: Entry, window: Window, desk: Desk) -> tuple[Change, ...]:
        changes: tuple[Change, ...] = ()
        workspace = None if entry.workspace is None else min(entry.workspace, desk.workspaces)
        if window.workspace != workspace:
            changes += (Send(window.id, workspace),)
        # A hidden window is given its place too, without being shown: it is there when it comes back into view.
        window = window._replace(minimised=window.minimised and not entry.minimised)
        frame = self._frame(entry, window, desk)
        if entry.shape is Shape.NORMAL:
            changes += placing(window, frame)
        else:
            elsewhere = desk.display_of(window.frame) != desk.display_of(frame)
            if window.minimised:
                changes += (Reveal(window.id),)
            if elsewhere:
                changes += placing(window._replace(minimised=False), frame)
            if window.shape is not entry.shape or elsewhere:
                changes += (Reshape(window.id, entry.shape),)
        if entry.minimised and not desk.by_id[window.id].minimised:
            changes += (Minimise(window.id),)
        return changes

    def _frame(self, entry: Entry, window: Window, desk: Desk) -> Rect:
        place = resolved(entry.place, self.config.places) or entry.place
        frame = goal_frame(window, place, self.config, desk)
        if frame is None:  # its display is not there: the same share of the primary one, never off screen
            home = Place(place.form, desk.primary.name)
            frame = goal_frame(window, home, self.config, desk)
        assert frame is not None  # the primary display is always there
        return frame

    def _front(self, desk: Desk) -> tuple[Change, ...]:
        """Return what is needed for workspace, focus and order."""
        changes: list[Change] = []
        workspace = min(self.layout.workspace, desk.workspaces)
        if desk.workspace != workspace:
            changes.append(Show(workspace))
        focus = self.focus
        if focus is not None and focus in desk.by_id and desk.active != focus:
            changes.append(Focus(focus))
        order = self._order(desk)
        if order and (changes or not _on_top(order, desk)):
            changes.append(Stack(order))
        return tuple(changes)

    @property
    def focus(self) -> int | None:
        """The window that the layout wants in focus."""
        return None if self.layout.focus is None else self.pairs.get(self.layout.focus)

    def _order(self, desk: Desk) -> tuple[int, ...]:
        """Return the layout's windows from bottom to top; hidden ones too, for when they come back into view."""
        return tuple(self.pairs[i] for i in self._back_to_front() if self.pairs[i] in desk.by_id)


def _on_top(order: tuple[int, ...], desk: Desk) -> bool:
    """True if these stand in this order above all other windows in view that are not kept above."""
    wanted = set(order)
    plain = [
        wid
        for wid in desk.stacking
        if wid in wanted or ((w := desk.by_id.get(wid)) is not None and not w.above and not w.minimised)
    ]
    return tuple(plain[len(plain) - len(order) :]) == order


def _report(
    layout: Layout,
    moment: Moment,
    plan: Plan,
    refused: tuple[Change, ...],
    launches: tuple[Launch, ...],
    stuck: list[str],
    untouched: int,
    config: Config,
) -> Outcome:
    desk, total = moment.desk, len(layout.entries)
    gone = [i for i in range(total) if plan.pairs.get(i) not in desk.by_id]
    came = Counter(launched.app for launched in launches) - Counter(layout.entries[i].label for i in gone)
    stubborn = {change.window for change in refused if isinstance(change, _OF_ONE_WINDOW)}
    standing = total - len(gone) - len(stubborn)
    parts = [f"{standing} of {counted(total, 'window')} in place"]
    if came:
        parts.append(f"{counted(came.total(), 'program')} launched")
    moved = standing - untouched - came.total()
    if not launches and not refused and not gone and moved <= 0:
        parts.append("nothing to move")
    if layout.focus is None:
        parts.append("focus: as it was")
    else:
        label = layout.entries[layout.focus].label
        parts.append(f"focus: {label if plan.focus is not None and desk.active == plan.focus else 'not on ' + label}")
    more = [refusal_told(change, desk, config) for change in refused]
    ended = dict(moment.ended)
    for i in gone:
        entry = layout.entries[i]
        if i in plan.pairs:
            more.append(f"{entry.label} closed meanwhile")
        elif entry.label in stuck:
            more.append(f"{entry.label} is not open, and no app says how to launch it")
        elif entry.app and entry.app in ended:
            more.append(failure_told(config.apps[entry.app], ended[entry.app]))
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
