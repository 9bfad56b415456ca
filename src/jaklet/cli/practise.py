"""jaklet practise"""

import sys
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from typing import TYPE_CHECKING, Annotated, Final

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption
from jaklet.core.values.errors import JakletError, UsageError

if TYPE_CHECKING:
    from jaklet.core.actions.ports.chord_source import ChordSource
    from jaklet.core.actions.ports.desktop import Desktop
    from jaklet.core.keys.keymap import Twins
    from jaklet.core.values.chords import Chord
    from jaklet.core.values.config import Config
    from jaklet.practice.lessons import Lesson, PracticeSession, PracticeTask

Answer = Callable[["PracticeTask"], "tuple[Chord, ...] | None"]  # what was pressed for a task; None to stop
SHOW: Final = "?"
ESCAPE: Final = 0xFF1B
PATIENCE: Final = 60.0  # seconds that the keyboard is held without a key


def practise(
    words: Annotated[
        list[str] | None,
        typer.Argument(metavar="[WORD]...", help="Only lines with all of these words.", show_default=False),
    ] = None,
    minutes: Annotated[float, typer.Option("--minutes", min=0.1, help="How long.")] = 5.0,
    new: Annotated[int, typer.Option("--new", min=0, help="How many new ones at most.")] = 8,
    typed: Annotated[bool, typer.Option("--typed", help="Write the keys instead of pressing them.")] = False,
    forget: Annotated[bool, typer.Option("--forget", help="Forget what was learned, and begin anew.")] = False,
    sure: Annotated[bool, typer.Option("--sure", help="Forget without asking.")] = False,
    config: ConfigOption = None,
    desk: DeskOption = None,
) -> None:
    """Learn the keys, one task after another.

    Each is told in words, answered at once, and comes again when it is due.

    On X you press the keys themselves; they do nothing meanwhile. Escape stops.

    Example: jaklet practise --minutes 3
    """
    import random
    from datetime import date

    from jaklet.cli.resources import checked_config, usable_config
    from jaklet.config.paths import state_folder
    from jaklet.core.keys.sheet import filter_lines
    from jaklet.core.values.words import counted
    from jaklet.counters.practice_progress import Progress
    from jaklet.practice.lessons import PracticeSession, lessons

    progress = Progress(state_folder)
    if forget:
        if terminal.confirm(f"Forget what {progress.file} knows of you?", sure):
            terminal.say(f"{counted(progress.forget(), 'line')} forgotten")
        else:
            terminal.say("nothing was forgotten")
        return
    if not (sys.stdin.isatty() and sys.stdout.isatty()):
        raise UsageError(
            "practising needs a terminal", "`jaklet keys --to-learn` is the sheet of what is not known yet"
        )
    known = usable_config(checked_config(config, desk))
    every = lessons(known)
    if words:
        lines = filter_lines([one.line for one in every], words)
        every = [one for one in every if one.line in lines]
    learned, left = progress.all(), still_to_learn(known)
    fresh = [one for one in every if one in left and one.name not in learned]
    session = PracticeSession(every, fresh[:new], learned, known, date.today(), progress.keep, random.Random())
    if not session.due + session.new:
        terminal.say(_nothing(every, fresh, bool(words)))
        return
    until = time.monotonic() + 60 * minutes
    with _keys(desk, typed, known) as pressed:
        how = "Press the keys: nothing is done by them now. Escape stops."
        if pressed is None:
            how = f"Write the keys, such as super+b; {SHOW} shows them; Ctrl+D stops."
        terminal.say(
            f"{session.due} due, {session.new} new; {minutes:g} {'minute' if minutes == 1 else 'minutes'}. {how}\n"
        )
        _ask(session, known, pressed or (lambda _task: _written()), until)
    left = still_to_learn(known)
    terminal.say(
        f"\n{counted(session.asked, 'line')} asked, {session.right} right at once; "
        f"{len(lessons(known)) - len(left)} known, {len(left)} still to learn"
    )


def still_to_learn(config: "Config") -> "list[Lesson]":
    """Return the lessons of a config that are not known yet, by what was learned and what is pressed anyway."""
    from jaklet.config.paths import state_folder
    from jaklet.counters.practice_progress import Progress
    from jaklet.counters.use_counts import UseCounts
    from jaklet.practice.lessons import OF_DAYS, lessons, to_learn

    return to_learn(lessons(config), Progress(state_folder).all(), UseCounts(state_folder).since(OF_DAYS))


def _nothing(every: "list[Lesson]", fresh: "list[Lesson]", chosen: bool) -> str:
    if not every:
        return "no line has these words" if chosen else "there is nothing to learn: no key is bound"
    more = f", and {len(fresh)} are new: --new {len(fresh)} takes them" if fresh else ""
    return f"nothing is due today{more}; `jaklet keys --to-learn` shows what is left"


