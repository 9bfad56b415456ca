"""Pressing keys for a program: chords, and texts."""

from collections.abc import Generator, Iterator
from typing import Final

from jaklet.core.actions.change_words import window_name
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import SETTLE, Task, TaskContext, TaskOutcome, TaskRequest, outcome
from jaklet.core.keys.strokes import small_letter
from jaklet.core.values.changes import Press
from jaklet.core.values.chords import Chord, Modifier, keys_written, keysym_of
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import shortened

_KEYS: Final = {"\n": "return", "\t": "tab", " ": "space"}
_SHOWN: Final = 30  # characters of a text in a message
PER_KEY: Final = 0.05  # seconds that one key of a text may take at the most
HANDS: Final = 5.0  # seconds more, in which hands leave the keys that they hold


Front = Generator[TaskRequest, Moment, tuple[Moment, Window | None]]
Sending = Generator[TaskRequest, Moment, str]


def press(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Press chords for the window in front, as if on the keyboard; what it makes of them cannot be seen from here."""
    if moment.desk.front is None:
        return outcome(False, "no window has the focus")
    return _pressed(action, context, moment)


def _pressed(action: Action, context: TaskContext, moment: Moment) -> Task:
    moment, window = yield from _front(moment)
    if window is None:
        return TaskOutcome(False, "no window has the focus")
    name = window_name(window, moment.desk, context.config)
    problem = yield from _sent(action.presses, window, moment)
    return TaskOutcome(not problem, f"{keys_written(action.presses)}: {problem}" if problem else _told(action, name))


def _told(action: Action, name: str) -> str:
    return f"{keys_written(action.presses)} is pressed for {name}"


def type_text(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Type a text into the window in front; `into APP`: only while a main window of that app is, and no dialog."""
    if moment.desk.front is None:
        return outcome(False, "no window has the focus, so that nothing was typed")
    return _typed(action, context, moment)


def _typed(action: Action, context: TaskContext, moment: Moment) -> Task:
    text, app = action.refs[0].name, action.named("APP")
    moment, window = yield from _front(moment)
    desk, config = moment.desk, context.config
    if window is None:
        return TaskOutcome(False, "no window has the focus, so that nothing was typed")
    name = window_name(window, desk, config)
    if app and config.claims.app_of(window, desk) != app.name:
        return TaskOutcome(False, f"{app.name} is not in front, so that nothing was typed: {name} is")
    if app or context.macros or "\n" in text:
        dialog = _dialog_before(window, desk)
        if dialog:
            asks = window_name(dialog, desk, config)
            return TaskOutcome(False, f"a dialog is open, so that nothing was typed: {asks}", ("answer it first",))
    problem = yield from _sent(tuple(chords_of(text)), window, moment)
    shown = repr(shortened(text, _SHOWN))
    return TaskOutcome(not problem, f"{shown}: {problem}" if problem else f"{shown} is typed for {name}")


def _front(moment: Moment) -> Front:
    """Wait until a window that is on its way to the front is there; return the one that has the focus."""
    until = moment.now + SETTLE
    while moment.desk.aimed is not None and not moment.settled and moment.now < until:
        moment = yield TaskRequest((), until)
    desk = moment.desk
    return moment, desk.by_id.get(desk.active) if desk.active is not None else None


def _dialog_before(window: Window, desk: Desk) -> Window | None:
    """Return the dialog that has the focus, or stands before the window that has it."""
    main = desk.family(window)
    if main is not window:
        return window
    return next(
        (one for one in desk.windows if one is not main and desk.family(one) is main and desk.in_view(one)), None
    )


def _sent(chords: tuple[Chord, ...], window: Window, moment: Moment) -> Sending:
    """Press keys for a window, and wait until all are pressed; return what went wrong, empty if nothing did."""
    change, until = Press(chords, window.id), moment.now + HANDS + PER_KEY * len(chords)
    moment = yield TaskRequest((change,), until)
    while change in moment.pressing and moment.now < until:
        moment = yield TaskRequest((), until)
    if change in moment.pressing:
        return "it takes too long"
    return moment.unpressed.get(change, "")


def chords_of(text: str) -> Iterator[Chord]:
    """Yield the chords that type a text; which keys they are depends on the keyboard."""
    for character in text:
        keysym = keysym_of(_KEYS.get(character, character))
        if keysym is None:
            continue  # `TEXT` lets none of these in
        capital = character.isalpha() and character != character.lower() and small_letter(keysym) == keysym
        yield Chord(int(Modifier.SHIFT) if capital else 0, keysym)
