"""The one registry of actions: grammar, help, and what each does. Adding a verb is one entry in `VERBS`."""

import re
from collections.abc import Callable
from functools import lru_cache
from typing import Final, NamedTuple

from jaklet.core import ending, focusing, pressing, programs, recall, undoing, workspaces
from jaklet.core.cursor import NAME, Cursor
from jaklet.core.directions import SIDES
from jaklet.core.errors import SentenceError
from jaklet.core.keys.chords import parse_keys
from jaklet.core.layouts import name_fault
from jaklet.core.placing import gaps, lost, shapes, shifting, spreading, swapping, windows
from jaklet.core.placing.places import FORMS, parse_length, read_place
from jaklet.core.ports import Moment
from jaklet.core.sentences import Action, Name, Ref
from jaklet.core.tasks import Context, Task, outcome
from jaklet.core.words import did_you_mean, either

# What is particular about a verb, as bits.
HARSH: Final = 1  # work can be lost, so that it asks, or has to be bound with `sure: true`
BY_KEY: Final = 2  # only a key can do it, as it is about what keys mean
PLACING: Final = 4  # it puts windows elsewhere, and `undo` puts them back
OPENS: Final = 8  # it can be done with a new window


class Verb(NamedTuple):
    """One action. Its grammar has forms, parted by `;`, of slots (`SLOTS`) and lower-case words written as they are.

    What stands in brackets may be left out; `|` parts slots of which one stands there.
    """

    name: str
    grammar: str
    begin: Callable[[Action, Context, Moment], Task]
    help: str
    example: str
    traits: int = 0


@lru_cache(100)
def forms_of(grammar: str) -> tuple[tuple[str, ...], ...]:
    """Return every form of a grammar, each a row of slots and words."""
    forms: list[tuple[str, ...]] = []
    for form in grammar.split(";"):
        rows: list[tuple[str, ...]] = [()]
        for optional, part in _PARTS.findall(form):
            choices = [(choice,) for choice in part.split("|")] if part else [(), tuple(optional.split())]
            rows = [(*row, *choice) for row in rows for choice in choices]
        forms += rows
    return tuple(forms)


_PARTS: Final = re.compile(r"\[([^]]*)\]|(\S+)")
KEPT: Final = 4096  # actions that are remembered by how they are written: many keys do the same
MISSING: Final = "is missing here"


def _app(cursor: Cursor) -> Ref:
    """APP := NAME"""
    start = cursor.at
    if cursor.peek() in RESERVED:
        raise cursor.fault(f"{cursor.peek()!r} cannot be an app's name", "name an app from the section `apps`")
    word = cursor.peek()
    found = cursor.take(NAME)
    if not found or len(found.group()) != len(word):
        cursor.at = start
        raise cursor.fault(
            f"{word!r} is no app's name" if word else "which app?", "name an app from the section `apps`"
        )
    return Ref("APP", found.group(), start, found.end())


def _place(cursor: Cursor) -> Ref:
    start, known = cursor.at, len(cursor.named)
    place = read_place(cursor)
    end = start + len(cursor.text[start : cursor.at].rstrip())
    named = tuple(Name(*one) for one in cursor.named[known:])
    return Ref("PLACE", cursor.text[start:end], start, end, place, named=named)


def _length(cursor: Cursor) -> Ref:
    """LENGTH := as in a place: 1/3, 10%, 40px"""
    start = cursor.at
    length = parse_length(cursor)
    end = start + len(cursor.text[start : cursor.at].rstrip())
    return Ref("LENGTH", cursor.text[start:end], start, end, length=length)


def _share(cursor: Cursor) -> Ref:
    """SHARE := LENGTH, but not the whole"""
    ref = _length(cursor)
    if ref.length and ref.length.share == 1:
        raise SentenceError("nothing would be left for the other window", ref.start, ref.end, "write less, such as 2/3")
    return ref


def _display(cursor: Cursor) -> Ref:
    """DISPLAY := NAME"""
    word, start = cursor.peek(), cursor.at
    found = cursor.take(NAME)
    if not found or len(found.group()) != len(word):
        cursor.at = start
        raise cursor.fault(f"{word!r} is no display's name" if word else "which display?", "write next, or its name")
    return Ref("DISPLAY", found.group(), found.start(), found.end())