def _ask(session: "PracticeSession", config: "Config", answer: Answer, until: float) -> None:
    """Ask until the time is over, nothing is left, or the user stops."""
    from jaklet.core.values.chords import keys_written

    ink = terminal.ink_for()
    while time.monotonic() < until and (task := session.next()) is not None:
        terminal.say(f"{ink(task.words, 'strong')}{ink(f'  {task.help}', 'faint') if task.help else ''}")
        began = time.monotonic()
        pressed = answer(task)
        if pressed is None:
            return
        took = time.monotonic() - began
        is_right = task.is_right(pressed)
        learned = session.answered(task, is_right, took)
        if is_right:
            days = "tomorrow" if learned.days == 1 else f"in {learned.days} days"
            again = "" if task.is_again else f" · again {days}"
            terminal.say(f"  {ink('right', 'good')}  {keys_written(pressed)}  {took:.1f} s{again}")
        else:
            its = keys_written(task.keys[0])
            terminal.say(f"  {ink('it is', 'warning')}  {ink(its, 'strong')}{_instead(pressed, task, config)}")


def _instead(pressed: "tuple[Chord, ...]", task: "PracticeTask", config: "Config") -> str:
    """Return the pressed chord and its action as text; empty where none was pressed."""
    from jaklet.core.values.chords import keys_written

    if not pressed:
        return ""
    layer = task.lesson.line.layer
    other = next((one for one in config.live if one.keys == pressed and one.layer == layer), None)
    does = f", which is for: {other.note or other.action.text}" if other else ", which does nothing"
    return f"  and not {keys_written(pressed)}{does}"


def _written() -> "tuple[Chord, ...] | None":
    """Let keys be written; none for `?`."""
    from jaklet.core.values.chords import parse_keys
    from jaklet.core.values.errors import SentenceError

    while True:
        try:
            text = input("  keys: ").strip()
        except (EOFError, KeyboardInterrupt):
            return None
        if text == SHOW:
            return ()
        try:
            return parse_keys(text)
        except SentenceError as fault:
            terminal.say(f"  {fault.message}{f'; {fault.remedy}' if fault.remedy else ''}")


@contextmanager
def _keys(desk: str | None, typed: bool, config: "Config") -> "Iterator[Answer | None]":
    """Yield a source of key presses; None where answers have to be typed, as asked for, or as no desk has keys."""
    from jaklet.cli.resources import opened_desk
    from jaklet.core.keys.keymap import NOTHING, HearableKeys
    from jaklet.core.values.desk_abilities import Ability
    from jaklet.desktops.addresses import file_of

    if typed or file_of(desk) is not None:
        yield None
        return
    with ExitStack() as stack:
        try:
            desktop = stack.enter_context(opened_desk(desk))
        except JakletError:
            desktop = None
        source = desktop.chords if desktop else None
        if desktop is None or source is None or Ability.WHOLE_KEYBOARD not in source.abilities:
            yield None
            return
        chords = frozenset(chord for one in config.live for chord in one.keys)
        refusals = source.grab(HearableKeys(chords, every=True, typed=True))
        whole = [one.reason for one in refusals if one.chord is None]
        if whole:
            raise JakletError(f"the keyboard cannot be had: {whole[0]}", "--typed lets you write the keys")
        stack.callback(source.grab, NOTHING)
        twins = source.twins(chords)
        held = desktop, source  # for the closure, which knows that they are there
        yield lambda task: _pressed(*held, task, twins)


def _pressed(
    desktop: "Desktop", source: "ChordSource", task: "PracticeTask", twins: "Twins"
) -> "tuple[Chord, ...] | None":
    """Wait for keys until they are right or cannot become so; None for Escape, or where nobody presses any."""
    from jaklet.core.actions.ports.chord_source import KeyEdge

    pressed: tuple[Chord, ...] = ()
    now = desktop.look().now
    until = now + PATIENCE
    while now < until:
        now = desktop.wait(until).now
        for event in source.key_events():
            if event.waits:
                source.answer(passed=False)
            if event.edge is not KeyEdge.PRESS:
                continue
            chord = _chord(event.chord, event.typed.key if event.typed else "")
            if chord is None:
                continue
            ways = [(*pressed, one) for one in (chord, *twins.get(chord, ()))]
            pressed = next((way for way in ways if task.is_right(way) or task.goes_on(way)), ways[0])
            if not task.goes_on(pressed) or task.is_right(pressed):
                return pressed if task.is_right(pressed) or chord.keysym != ESCAPE or chord.modifiers else None
            until = now + PATIENCE
    terminal.say(f"  nobody pressed a key for {PATIENCE:g} s")
    return None


def _chord(bound: "Chord | None", typed: str) -> "Chord | None":
    """Return the chord of a key: one that is bound, else what it is called."""
    from jaklet.core.values.chords import parse_chord
    from jaklet.core.values.errors import SentenceError

    if bound is not None:
        return bound
    try:
        return parse_chord(typed)
    except SentenceError:  # a modifier by itself, or a key without a name
        return None
