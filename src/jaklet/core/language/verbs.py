"""Verbs: what each action is, as data. What it does is in `core.actions.begin`.

A new verb is one entry in `VERBS`, and one function in `core.actions.begin.BEGINS`. Whoever has to know something of a
verb asks its traits; nobody else lists verbs.
"""

from enum import Enum
from typing import Final, NamedTuple

from jaklet.core.language.event_kinds import APPEARS, CARRIED, CLOSES, FOCUS, HIDES, OPENS, RECALLED, SENT, SHOWN, TITLE
from jaklet.core.values.desk_abilities import Ability
from jaklet.core.values.sentences import Action


class VerbLoss(Enum):
    """What can be lost by it."""

    NOTHING = 0
    WORK = 1  # so that it asks, or has to be bound with `sure: true`
    WINDOWS = 2  # those of an app, all at once
    LAYOUT = 3  # what a layout held before; it stays in its history


class FocusAfter(Enum):
    """Where the focus is after it."""

    STAYS = 0
    GOES = 1  # to what it names
    BY_LAYOUT = 2  # to where the layout says
    MAY_GO = 3  # to any window, as the one that had it is gone or out of view
    MAY_FOLLOW = 4  # to any window, as windows come into view or change places


class WindowNeed(Enum):
    """Whether there have to be windows before it, or are after it."""

    NOTHING = 0
    ITS_APP = 1  # the app that it names has a window after it
    ANYTHING = 2
    NEEDS_IT = 3  # the app that it names has to have one before it


class TypedInput(Enum):
    """What a program gets by it, as if somebody typed."""

    NOTHING = 0
    TEXT = 1
    CHORDS = 2


class Cause(NamedTuple):
    """An event that it can bring about. `of`: the slot that says of what, empty for anything."""

    event: str
    of: str = ""


class Need(NamedTuple):
    """What a desktop has to be able to do for it. `where`: only where this word stands in the sentence."""

    ability: Ability
    where: str = ""


class Traits(NamedTuple):
    """All that others have to know of a verb. None has a default: a new verb has to answer each.

    `needs`: what it cannot do without. `causes`: events that it can bring about. `moves`: it puts windows elsewhere,
    and `undo` puts them back. `floats`: where others stay arranged, a window that it puts somewhere takes no part.
    `begins_others`: other actions are parts of it. `with_new`: it can be done with a new window, as in `opens` and in
    a layout's `after`. `inside`: it can bring the inside of a program to a state, so that it may stand in `after`, too.
    `by_key`: only a key of a listener can do it, as it is about what keys mean. `in_pause`: it is done in a pause, too.
    `noticed`: a notice says what it did. `much_used`: its keys are pressed all day. `listed`: the kinds of things
    (`actions.kinds`, and `KEYS_OF_APPS`) beside which its keys are shown.
    """

    loses: VerbLoss
    needs: tuple[Need, ...]
    causes: tuple[Cause, ...]
    focus: FocusAfter
    opens: WindowNeed
    types: TypedInput
    moves: bool
    floats: bool
    begins_others: bool
    with_new: bool
    inside: bool
    by_key: bool
    in_pause: bool
    noticed: bool
    much_used: bool
    listed: tuple[str, ...]


class Verb(NamedTuple):
    """One action. Its grammar has forms (`grammar.forms_of`) of slots and words written as they are."""

    name: str
    grammar: str
    help: str
    example: str
    traits: Traits


KEYS_OF_APPS: Final = "keys of apps"
ENTER, LEAVE, PAUSE, PICK, PRESS, RECALL, RESUME, RUN, SAVE, SHOW, STOP, TYPE, WAIT = (
    "enter", "leave", "pause", "pick", "press", "recall", "resume", "run", "save", "show", "stop", "type", "wait",
)  # fmt: skip
_SEES, _MOVES, _CLOSES = Need(Ability.SEE), Need(Ability.MOVE), Need(Ability.CLOSE)
_ELSEWHERE: Final = (Cause(SHOWN), Cause(SENT), Cause(CARRIED), Cause(APPEARS))
_ANYTHING: Final = (Cause(OPENS), Cause(CLOSES), Cause(TITLE), Cause(FOCUS), Cause(HIDES), *_ELSEWHERE)

