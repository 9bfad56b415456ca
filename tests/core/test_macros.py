"""Macros: the task that does them beside a plain reading of them, and what conditions and steps mean."""

from collections.abc import Sequence
from typing import NamedTuple

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaklet.core.actions.begin import begin
from jaklet.core.actions.condition_answers import ConditionFacts, holds
from jaklet.core.actions.macros.running import MOST_STEPS
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.pressing import chords_of
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest
from jaklet.core.language.actions import parse_action
from jaklet.core.language.conditions import TESTS, parse_condition
from jaklet.core.language.event_kinds import EVENTS, parse_event
from jaklet.core.values.chords import keys_written
from jaklet.core.values.config import Config
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.macros import DO, GO_ON, REPEAT, STOP, WHEN, Macro, WrittenStep
from jaklet.core.values.orders import Tell
from jaklet.core.values.sentences import Action
from jaklet.core.values.spans import Spot
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.desktops.tabletop.room import Program, Room
from tests.core.test_recall import CONFIG, Shelf, office

NOWHERE = Spot("", 1, 1, 2)
PROGRAMS = {"quick": 0.2, "slow": 3.0}  # and one that fails
ROOM = Room(
    office().displays,
    {name: Program(name=name, cls=name, instance=name, title=name, takes=takes) for name, takes in PROGRAMS.items()},
)
ROOM.programs["broken"] = Program(name="broken", cls="broken", instance="broken", title="broken", fails=1)
APPS = {
    name: app._replace(name=name, command=(name,), rules=(type(app.rules[0])((("class", name),)),))
    for name, app in zip([*PROGRAMS, "broken"], CONFIG.apps.values(), strict=False)
}


def do(text: str, otherwise: Sequence[WrittenStep] | None = None) -> WrittenStep:
    return WrittenStep(DO, text, NOWHERE, (), None if otherwise is None else tuple(otherwise))


# --- the reference: a plain interpreter of the same steps, with a clock and a set of open apps for a desk ---


class Stopped(Exception):  # noqa: N818  # no error: the macro ends
    pass


class Late(Exception):  # noqa: N818
    """Time is up: the run was interrupted."""


class Plain:
    """Does steps at once, and knows how long each would take."""

    def __init__(self, on_failure: str, until: float) -> None:
        self.now, self.until, self.open = 0.0, until, set[str]()
        self.on_failure, self.told, self.steps, self.failed = on_failure, list[str](), 0, False

    def pass_time(self, seconds: float) -> None:
        if self.now + seconds > self.until + 1e-9:
            raise Late
        self.now += seconds

    def run(self, steps: Sequence[WrittenStep]) -> None:
        for step in steps:
            if step.kind == WHEN:
                self.run(step.then if self.holds(step.text) else step.otherwise or ())
            elif step.kind == REPEAT:
                for _ in range(int(step.text)):
                    self.run(step.then)
            elif not self.do(step.text):
                if step.otherwise is not None:
                    self.run(step.otherwise)
                elif self.on_failure == STOP:
                    raise Stopped(step.text)
                else:
                    self.failed = True

    def holds(self, text: str) -> bool:
        negated = text.startswith("not ")
        return (text.split()[-3] in self.open) != negated

    def do(self, text: str) -> bool:
        if text == "stop":
            raise Stopped
        self.steps += 1
        words = text.split()
        if words[0] == "tell":
            self.told.append(words[1])
        elif words[0] == "go":
            return self.go(words[1])
        elif words[1] == "for":
            if words[2] in self.open:
                return True
            self.pass_time(float(words[-1].removesuffix("s")))
            return False
        else:
            self.pass_time(float(words[1].removesuffix("s")))
        return True

    def go(self, app: str) -> bool:
        if app not in self.open:
            self.pass_time(PROGRAMS.get(app, 0.2))
            if app in PROGRAMS:
                self.open.add(app)
        return app in self.open


ACTIONS = st.sampled_from(
    [
        "go quick",
        "go slow",
        "go broken",
        "wait 1s",
        "wait 0.5s",
        "tell a",
        "tell b",
        "wait for quick up to 2s",
        "wait for broken up to 1s",
        "stop",
    ]
).map(do)
CONDITIONS = st.sampled_from(["quick is running", "not slow is running", "broken is running"])


