"""Drives one task on a desk to its end, for commands; the listener has its own loop."""

from collections.abc import Callable

from jaklet.core.actions.ports.desktop import Desktop, Moment
from jaklet.core.actions.tasks import Task, TaskOutcome, TaskRequest
from jaklet.core.values.errors import JakletError


def drive_task(
    desktop: Desktop, begin: Callable[[Moment], Task], tell: Callable[[TaskRequest], None] | None = None
) -> TaskOutcome:
    """Begin a task on the desk as it is, do what it asks for, and return how it ended.

    `tell` is called with each ask before it is done.
    """
    task = begin(desktop.look())
    try:
        ask = next(task)
        while True:
            if tell:
                tell(ask)
            try:
                if ask.changes:
                    desktop.apply(ask.changes)
            except JakletError as fault:
                ask = task.throw(fault)
                continue
            ask = task.send(_after(ask, desktop))
    except StopIteration as end:
        result: TaskOutcome = end.value
        return result


def _after(ask: TaskRequest, desktop: Desktop) -> Moment:
    """Return the moment with which a task goes on after an ask; a command waits for others itself."""
    if ask.work is None:
        return desktop.wait(ask.until)
    ask.work.run()
    return desktop.look()


def foresee(desktop: Desktop, begin: Callable[[Moment], Task]) -> TaskRequest | TaskOutcome:
    """Return the first thing a task would ask for, or its outcome if it asks for nothing. Nothing is changed."""
    task = begin(desktop.look())
    try:
        ask = next(task)
        while ask.work:  # reading a layout is no change
            ask = task.send(_after(ask, desktop))
        return ask
    except StopIteration as end:
        result: TaskOutcome = end.value
        return result
    finally:
        task.close()
