"""The one registry of actions: grammar, help, and what each does. Adding a verb is one entry in `VERBS`."""

from collections.abc import Callable
from functools import lru_cache
from typing import Final, NamedTuple

from jaklet.core import ending, focusing, pressing, programs, undoing, workspaces
from jaklet.core.cursor import Cursor
from jaklet.core.errors import SentenceError
from jaklet.core.grammar import Slots, first_fit, most_telling, written
from jaklet.core.layouts import recall, saving
from jaklet.core.macros import flow, running
from jaklet.core.macros.conditions import read_condition
from jaklet.core.placing import gaps, lost, shapes, shifting, spreading, swapping, windows
from jaklet.core.ports import Moment
from jaklet.core.sentences import Action, Ref
from jaklet.core.slots import PLAIN_SLOTS
from jaklet.core.tasks import Context, Task
from jaklet.core.words import did_you_mean, either

# What is particular about a verb, as bits.
HARSH: Final = 1  # work can be lost, so that it asks, or has to be bound with `sure: true`
BY_KEY: Final = 2  # only a key can do it, as it is about what keys mean
PLACING: Final = 4  # it puts windows elsewhere, and `undo` puts them back
OPENS: Final = 8  # it can be done with a new window
INNER: Final = 16  # it can bring the inside of a program to a state, once its window stands in a layout


class Verb(NamedTuple):
    """One action. Its grammar has forms (`grammar.forms_of`) of slots (`SLOTS`) and words written as they are."""

    name: str
    grammar: str
    begin: Callable[[Action, Context, Moment], Task]
    help: str
    example: str
    traits: int = 0


KEPT: Final = 4096  # actions that are remembered by how they are written: many keys do the same


def _action(cursor: Cursor) -> Ref:
    """ACTION := any action, to the end of the sentence"""
    start, cursor.depth = cursor.at, cursor.depth + 1
    if cursor.depth > MOST_NESTED:
        raise cursor.fault("this says `or` too often", "one or two are enough")
    action = _read(cursor)
    if VERBS[action.verb].traits & BY_KEY:
        raise SentenceError(
            f"{action.verb} can only stand by itself", start, len(cursor.text), "give it a key of its own"
        )
    end = len(cursor.text.rstrip())
    return Ref("ACTION", action.text, start, end, action=action)


def _condition(cursor: Cursor) -> Ref:
    """CONDITION := as `conditions.read_condition`"""
    start = cursor.at
    condition = read_condition(cursor)
    end = start + len(cursor.text[start : cursor.at].rstrip())
    return Ref("CONDITION", " ".join(cursor.text[start:end].split()), start, end, condition=condition)


def _go(action: Action, context: Context, moment: Moment) -> Task:
    """As `programs.go`; with `or ACTION`, that is done where the app's only window is in front already."""
    other = action.named("ACTION")
    if other and other.action and programs.rests(action, context, moment):
        return begin(other.action, context, moment)
    return programs.go(action, context, moment)


def _recall(action: Action, context: Context, moment: Moment) -> Task:
    """As `recall.recall`, which has to begin other actions."""
    return recall.recall(action, context._replace(begin=begin), moment)


def _run(action: Action, context: Context, moment: Moment) -> Task:
    """As `running.run`, which has to begin other actions, too."""
    return running.run(action, context._replace(begin=begin), moment, parse_action)


def _send(action: Action, context: Context, moment: Moment) -> Task:
    """To a display or to a workspace."""
    to_workspace = action.named("N") or action.named("ALL") or "workspace" in action.text.lower().split()
    send = workspaces.send_to_workspace if to_workspace else swapping.send_to_display
    return send(action, context, moment)


MOST_NESTED: Final = 4
SLOTS: Final[Slots] = {**PLAIN_SLOTS, "ACTION": _action, "CONDITION": _condition}

_SIDE_BY: Final = "SIDE [LENGTH]"
_SEND: Final = "[APP] to display STEP|SIDE|DISPLAY; [APP] to workspace STEP|ALL|N"