def deeper(steps: st.SearchStrategy[WrittenStep]) -> st.SearchStrategy[WrittenStep]:
    blocks = st.lists(steps, max_size=3).map(tuple)
    return (
        st.builds(lambda text, then, other: WrittenStep(WHEN, text, NOWHERE, then, other), CONDITIONS, blocks, blocks)
        | st.builds(lambda times, then: WrittenStep(REPEAT, str(times), NOWHERE, then), st.integers(1, 3), blocks)
        | st.builds(lambda step, other: step._replace(otherwise=other), ACTIONS, blocks)
    )


STEPS = st.lists(st.recursive(ACTIONS, deeper, max_leaves=8), min_size=1, max_size=5).map(tuple)


class Run(NamedTuple):
    """How a run of the real task ended; `outcome` None where it was interrupted."""

    outcome: TaskOutcome | None
    told: list[str]
    now: float
    open: set[str]


def drive(task: Task, desktop: Tabletop, until: float) -> Run:
    """Drive a task on a tabletop up to a time, at which it is closed as by Escape."""
    told: list[str] = []
    try:
        ask: TaskRequest = next(task)
        while True:
            told += [order.text for order in ask.orders if isinstance(order, Tell)]
            desktop.apply(ask.changes)
            moment = desktop.wait(
                min(ask.until, until) if desktop.room.openings or ask.until > desktop.room.now else ask.until
            )
            if desktop.room.now >= until - 1e-9 and ask.until > until + 1e-9:
                task.close()
                return Run(None, told, desktop.room.now, set())
            ask = task.send(moment)
    except StopIteration as end:
        return Run(end.value, told, desktop.room.now, {window.cls for window in desktop.look().desk.windows})


def running(macro: Macro, desktop: Tabletop, **arguments: str) -> Task:
    config = Config(CONFIG.settings, CONFIG.displays, APPS, macros={macro.name: macro})
    given = "".join(f" with {name}={value}" for name, value in arguments.items())
    context = TaskContext(config, Shelf(), begin=begin)
    return begin(parse_action(f"run {macro.name}{given}"), context, desktop.look())


def as_a_plain_reading_says(steps: tuple[WrittenStep, ...], on_failure: str, until: float) -> None:
    """Waits, failures and interruptions at any time; no clock but a simulated one."""
    plain = Plain(on_failure, until + 0.05)  # never at the very moment at which something happens
    late = done = False
    try:
        plain.run(steps)
        done = not plain.failed
    except Stopped as end:
        done = not end.args and not plain.failed
    except Late:
        late = True
    desktop = Tabletop(ROOM.copy())
    run = drive(running(Macro("m", steps, on_failure=on_failure), desktop), desktop, until + 0.05)
    assert (run.outcome is None) == late
    assert run.told == plain.told
    if run.outcome:
        assert run.outcome.done == done
        assert run.now == pytest.approx(plain.now)
        assert run.open == plain.open


@pytest.mark.parametrize("examples", [400, pytest.param(10_000, marks=pytest.mark.slow)])
def test_the_task_does_what_a_plain_reading_does(examples: int) -> None:
    times = st.floats(0.1, 30).map(lambda seconds: round(seconds, 1))
    law = given(STEPS, st.sampled_from([STOP, GO_ON]), times)(as_a_plain_reading_says)
    settings(max_examples=examples, deadline=None)(law)()


def test_a_macro_without_end_is_ended() -> None:
    steps: tuple[WrittenStep, ...] = (do("tell a"),)
    for _ in range(3):
        steps = (WrittenStep(REPEAT, "30", NOWHERE, steps),)
    desktop = Tabletop(ROOM.copy())
    run = drive(running(Macro("m", steps), desktop), desktop, 1e9)
    assert run.outcome
    assert run.outcome.line == f"m stopped: it has taken {MOST_STEPS} steps"


def test_parameters_are_filled_in_and_what_is_missing_is_said() -> None:
    macro = Macro("greet", (do("tell <who>"), do("tell <how>")), (("who", None), ("how", "well")))
    desktop = Tabletop(ROOM.copy())
    assert drive(running(macro, desktop, who="Ellery"), desktop, 9).told == ["Ellery", "well"]
    for arguments, message in (({}, "not told who"), ({"whom": "x"}, "no parameter 'whom'")):
        outcome = drive(running(macro, desktop, **arguments), desktop, 9).outcome
        assert outcome
        assert message in outcome.line


