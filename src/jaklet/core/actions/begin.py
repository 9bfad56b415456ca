"""From an action to the task that does it. Each verb of `core.language.verbs` has its function in `BEGINS`."""

from collections.abc import Callable
from typing import Final

from jaklet.core.actions import ending, focusing, keeping_arranged, launching, pressing, showing, undoing, workspaces
from jaklet.core.actions.layouts import recall, saving
from jaklet.core.actions.macros import flow, running
from jaklet.core.actions.placing import gaps, lost, shapes, shifting, spreading, swapping, windows
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, outcome
from jaklet.core.keys.keymap import BY_SIGHT
from jaklet.core.language.ability_needs import first_lacking
from jaklet.core.language.actions import parse_action
from jaklet.core.language.verbs import traits_of
from jaklet.core.values.sentences import Action

Begin = Callable[[Action, TaskContext, Moment], Task]


def _go(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Launch an app that does not run; else go to its last used window, and from there to its next, or `backwards`.

    With `or ACTION`: do that where the app's only window is in front already.
    """
    other = action.named("ACTION")
    if other and other.action and launching.rests(action, context, moment):
        return begin(other.action, context, moment)
    return launching.go(action, context, moment)


def _recall(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Set the desk up as a layout says: launch, wait, place, restack, focus, read back. `last`: the one before."""
    return recall.recall(action, context._replace(begin=begin), moment)


def _run(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Do the steps of a macro; its own chord again, or Escape, stops it."""
    return running.run_macro(action, context._replace(begin=begin), moment, parse_action)


def _send(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Put a window on another display, in the same share of it, or on another workspace."""
    to_workspace = "workspace" in action.text.lower().split()  # no app and no display can be called so
    send = workspaces.send_to_workspace if to_workspace else swapping.send_to_display
    return send(action, context, moment)


def _keep(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Keep a window above the others, or a workspace on this display arranged: the listener keeps it so."""
    stays = action.named("FORM") or action.named("OFF")
    return (keeping_arranged.keep_arranged if stays else shapes.keep_above)(action, context, moment)


BEGINS: Final[dict[str, Begin]] = {
    "go": _go,
    "launch": launching.launch,
    "focus": focusing.focus,
    "place": windows.place,
    "pair": spreading.pair,
    "spread": spreading.spread,
    "swap": swapping.swap,
    "nudge": shifting.nudge,
    "stretch": shifting.stretch,
    "shrink": shifting.shrink,
    "send": _send,
    "gather": lost.gather,
    "gaps": gaps.gaps,
    "undo": undoing.undo,
    "minimise": shapes.minimise,
    "maximise": shapes.maximise,
    "fullscreen": shapes.fullscreen,
    "restore": shapes.restore,
    "keep": _keep,
    "float": keeping_arranged.float_,
    "sweep": ending.sweep,
    "close": ending.close,
    "kill": ending.kill,
    "workspace": workspaces.workspace,
    "recall": _recall,
    "save": saving.save,
    "press": pressing.press,
    "type": pressing.type_text,
    "run": _run,
    "wait": flow.wait,
    "tell": flow.tell,
    "shell": flow.shell,
    "stop": flow.stop,
    "pick": showing.pick,
    "show": showing.show,
    "enter": flow.enter,
    "leave": flow.leave,
    "pause": flow.pause,
    "resume": flow.resume,
}


def begin(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Return the task that does an action. Apps and places it names must exist in the configuration.

    Where the desktop cannot do what it needs, nothing is begun.
    """
    lacking = first_lacking(action, moment.desk.abilities)
    if lacking:
        return outcome(False, lacking.lacking)
    if any(ref.kind in BY_SIGHT for ref in action.refs):
        return showing.by_sight(action, context, moment)
    task = BEGINS[action.verb](action, context, moment)
    undone = traits_of(action).moves and context.history and not context.part
    return undoing.undoable(task, action.text, context, moment) if undone else task
