"""The one registry of actions: grammar, help, and what each does. Adding a verb is one entry in `VERBS`."""

from collections.abc import Callable
from typing import Final, NamedTuple

from jaklet.core import programs, recall, windows
from jaklet.core.cursor import NAME, Cursor
from jaklet.core.errors import SentenceError
from jaklet.core.layouts import name_fault
from jaklet.core.places import FORMS, read_place
from jaklet.core.ports import Moment
from jaklet.core.sentences import Action, Ref
from jaklet.core.tasks import Context, Task
from jaklet.core.words import did_you_mean, either


class Verb(NamedTuple):
    """One action. Each form is a list of slots (`SLOTS`) or lower-case words to be written as they are."""

    name: str
    forms: tuple[tuple[str, ...], ...]
    begin: Callable[[Action, Context, Moment], Task]
    help: str
    example: str


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
    start = cursor.at
    place = read_place(cursor)
    end = start + len(cursor.text[start : cursor.at].rstrip())
    return Ref("PLACE", cursor.text[start:end], start, end, place)


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


SLOTS: Final[dict[str, Callable[[Cursor], Ref]]] = {"APP": _app, "PLACE": _place, "LAYOUT": _layout, "NAME": _name}

_VERBS: Final = (
    Verb("go", (("APP",),), programs.go, "launch an app, go to it, or on to its next window", "go berths"),
    Verb("launch", (("APP",),), programs.launch, "launch an app, always a new one", "launch radio"),
    Verb("focus", (("last",), ("APP",)), programs.focus, "focus an app, or the window used before", "focus last"),
    Verb("place", (("PLACE",), ("APP", "PLACE")), windows.place, "put a window at a place", "place left 2/3"),
    Verb("close", ((), ("APP",)), windows.close, "ask a window to close", "close"),
    Verb("minimise", ((), ("APP",)), windows.minimise, "put a window out of view", "minimise radio"),
    Verb("maximise", ((), ("APP",)), windows.maximise, "let a window fill the work area", "maximise"),
    Verb("restore", ((), ("APP",)), windows.restore, "undo minimise or maximise", "restore"),
    Verb("recall", (("LAYOUT",),), recall.recall, "set the desk up as a layout says", "recall departures"),
    Verb("save", (("NAME",),), recall.save, "keep the desk as a layout", "save departures"),
)
VERBS: Final[dict[str, Verb]] = {verb.name: verb for verb in _VERBS}

# Words that sentences need for themselves, and which therefore cannot name an app or a place.
RESERVED: Final = frozenset({"last", "on", *FORMS})


def parse_action(text: str) -> Action:
    """action := VERB form; raises `SentenceError` with the offsets of the word at fault."""
    cursor = Cursor(text)
    if cursor.done:
        raise SentenceError("an action is missing here", 0, 1, f"write one such as {_VERBS[0].example}")
    word, start, end = cursor.word()
    verb = VERBS.get(word)
    if verb is None:
        remedy = did_you_mean(word, VERBS, f"actions begin with {either(list(VERBS))}")
        raise SentenceError(f"no action is called {word!r}", start, end, remedy, unknown=word)
    at = cursor.at
    faults: list[SentenceError] = []
    for form in verb.forms:
        cursor.at = at
        try:
            refs = tuple(ref for slot in form for ref in _slot(slot, cursor))
            if not cursor.done:
                raise cursor.fault(f"{cursor.peek()!r} is too much for {verb.name}", f"write it like: {usage(verb)}")
        except SentenceError as fault:
            faults.append(fault)
            continue
        return Action(verb.name, refs, " ".join(text.split()))
    # A near miss of a known word is most likely what was meant; else the form that got furthest,
    # and of those the last, which is the most general.
    raise max(reversed(faults), key=lambda fault: (fault.remedy.startswith("did you mean"), fault.start))


def _slot(slot: str, cursor: Cursor) -> list[Ref]:
    reader = SLOTS.get(slot)
    if reader:
        return [reader(cursor)]
    if not cursor.keyword(slot):
        raise cursor.fault(f"{slot!r} is missing here")
    return []


def usage(verb: Verb) -> str:
    """Return how a verb is written, its forms joined by `or`."""
    return " or ".join(" ".join((verb.name, *form)) for form in verb.forms)


def begin(action: Action, context: Context, moment: Moment) -> Task:
    """Return the task that does an action. Apps and places it names must exist in the configuration."""
    return VERBS[action.verb].begin(action, context, moment)