# Families: most verbs are one of these, or are told by how they differ.
PLAIN: Final = Traits(
    loses=VerbLoss.NOTHING, needs=(), causes=(), focus=FocusAfter.STAYS, opens=WindowNeed.NOTHING,
    types=TypedInput.NOTHING, moves=False, floats=False, begins_others=False, with_new=False, inside=False,
    by_key=False, in_pause=False, noticed=False, much_used=False,
    listed=(),
)  # fmt: skip
_GOING: Final = PLAIN._replace(
    needs=(_SEES, Need(Ability.FOCUS)),
    causes=(Cause(OPENS, "APP"), Cause(FOCUS, "APP"), *_ELSEWHERE),
    focus=FocusAfter.GOES,
    opens=WindowNeed.ITS_APP,
    listed=(KEYS_OF_APPS,),
)
_MOVING: Final = PLAIN._replace(moves=True, needs=(_SEES, _MOVES), causes=_ELSEWHERE)
_OF_AN_APP: Final = _MOVING._replace(with_new=True, opens=WindowNeed.NEEDS_IT)
_SHAPING: Final = _OF_AN_APP._replace(needs=(_SEES, Need(Ability.SHAPE)))
_TYPING: Final = PLAIN._replace(needs=(_SEES, Need(Ability.TYPE)), causes=_ANYTHING)
_FOLLOWED: Final = _MOVING._replace(focus=FocusAfter.MAY_FOLLOW)
_HIDING: Final = PLAIN._replace(causes=(Cause(FOCUS),), focus=FocusAfter.MAY_GO)
_ENDING: Final = _HIDING._replace(
    needs=(_SEES, _CLOSES), causes=(Cause(CLOSES, "APP"), Cause(FOCUS)), opens=WindowNeed.NEEDS_IT
)
_KEYS: Final = PLAIN._replace(by_key=True, needs=(Need(Ability.HEAR),))


def _seen(word: str = "") -> tuple[Need, ...]:
    """Return the needs of a view that has the keyboard until it is closed; where a word stands alone."""
    return tuple(Need(ability, word) for ability in (Ability.HEAR, Ability.WHOLE_KEYBOARD, Ability.AT_ONCE))


_SHOWING: Final = _KEYS._replace(needs=_seen())

_SIDE_BY: Final = "SIDE [LENGTH]"
_SEND: Final = "[APP] to display STEP|SIDE|DISPLAY; [APP] to workspace LAST|STEP|ALL|N"