_VERBS: Final = (
    Verb("go", "APP [BACKWARDS] [or ACTION]", _go, "launch an app, go to it, or on to its next window", "go berths"),
    Verb("launch", "APP", programs.launch, "launch an app, always a new one", "launch radio"),
    Verb("focus", "last; STEP; SIDE; window WINDOW; APP", focusing.focus, "focus another window", "focus left"),
    Verb("place", "[APP] PLACE", windows.place, "put a window at a place", "place left 2/3", PLACING | OPENS),
    Verb("pair", "SIDE [SHARE]", spreading.pair, "this window here, the one before there", "pair left 2/3", PLACING),
    Verb("spread", "WAY [on DISPLAY]", spreading.spread, "let windows share a display", "spread grid", PLACING),
    Verb("swap", "last; SIDE", swapping.swap, "let two windows change places", "swap left", PLACING),
    Verb("nudge", _SIDE_BY, shifting.nudge, "move a window a little", "nudge left 40px", PLACING),
    Verb("stretch", _SIDE_BY, shifting.stretch, "move one edge out", "stretch right 5%", PLACING),
    Verb("shrink", _SIDE_BY, shifting.shrink, "move one edge in", "shrink right 5%", PLACING),
    Verb("send", _SEND, _send, "put a window elsewhere", "send to display next", PLACING | OPENS),
    Verb("gather", "", lost.gather, "bring windows back that are out of reach", "gather", PLACING),
    Verb("gaps", "[SWITCH]", gaps.gaps, "gaps between windows, or none", "gaps off", PLACING),
    Verb("undo", "", undoing.undo, "put windows back as they were", "undo"),
    Verb("minimise", "[APP]", shapes.minimise, "put a window out of view", "minimise radio", PLACING | OPENS),
    Verb("maximise", "[APP]", shapes.maximise, "let a window fill the work area", "maximise", PLACING | OPENS),
    Verb("fullscreen", "[APP]", shapes.fullscreen, "let it fill the display", "fullscreen", PLACING | OPENS),
    Verb("restore", "[APP]", shapes.restore, "take one of these three back", "restore", PLACING),
    Verb("keep", "[APP] above [SWITCH]", shapes.keep_above, "keep a window above", "keep above on", PLACING | OPENS),
    Verb("sweep", "above", ending.sweep, "close the windows that are kept above", "sweep above"),
    Verb("close", "ALL of APP; [APP]", ending.close, "ask a window to close", "close all of letters"),
    Verb("kill", "[APP]", ending.kill, "end a program that does not answer", "kill radio", HARSH),
    Verb("workspace", "STEP|N", workspaces.workspace, "show a workspace", "workspace 2"),
    Verb("recall", "LAYOUT", _recall, "set the desk up as a layout says", "recall departures", PLACING),
    Verb("save", "NAME", saving.save, "keep the desk as a layout", "save departures"),
    Verb("press", "CHORDS", pressing.press, "press keys for the program in front", "press ctrl+p", INNER),
    Verb("type", "TEXT [into APP]", pressing.type_text, "type for the window in front", 'type "Ellery" into letters'),
    Verb("run", "MACRO", _run, "do the steps of a macro", "run start of day", PLACING),
    Verb("wait", "for CONDITION [up to TIME]; TIME", flow.wait, "wait, in a macro", "wait for berths up to 10s"),
    Verb("tell", "TEXT", flow.tell, "say something to the user", 'tell "High water"'),
    Verb("shell", "TEXT [up to TIME]", flow.shell, "let a shell run a command", 'shell "date >> visits"'),
    Verb("stop", "[MACRO]", flow.stop, "end the macros that are under way", "stop"),
    Verb("enter", "LAYER", flow.enter, "let the keys mean what a layer says", "enter arrange", BY_KEY),
    Verb("leave", "", flow.leave, "let the keys mean again what they do without a layer", "leave", BY_KEY),
    Verb("pause", "", flow.pause, "let all other keys be, until it is pressed again", "pause", BY_KEY),
    Verb("resume", "", flow.resume, "end a pause", "resume", BY_KEY),
)
VERBS: Final[dict[str, Verb]] = {verb.name: verb for verb in _VERBS}


@lru_cache(KEPT)
def parse_action(text: str) -> Action:
    """action := VERB form; raises `SentenceError` with the offsets of the word at fault."""
    return _read(Cursor(text))


def _read(cursor: Cursor) -> Action:
    if cursor.done:
        raise cursor.fault("an action is missing here", f"write one such as {_VERBS[0].example}")
    begins = cursor.at
    word, start, end = cursor.word()
    verb = VERBS.get(word)
    if verb is None:
        remedy = did_you_mean(word, VERBS, f"actions begin with {either(list(VERBS))}")
        raise SentenceError(f"no action is called {word!r}", start, end, remedy, unknown=word)
    faults: list[SentenceError] = []
    found = first_fit(verb.grammar, cursor, SLOTS, faults, f"write it like: {usage(verb)}", whose=f"for {verb.name}")
    if found:
        return Action(verb.name, found[1], " ".join(cursor.text[begins:].split()))
    worst = most_telling(faults)
    if worst.remedy:
        raise worst
    raise SentenceError(worst.message, worst.start, worst.end, f"write it like: {usage(verb)}")


def usage(verb: Verb) -> str:
    """Return how a verb is written, its forms joined by `or`."""
    return " or ".join(f"{verb.name} {written(form)}".strip() for form in verb.grammar.split(";"))


def is_harsh(action: Action) -> bool:
    """True if the action, or one that it names, can lose work."""
    return any(VERBS[one.verb].traits & HARSH for one in action.every())


def begin(action: Action, context: Context, moment: Moment) -> Task:
    """Return the task that does an action. Apps and places it names must exist in the configuration."""
    verb = VERBS[action.verb]
    task = verb.begin(action, context, moment)
    undone = verb.traits & PLACING and context.history and not context.part
    return undoing.undoable(task, action.text, context, moment) if undone else task
