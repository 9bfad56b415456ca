"""Running a macro: its steps one after another, as one task that never sleeps."""

from collections.abc import Generator, Iterable
from typing import Final

from jaklet.core.actions.condition_answers import holds
from jaklet.core.actions.macros.flow import condition_facts
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest, outcome, run_within
from jaklet.core.language.ability_needs import needs_in
from jaklet.core.language.steps import DoStep, Parse, RepeatStep, Step, WhenStep, steps_of
from jaklet.core.values.desk_abilities import Abilities, Ability, is_lacking
from jaklet.core.values.errors import JakletError, SentenceError
from jaklet.core.values.macros import GO_ON, Macro
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import counted, did_you_mean

MOST_STEPS: Final = 10_000  # of one run, rounds and conditions among them: repeats within repeats can be many
SPELL: Final = 16  # steps after which whoever runs the macro gets to look at keys, signals and clients
STOP: Final = "stop"


class MacroProgress:
    """How a run goes: the actions that were done, all steps that were taken, and what failed."""

    def __init__(self) -> None:
        self.done = 0
        self.taken = 0
        self.failed: list[str] = []
        self.told: list[str] = []
        self.last = ""  # why it ended before its last step


def run_macro(action: Action, context: TaskContext, moment: Moment, parse: Parse) -> Task:
    """Do a macro's steps. `parse`: reads an action."""
    ref, config = action.refs[0], context.config
    macro = config.macros.get(ref.name)
    if macro is None:
        return outcome(False, *no_such_macro(ref.name, config.macros))
    if ref.name in context.macros:
        return outcome(False, f"macro {ref.name} runs already: {' -> '.join((*context.macros, ref.name))}")
    try:
        steps = steps_of(macro, ref.arguments, parse)
    except SentenceError as fault:
        return outcome(False, f"macro {ref.name} cannot be run: {fault.message}", fault.remedy)
    lacking = _lacking(steps, moment.desk.abilities)
    if lacking:  # half a macro can be half a text in a program
        return outcome(False, f"macro {ref.name} is not begun: {lacking[1].lacking}, which {lacking[0]} needs")
    inner = context._replace(macros=(*context.macros, ref.name), part=True, again=False)
    return _run(macro, steps, inner, moment)


def _lacking(steps: tuple[Step, ...], abilities: Abilities) -> tuple[str, Ability] | None:
    """Return the first step that a desktop cannot do, and why; None where it can do all."""
    for text, needed in needs_in(steps):
        if is_lacking(needed, abilities):
            return text, needed
    return None


def no_such_macro(name: str, macros: Iterable[str]) -> tuple[str, str]:
    """Return the fault and the remedy for a macro that is not there."""
    return f"no macro is called {name!r}", did_you_mean(name, macros, "add it to `macros` in the config")


def _run(macro: Macro, steps: tuple[Step, ...], context: TaskContext, moment: Moment) -> Task:
    course = MacroProgress()
    _, ended = yield from _block(steps, macro, context, moment, course)
    if ended and course.last:
        return TaskOutcome(False, f"{macro.name} stopped: {course.last}", tuple(course.told))
    failed = tuple(f"{line}; it went on" for line in course.failed)
    return TaskOutcome(not failed, f"{macro.name} is done: {counted(course.done, 'step')}", (*failed, *course.told))


def _block(
    steps: tuple[Step, ...], macro: Macro, context: TaskContext, moment: Moment, course: MacroProgress
) -> Generator[TaskRequest, Moment, tuple[Moment, bool]]:
    """Do steps in order; return the moment then, and whether the macro is to end there."""
    for step in steps:
        moment, ended = yield from _taken(moment, course)
        if ended:
            return moment, True
        match step:
            case DoStep():
                moment, ended = yield from _do(step, macro, context, moment, course)
            case WhenStep():
                chosen = step.then if holds(step.condition, condition_facts(context, moment)) else step.otherwise
                moment, ended = yield from _block(chosen, macro, context, moment, course)
            case RepeatStep():
                for _ in range(step.times):
                    moment, ended = yield from _taken(moment, course)
                    if not ended:
                        moment, ended = yield from _block(step.steps, macro, context, moment, course)
                    if ended:
                        break
        if ended:
            return moment, True
    return moment, False


def _taken(moment: Moment, course: MacroProgress) -> Generator[TaskRequest, Moment, tuple[Moment, bool]]:
    """Count a step, as many of them may take no time; return the moment then, and whether there were too many."""
    course.taken += 1
    if course.taken > MOST_STEPS:
        course.last = f"it has taken {MOST_STEPS} steps"
        return moment, True
    if course.taken % SPELL == 0:
        moment = yield TaskRequest((), moment.now)
    return moment, False


def _do(
    step: DoStep, macro: Macro, context: TaskContext, moment: Moment, course: MacroProgress
) -> Generator[TaskRequest, Moment, tuple[Moment, bool]]:
    """Do one action, and what is to be done instead where it fails."""
    action = step.action
    if action.verb == STOP and not action.refs:
        return moment, True  # this macro; another is stopped by name
    course.done += 1
    assert context.begin is not None  # whoever runs a macro can begin actions
    try:
        moment, result = yield from run_within(context.begin(action, context, moment), moment)
    except JakletError as fault:
        result = TaskOutcome(False, fault.message, (fault.remedy,) if fault.remedy else ())
    if context.watch:
        context.watch(action, result, moment)
    if result.done:
        return moment, False
    if step.otherwise is not None:
        return (yield from _block(step.otherwise, macro, context, moment, course))
    line = f"{action}: {result.line}"
    if macro.on_failure == GO_ON:
        course.failed.append(line)
        return moment, False
    course.last = line
    course.told += result.more
    return moment, True