def test_one_macro_is_one_step_of_undo_and_an_inner_stop_ends_the_inner_one() -> None:
    inner, outer = (
        Macro("inner", (do("tell a"), do("stop"), do("tell b"))),
        Macro("outer", (do("run inner"), do("tell c"))),
    )
    desktop = Tabletop(ROOM.copy())
    config = Config(apps=APPS, macros={"inner": inner, "outer": outer})
    context = TaskContext(config, Shelf(), begin=begin)
    assert drive(begin(parse_action("run outer"), context, desktop.look()), desktop, 9).told == ["a", "c"]


def facts_of(*windows: str) -> ConditionFacts:
    room = office().copy()
    for name in windows:
        room.add(room.programs[name])
    return ConditionFacts(room.desk(), CONFIG, lambda: "arrange", lambda: "departures")


HOLDS = [
    ("front is radio-log", True), ("front is not radio-log", False), ("not front is tide-gauge", True),
    ("layout is departures", True), ("layout is none", False), ("layer is arrange and layout is departures", True),
    ("layer is none or workspace is 1", True), ("workspace is not 1", False), ("display main is there", True),
    ("display attic is not there", True), ("window of berth-board exists", True), ("tide-gauge is running", False),
    ("windows of berth-board > 1", False), ("windows = 2", True), ("windows >= 2 and displays < 3", True),
    ("berth-board at at 40,40 size 1100x700, full", False), ("not not berth-board", True), ("radio-log is minimised", False),
    ("front is charts or front is ledger or front is radio-log", True), ("tide-gauge or berth-board and not radio-log", False),
]  # fmt: skip


@pytest.mark.parametrize(("text", "so"), HOLDS)
def test_conditions(text: str, so: bool) -> None:
    assert holds(parse_condition(text), facts_of("berth-board", "radio-log")) == so


def test_every_test_and_event_has_an_example_that_parses_as_itself() -> None:
    assert [getattr(parse_condition(test.example), "kind", "") for test in TESTS.values()] == [*TESTS]
    assert [parse_event(event.example).kind for event in EVENTS.values()] == [*EVENTS]


@pytest.mark.parametrize(
    ("parse", "text", "start", "remedy"),
    [
        (parse_condition, "front is", 8, "apps"), (parse_condition, "berths and", 10, "such as"), (parse_condition, "berths is smal", 0, "conditions are"),
        (parse_event, "window opened", 7, "did you mean opens"), (parse_event, "at 25:00", 3, "08:30"), (parse_event, "idle for ten", 9, "200ms"),
        (parse_action, "wait for berths up to", 21, "200ms"), (parse_action, 'tell "a', 5, "quote"), (parse_action, "run", 3, "macro"),
        (parse_action, "run tile with app", 14, "with app=ledger"), (parse_action, "wait 200", 5, "200ms"),
    ],
)  # fmt: skip
def test_what_does_not_parse_says_where_and_what_to_do(parse: object, text: str, start: int, remedy: str) -> None:
    assert callable(parse)
    with pytest.raises(SentenceError) as fault:
        parse(text)
    assert fault.value.start == start, fault.value.message
    assert remedy in fault.value.remedy


def test_texts_are_typed_as_chords() -> None:
    action: Action = parse_action(r'type "Pier 7,\tü?\n" into letters')
    ref = action.named("TEXT")
    assert ref
    assert ref.name == "Pier 7,\tü?\n"
    assert keys_written(tuple(chords_of(ref.name))) == "shift+p i e r space 7 comma tab udiaeresis question return"


def test_a_wait_looks_again_whenever_the_desk_changes() -> None:
    desktop = Tabletop(ROOM.copy())
    context = TaskContext(Config(apps=APPS), Shelf(), begin=begin)
    task = begin(parse_action("wait for slow and not quick up to 9s"), context, desktop.look())
    assert next(task).until == 9
    desktop.room.add(desktop.room.programs["quick"])
    assert task.send(desktop.look()).until == 9
    desktop.room.add(desktop.room.programs["slow"])
    task.send(desktop.look())
    desktop.room._remove(1)
    with pytest.raises(StopIteration) as end:
        task.send(Moment(desktop.look().desk, 2.0))
    assert end.value.value.done