_VERBS: Final = (
    Verb("go", "APP [BACKWARDS] [or ACTION]", "launch an app, go to it, or on to its next window", "go berths",
         _GOING._replace(much_used=True, listed=("windows", "apps", KEYS_OF_APPS))),
    Verb("launch", "APP", "launch an app, always a new one", "launch radio", _GOING._replace(needs=())),
    Verb("focus", "last; STEP; SIDE; by LETTER; window WINDOW; APP", "focus another window", "focus left",
         _GOING._replace(needs=(*_GOING.needs, *_seen("letter")), causes=(Cause(FOCUS, "APP"), *_ELSEWHERE),
                         opens=WindowNeed.NEEDS_IT, much_used=True, listed=("windows", KEYS_OF_APPS))),
    Verb("place", "by GRID [CELLS]; [APP] PLACE", "put a window at a place", "place left 2/3",
         _OF_AN_APP._replace(needs=(*_OF_AN_APP.needs, *_seen("grid")), floats=True, much_used=True)),
    Verb("pair", "SIDE [SHARE]; SIDE [SHARE] by LETTER; by LETTER; SIDE [SHARE] with window WINDOW",
         "this window here, the one before there", "pair left 2/3",
         _FOLLOWED._replace(floats=True, needs=(*_FOLLOWED.needs, *_seen("letter")))),
    Verb("spread", "WAY [on DISPLAY]", "let windows share a display", "spread grid", _MOVING),
    Verb("swap", "last; STEP; LARGEST; SIDE; by LETTER; window WINDOW", "let two windows change places", "swap left",
         _FOLLOWED._replace(needs=(*_FOLLOWED.needs, *_seen("letter")))),
    Verb("nudge", _SIDE_BY, "move a window a little", "nudge left 40px", _MOVING._replace(floats=True)),
    Verb("stretch", _SIDE_BY, "move one edge out", "stretch right 5%", _MOVING),
    Verb("shrink", _SIDE_BY, "move one edge in", "shrink right 5%", _MOVING),
    Verb("send", _SEND, "put a window elsewhere", "send to display next",
         _OF_AN_APP._replace(needs=(_SEES, Need(Ability.MOVE, "display"), Need(Ability.WORKSPACES, "workspace")),
                             focus=FocusAfter.MAY_FOLLOW)),
    Verb("gather", "", "bring windows back that are out of reach", "gather", _MOVING._replace(focus=FocusAfter.MAY_GO)),
    Verb("gaps", "[SWITCH]", "gaps between windows, or none", "gaps off", _MOVING),
    Verb("undo", "", "put windows back as they were", "undo",
         PLAIN._replace(needs=(_SEES, _MOVES), focus=FocusAfter.MAY_FOLLOW, causes=(Cause(HIDES), *_ELSEWHERE))),
    Verb("minimise", "ALL|OTHERS; [APP]", "put a window out of view", "minimise radio",
         _OF_AN_APP._replace(needs=(_SEES, Need(Ability.MINIMISE)), causes=(Cause(FOCUS), Cause(HIDES, "APP")),
                             focus=FocusAfter.MAY_GO)),
    Verb("maximise", "[APP]", "let a window fill the work area", "maximise", _SHAPING),
    Verb("fullscreen", "[APP]", "let it fill the display", "fullscreen", _SHAPING),
    Verb("restore", "ALL; [APP]", "take one of these three back; all that are minimised", "restore",
         _FOLLOWED._replace(needs=(_SEES,), opens=WindowNeed.NEEDS_IT)),
    Verb("keep", "arranged OFF; arranged FORM; [APP] above [SWITCH]",
         "keep a window above; keep a workspace arranged", "keep above on",
         _OF_AN_APP._replace(needs=(_SEES, Need(Ability.ABOVE, "above"), Need(Ability.MOVE, "arranged")))),
    Verb("float", "[SWITCH]", "let a window stand where it is put, where others stay arranged", "float",
         _MOVING),
    Verb("sweep", "above", "close the windows that are kept above", "sweep above",
         _ENDING._replace(causes=(Cause(CLOSES), Cause(FOCUS)), opens=WindowNeed.NOTHING)),
    Verb("close", "ALL of APP; [APP]", "ask a window to close", "close all of letters",
         _ENDING._replace(loses=VerbLoss.WINDOWS)),
    Verb("kill", "[APP]", "end a program that does not answer", "kill radio",
         _ENDING._replace(loses=VerbLoss.WORK, needs=(_SEES, Need(Ability.KILL)))),
    Verb("workspace", "LAST|STEP; N or BACK; N", "show a workspace", "workspace 2",
         _HIDING._replace(causes=(Cause(FOCUS), Cause(SHOWN)), needs=(Need(Ability.WORKSPACES),))),
    Verb(RECALL, "LAYOUT", "set the desk up as a layout says", "recall departures",
         _MOVING._replace(causes=(Cause(OPENS), Cause(CLOSES), Cause(FOCUS), Cause(HIDES), Cause(RECALLED, "LAYOUT"),
                                  *_ELSEWHERE),
                          focus=FocusAfter.BY_LAYOUT, opens=WindowNeed.ANYTHING, begins_others=True, much_used=True,
                          listed=("layouts",))),
    Verb(SAVE, "NAME", "keep the desk as a layout", "save departures",
         PLAIN._replace(loses=VerbLoss.LAYOUT, needs=(_SEES,))),
    # What a program makes of keys, and what a command of a shell does, cannot be known.
    Verb(PRESS, "CHORDS", "press keys for the program in front", "press ctrl+p",
         _TYPING._replace(types=TypedInput.CHORDS, inside=True)),
    Verb(TYPE, "TEXT [into APP]", "type for the window in front", 'type "Ellery" into letters',
         _TYPING._replace(types=TypedInput.TEXT)),
    Verb(RUN, "MACRO", "do the steps of a macro", "run start of day",
         _FOLLOWED._replace(needs=(), opens=WindowNeed.ANYTHING, begins_others=True)),
    Verb(WAIT, "for CONDITION [up to TIME]; TIME", "wait, in a macro", "wait for berths up to 10s", PLAIN),
    Verb("tell", "TEXT", "say something to the user", 'tell "High water"', PLAIN._replace(noticed=True)),
    Verb("shell", "TEXT [up to TIME]", "let a shell run a command", 'shell "date >> visits"',
         _HIDING._replace(causes=_ANYTHING)),
    Verb(STOP, "[MACRO]", "end the macros that are under way", "stop", PLAIN),
    Verb(PICK, "[KIND] [while HELD]", "find a window, app, layout or action by a few letters", "pick windows",
         _SHOWING),
    Verb(SHOW, "keys [TEXT]; layout LAYOUT; place PLACE", "see keys, a layout or a place over the windows",
         "show keys arrange", _SHOWING),
    Verb(ENTER, "LAYER", "let the keys mean what a layer says", "enter arrange",
         _KEYS._replace(needs=(Need(Ability.WHOLE_KEYBOARD), Need(Ability.AT_ONCE)), noticed=True)),
    Verb(LEAVE, "", "let the keys mean again what they do without a layer", "leave", _KEYS._replace(noticed=True)),
    Verb(PAUSE, "", "let all other keys be, until it is pressed again", "pause", _KEYS._replace(in_pause=True)),
    Verb(RESUME, "", "end a pause", "resume", _KEYS._replace(in_pause=True)),
)  # fmt: skip
VERBS: Final[dict[str, Verb]] = {verb.name: verb for verb in _VERBS}


def traits_of(action: Action) -> Traits:
    """Return the traits of an action; those of a plain one where there is no action, as for a new window."""
    verb = VERBS.get(action.verb)
    return verb.traits if verb else PLAIN


def is_harsh(action: Action) -> bool:
    """True if the action, or one that it names, can lose work."""
    return any(traits_of(one).loses is VerbLoss.WORK for one in action.every())
