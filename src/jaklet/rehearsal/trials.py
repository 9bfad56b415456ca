"""Trials on a tabletop: each on every set of displays and every keyboard that it is for."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.actions.condition_answers import ConditionFacts, holds
from jaklet.core.actions.layouts.displays import brought_within
from jaklet.core.actions.placing.lost import is_lost
from jaklet.core.actions.placing.window_stands import form_of
from jaklet.core.keys.keyboards import Keyboard
from jaklet.core.language.cursor import Cursor
from jaklet.core.language.slots import PLAIN_SLOTS
from jaklet.core.language.trials import CHANGED, FAILED, LOST, Expectation, Trial
from jaklet.core.values.chords import Chord, parse_keys
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.sentences import Condition, ConditionTest, tests_of
from jaklet.core.values.words import printable
from jaklet.desktops.tabletop.room import Room
from jaklet.rehearsal.stage import PressResult, Rehearsal, RehearsalInputs

WAIT = "wait "


class Failure(NamedTuple):
    """An expectation that was not met, and what was so instead."""

    expectation: Expectation
    instead: str


class TrialResult(NamedTuple):
    """How a trial went on one set of displays. `where`: what tells it from the others of the trial; empty for one."""

    trial: Trial
    where: str
    failures: tuple[Failure, ...]
    acts: tuple[PressResult, ...]
    seconds: float = 0.0

    @property
    def passed(self) -> bool:
        """True if all that was expected is so."""
        return not self.failures


def run_trial(
    trial: Trial, basis: RehearsalInputs, room: Room, where: str = "", keyboards: Iterable[Keyboard] = ()
) -> TrialResult:
    """Press what a trial says on a tabletop, and compare."""
    failures = [*_missing_keys(trial, keyboards)]
    stage, config = Rehearsal(basis, room), basis.config
    start = stage.desk
    acts = tuple(
        stage.press(what) if isinstance(what, Chord) else stage.let_pass(what) for what in trial_presses(trial.press)
    )
    layout, arranged = lambda: next(iter(stage.history.layouts()), ""), stage.session.keeper.arranged
    facts = ConditionFacts(stage.desk, config, lambda: stage.session.layer, layout, arranged=arranged)
    for one in trial.expect:
        instead = _unmet(one, facts, start, acts)
        failures += [Failure(one, instead)] if instead else []
    return TrialResult(trial, where, tuple(failures), acts)


def trial_presses(words: Iterable[str]) -> list[Chord | float]:
    """Return the chords of a trial, and the seconds that pass between them."""
    found: list[Chord | float] = []
    for word in words:
        if word.startswith(WAIT):
            found.append(PLAIN_SLOTS["TIME"](Cursor(word.removeprefix(WAIT))).amount)
        else:
            found += parse_keys(word)
    return found


def _missing_keys(trial: Trial, keyboards: Iterable[Keyboard]) -> Iterable[Failure]:
    """Yield the chords that a keyboard does not have."""
    for keyboard in keyboards:
        for chord in trial_presses(trial.press):
            if isinstance(chord, Chord) and not keyboard.strokes(chord):
                one = Expectation(f"{chord} can be pressed on {keyboard}", trial.spot)
                yield Failure(one, keyboard.lacks(chord))


def _unmet(one: Expectation, facts: ConditionFacts, start: Desk, acts: Sequence[PressResult]) -> str:
    """Return the actual state where an expectation fails, else ''."""
    if one.condition is not None:
        return "" if holds(one.condition, facts) else told_instead(one.condition, facts)
    desk = facts.desk
    match one.text.lower():
        case text if text == CHANGED:
            return "" if _seen(start) == _seen(desk) else _changed(start, desk, facts.config)
        case text if text == LOST:
            return ", ".join(_lost(start, desk, facts.config))
        case text if text == FAILED:
            return next((line.text for act in acts for line in act.lines if line.failed), "")
    raise AssertionError(one.text)


def _lost(start: Desk, desk: Desk, config: Config) -> list[str]:
    """Return in words which windows have closed, or are where no pointer reaches them."""
    gone = [window for window in start.windows if window.id not in desk.by_id]
    out = [window for window in desk.windows if desk.in_view(window) and is_lost(window, desk.displays)]
    told = [f"{_name(window, start, config)} is closed" for window in gone]
    return told + [f"{_name(window, desk, config)} is out of reach" for window in out]


def _seen(desk: Desk) -> tuple[object, ...]:
    """Return the facts of a desk that a person can see."""
    return desk.windows, desk.stacking, desk.active, desk.workspace, desk.gaps


def _changed(before: Desk, after: Desk, config: Config) -> str:
    """Return in words what changed."""
    both = [(before.by_id.get(wid), after.by_id.get(wid)) for wid in {**before.by_id, **after.by_id}]
    told = []
    for old, new in both:
        if old is None and new is not None:
            told.append(f"{_name(new, after, config)} opened")
        elif new is None and old is not None:
            told.append(f"{_name(old, before, config)} closed")
        elif old is not None and new is not None and old != new:
            told.append(f"{_name(new, after, config)} {window_words(new.id, after, config)}")
    if before.active != after.active:
        told.append(f"front is {config.front_app(after) or 'none of the apps'}")
    return ", ".join(told) or "the order of the windows, or the workspace, is another"


def _name(window: Window, desk: Desk, config: Config) -> str:
    return printable(config.claims.app_of(window, desk) or window.cls or "window")


def told_instead(condition: Condition, facts: ConditionFacts) -> str:
    """Return how those tests stand of which something else is so."""
    told = [_stands(test, facts) for test in tests_of(condition)]
    return "; ".join(dict.fromkeys(told))


def _stands(test: ConditionTest, facts: ConditionFacts) -> str:
    """Return in words what is so of that which a test asks."""
    desk, config = facts.desk, facts.config
    if test.kind in STANDS:
        return STANDS[test.kind](facts)
    app = next((ref.name for ref in test.refs if ref.kind == "APP"), None)
    if test.kind == "windows":
        own = desk.windows if app is None else config.claims.windows_of(app, desk)
        return f"windows{f' of {app}' if app else ''} = {len(own)}"
    if app is None:
        return f"not {test.text}"
    places = [window_words(window.id, desk, config) for window in config.claims.windows_of(app, desk)]
    return f"{app}: {', '.join(places)}" if places else f"{app} has no window"


def _arranged(facts: ConditionFacts) -> str:
    """Return in words what stays arranged, and stands so."""
    by_name = {display.name: display for display in facts.desk.displays}
    told = [
        f"{facts.config.where_told(spot.workspace, by_name[spot.display])}: {form}"
        for spot, form in facts.arranged(facts.desk).items()
    ]
    return f"arranged: {', '.join(told) or 'nothing'}"


def _displays(facts: ConditionFacts) -> str:
    return f"displays: {', '.join(facts.config.role_of(display) for display in facts.desk.displays)}"


# What is so of that which tests ask that are about no app, in words.
STANDS: Final[Mapping[str, Callable[[ConditionFacts], str]]] = {
    "front": lambda facts: f"front is {facts.config.front_app(facts.desk) or 'none of the apps'}",
    "layout": lambda facts: f"layout is {facts.layout() or 'none'}",
    "layer": lambda facts: f"layer is {facts.layer() or 'none'}",
    "workspace": lambda facts: f"workspace is {facts.desk.workspace}",
    "arranged": _arranged,
    "display": _displays,
    "displays": _displays,
}


def window_words(wid: int, desk: Desk, config: Config) -> str:
    """Return where a window is, in words."""
    window = desk.by_id[wid]
    if window.minimised:
        return "minimised"
    return f"at {form_of(window, desk, config)} on {config.role_of(desk.display_of(window.frame))}"


def with_displays(room: Room, displays: tuple[Display, ...]) -> Room:
    """Return a tabletop with other displays; windows that would be out of reach there are brought within them."""
    changed = room.copy()
    changed.displays = displays
    for standing in changed.standing.values():
        if is_lost(standing.window, displays):
            window = standing.window
            frame = brought_within(window.frame, displays[0].work, window.limits, window.border)
            standing.window = window._replace(frame=frame)
            standing.normal = frame
    return changed


def record_expectations(desk: Desk, stage: Rehearsal, config: Config) -> list[str]:
    """Return the present state of a desk as expectations of a trial."""
    front, layout = config.front_app(desk), next(iter(stage.history.layouts()), "")
    lines = [f"front is {front}"] if front else []
    lines += [f"layout is {layout}"] if layout else []
    lines += [f"layer is {stage.session.layer}"] if stage.session.layer else []
    apps: Mapping[str, None] = dict.fromkeys(
        app for window in desk.windows if (app := config.claims.app_of(window, desk)) is not None
    )
    for app in apps:
        own = config.claims.windows_of(app, desk)
        lines += [f"{app} {window_words(window.id, desk, config)}" for window in own if not window.minimised]
        lines += [f"{app} is minimised" for window in own if window.minimised][:1]
        lines += [f"windows of {app} = {len(own)}"] if len(own) > 1 else []
    return [*dict.fromkeys(lines), "nothing lost"]
