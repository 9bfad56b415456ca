"""The actions of the flow: waiting, telling, commands, layers, and the listener's pause."""

from typing import Final

from jaklet.core.actions.condition_answers import ConditionFacts, holds
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest, outcome
from jaklet.core.values.changes import Shell
from jaklet.core.values.orders import Enter, Order, Pause, Stop, Tell
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import shortened

_SHOWN: Final = 30  # characters of a text or a command in a message
NO_LISTENER: Final = "only a listener has layers, and this was asked for by a command"
SHELL: Final = "shell: "


def condition_facts(context: TaskContext, moment: Moment) -> ConditionFacts:
    """Return the facts that answer conditions."""
    return ConditionFacts(
        moment.desk, context.config, context.layer, context.layout, context.launching, context.arranged
    )


def wait(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Wait for a time, or until a condition holds, for so long at most."""
    condition, limit = action.named("CONDITION"), action.seconds
    if condition is None or condition.condition is None:
        return _slept(limit or 0.0, moment)
    until = float("inf") if limit is None else moment.now + limit
    return _awaited(action, until, context, moment)


def _slept(seconds: float, moment: Moment) -> Task:
    until = moment.now + seconds
    while moment.now < until:
        moment = yield TaskRequest((), until, (f"wait {seconds:g} s",))
    return TaskOutcome(True, f"{seconds:g} s are over")


def _awaited(action: Action, until: float, context: TaskContext, moment: Moment) -> Task:
    ref = action.named("CONDITION")
    assert ref is not None
    assert ref.condition is not None
    while not holds(ref.condition, condition_facts(context, moment)):
        if moment.now >= until:
            return TaskOutcome(False, f"{ref.name} did not come within {action.seconds:g} s")
        moment = yield TaskRequest((), until, (str(action),))
    return TaskOutcome(True, f"it is so: {ref.name}")


def tell(action: Action, _context: TaskContext, moment: Moment) -> Task:
    """Say something to the user."""
    text = action.refs[0].name
    return _ordered(Tell(text), text, moment)


def enter(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Turn a layer on."""
    name = action.refs[0].name
    if context.macros and not context.by_key:
        return outcome(False, NO_LISTENER, "bind the macro to a chord")
    return _ordered(Enter(name), f"layer {name} is on", moment)


def leave(_action: Action, context: TaskContext, moment: Moment) -> Task:
    """Turn the layer off."""
    if context.macros and not context.by_key:
        return outcome(False, NO_LISTENER, "bind the macro to a chord")
    return _ordered(Enter(""), "no layer is on", moment)


def pause(_action: Action, _context: TaskContext, moment: Moment) -> Task:
    """Listen to nothing until this, or `resume`, is pressed."""
    return _ordered(Pause(None), "a pause begins, or is over", moment)


def resume(_action: Action, _context: TaskContext, moment: Moment) -> Task:
    """Listen again."""
    return _ordered(Pause(False), "listening", moment)


def stop(action: Action, _context: TaskContext, moment: Moment) -> Task:
    """End the macros that are under way."""
    ref = action.named("MACRO")
    return _ordered(Stop(ref.name if ref else ""), "what was under way is stopped", moment)


def _ordered(order: Order, line: str, moment: Moment) -> Task:
    yield TaskRequest((), moment.now, (), (order,))
    return TaskOutcome(True, line)


def shell(action: Action, _context: TaskContext, moment: Moment) -> Task:
    """Let a shell run a command; with a limit, wait for its end, and fail if that is not status 0."""
    command, limit = action.refs[0].name, action.seconds
    return _run(command, limit, moment)


def _run(command: str, limit: float | None, moment: Moment) -> Task:
    key, name = f"{SHELL}{command}", shortened(command, _SHOWN)
    until = moment.now + (limit or 0.0)
    moment = yield TaskRequest((Shell(key, command),), until)
    while limit is not None:
        ended = next((one for one in moment.ended if one.app == key), None)
        if ended:
            said = moment.said(key)
            more = (f"it said: {said}",) if said else ()
            return TaskOutcome(
                not ended.status, f"{name} ended with status {ended.status}", more if ended.status else ()
            )
        if moment.now >= until:
            return TaskOutcome(False, f"{name} did not end within {limit:g} s")
        moment = yield TaskRequest((), until, (f"wait for the end of {name}",))
    return TaskOutcome(True, f"{name} is begun")