def _number(cursor: Cursor) -> Ref:
    """N := a workspace's number"""
    found = cursor.take(_N)
    if not found:
        raise cursor.fault("which workspace?", "write its number, next or previous")
    if not 1 <= int(found[1]) <= workspaces.MOST:
        raise SentenceError(
            f"there is no workspace {found[1]}", found.start(1), found.end(1), f"count from 1 to {workspaces.MOST}"
        )
    return Ref("N", found[1], found.start(1), found.end(1))


def _layout(cursor: Cursor) -> Ref:
    """LAYOUT := NUMBER | name to the end of the sentence"""
    if cursor.done:
        raise cursor.fault("which layout?", "end with a layout's name or number")
    name, start, end = cursor.rest()
    fault = None if name.isdigit() else name_fault(name)
    if fault:
        raise SentenceError(f"{name!r} is no layout's name: {fault}", start, end, "use a name such as departures")
    return Ref("LAYOUT", name, start, end)


def _name(cursor: Cursor) -> Ref:
    """NAME := as LAYOUT, but it need not exist yet"""
    return _layout(cursor)._replace(kind="NAME")


def _layer(cursor: Cursor) -> Ref:
    """LAYER := NAME, of the section `layers`"""
    word, start = cursor.peek(), cursor.at
    found = cursor.take(NAME)
    if not found or len(found.group()) != len(word):
        cursor.at = start
        raise cursor.fault(f"{word!r} is no layer's name" if word else "which layer?", "name one of `layers`")
    return Ref("LAYER", found.group(), found.start(), found.end())


def _chords(cursor: Cursor) -> Ref:
    """CHORDS := chord {space chord}, to the end of the sentence"""
    if cursor.done:
        raise cursor.fault("which chord?", "write one such as ctrl+p")
    text, start, end = cursor.rest()
    try:
        keys = parse_keys(text)
    except SentenceError as fault:
        raise SentenceError(fault.message, start + fault.start, start + fault.end, fault.remedy) from fault
    return Ref("CHORDS", text, start, end, keys=keys)


def _word(kind: str, *words: str) -> Callable[[Cursor], Ref]:
    """Return a reader of one of these words."""

    def read(cursor: Cursor) -> Ref:
        if cursor.peek() not in words:
            near = did_you_mean(cursor.peek(), words, "", 0.75)
            raise cursor.fault(f"{cursor.peek()!r} means nothing here" if near else f"{either(words)} {MISSING}", near)
        word, start, end = cursor.word()
        return Ref(kind, word, start, end)

    return read


def _side(cursor: Cursor) -> Ref:
    """SIDE := left | right | up | down, or top | bottom, which are the same"""
    ref = _word("SIDE", *SIDES, "top", "bottom")(cursor)
    return ref._replace(name={"top": "up", "bottom": "down"}.get(ref.name, ref.name))


def _window(cursor: Cursor) -> Ref:
    """WINDOW := a window's id, as X tools write it"""
    found = cursor.take(_ID)
    if not found:
        raise cursor.fault("which window?", "write its id, such as 0x1a00003; `jaklet pick windows --print` shows them")
    return Ref("WINDOW", found.group(), found.start(), found.end())


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


def _go(action: Action, context: Context, moment: Moment) -> Task:
    """As `programs.go`; with `or ACTION`, that is done where the app's only window is in front already."""
    other = action.named("ACTION")
    if other and other.action and programs.rests(action, context, moment):
        return begin(other.action, context, moment)
    return programs.go(action, context, moment)


def _enter(action: Action, _context: Context, _moment: Moment) -> Task:
    """Nothing is left to do: the keys mean something else as soon as the key is pressed (`core.keys.keymap`)."""
    return outcome(True, f"layer {action.refs[0].name} is on")


def _leave(_action: Action, _context: Context, _moment: Moment) -> Task:
    """As `_enter`."""
    return outcome(True, "no layer is on")


def _send(action: Action, context: Context, moment: Moment) -> Task:
    """To a display or to a workspace."""
    to_workspace = action.named("N") or action.named("ALL") or "workspace" in action.text.lower().split()
    send = workspaces.send_to_workspace if to_workspace else swapping.send_to_display
    return send(action, context, moment)


_N: Final = re.compile(r"(\d{1,3})(?!\S)")
_ID: Final = re.compile(r"0x[0-9a-f]{1,8}(?!\S)|[0-9]{1,10}(?!\S)", re.IGNORECASE)
MOST_NESTED: Final = 4
SLOTS: Final[dict[str, Callable[[Cursor], Ref]]] = {
    "APP": _app,
    "PLACE": _place,
    "LAYOUT": _layout,
    "NAME": _name,
    "SIDE": _side,
    "STEP": _word("STEP", "next", "previous"),
    "BACKWARDS": _word("BACKWARDS", "backwards"),
    "ALL": _word("ALL", "all"),
    "WINDOW": _window,
    "LAYER": _layer,
    "CHORDS": _chords,
    "ACTION": _action,
    "LENGTH": _length,
    "SHARE": _share,
    "DISPLAY": _display,
    "N": _number,
    "SWITCH": _word("SWITCH", "on", "off"),
    "WAY": _word("WAY", spreading.COLUMNS, spreading.ROWS, spreading.GRID),
}
# How the slots that stand for words are written.
WRITTEN: Final = {
    "SIDE": "left/right/up/down",
    "STEP": "next/previous",
    "BACKWARDS": "backwards",
    "ALL": "all",
    "SWITCH": "on/off",
    "WAY": "columns/rows/grid",
}

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
    Verb("recall", "LAYOUT", recall.recall, "set the desk up as a layout says", "recall departures", PLACING),
    Verb("save", "NAME", recall.save, "keep the desk as a layout", "save departures"),
    Verb("press", "CHORDS", pressing.press, "press keys for the program in front", "press ctrl+p"),
    Verb("enter", "LAYER", _enter, "let the keys mean what a layer says", "enter arrange", BY_KEY),
    Verb("leave", "", _leave, "let the keys mean again what they do without a layer", "leave", BY_KEY),
)
VERBS: Final[dict[str, Verb]] = {verb.name: verb for verb in _VERBS}

# Words that sentences need for themselves, and which therefore cannot name an app or a place.
RESERVED: Final = frozenset(
    {
        *("last", "next", "previous", "backwards", "or", "all", "of", "on", "off", "window"),
        *("to", "display", "workspace", "above", *SIDES, *FORMS),
    }
)


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
    at = cursor.at
    faults: list[SentenceError] = []
    for form in forms_of(verb.grammar):
        cursor.at = at
        try:
            refs = tuple(ref for slot in form for ref in _slot(slot, cursor))
            if not cursor.done:
                raise cursor.fault(f"{cursor.peek()!r} is too much for {verb.name}", f"write it like: {usage(verb)}")
        except SentenceError as fault:
            faults.append(fault)
            continue
        return Action(verb.name, refs, " ".join(cursor.text[begins:].split()))
    # A near miss of a known word is most likely what was meant; else the form that got furthest,
    # and of those the last, which is the most general, but not one that only lacks a word of its own.
    worst = max(reversed(faults), key=_telling)
    if worst.remedy:
        raise worst
    raise SentenceError(worst.message, worst.start, worst.end, f"write it like: {usage(verb)}")


def _telling(fault: SentenceError) -> tuple[bool, int, bool]:
    return fault.remedy.startswith("did you mean"), fault.start, not fault.message.endswith(MISSING)


def _slot(slot: str, cursor: Cursor) -> list[Ref]:
    reader = SLOTS.get(slot)
    if reader:
        return [reader(cursor)]
    if not cursor.keyword(slot):
        raise cursor.fault(f"{slot!r} {MISSING}")
    return []


def usage(verb: Verb) -> str:
    """Return how a verb is written, its forms joined by `or`."""

    def written(form: str) -> str:
        return _SLOT.sub(lambda slot: WRITTEN.get(slot[0], slot[0]), form).replace("|", "/")

    return " or ".join(f"{verb.name} {written(form.strip())}".strip() for form in verb.grammar.split(";"))


_SLOT: Final = re.compile("[A-Z]+")


def is_harsh(action: Action) -> bool:
    """True if the action, or one that it names, can lose work."""
    return any(VERBS[one.verb].traits & HARSH for one in action.every())


def begin(action: Action, context: Context, moment: Moment) -> Task:
    """Return the task that does an action. Apps and places it names must exist in the configuration."""
    verb = VERBS[action.verb]
    task = verb.begin(action, context, moment)
    return undoing.undoable(task, action.text, context, moment) if verb.traits & PLACING and context.history else task
