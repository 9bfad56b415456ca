"""jaklet act, press, desk"""

import sys
from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, DryRunOption, Format, FormatOption
from jaklet.core.errors import JakletError, SentenceError, UsageError

if TYPE_CHECKING:
    from collections.abc import Callable

    from jaklet.cli.opening import Opened
    from jaklet.core.ports import ChordDesktop, Moment
    from jaklet.core.sentences import Action
    from jaklet.core.tasks import Ask, Task


def act(
    sentence: Annotated[
        str | None,
        typer.Argument(
            metavar="[ACTION]", help="One action, in quotes; without it, all are listed.", show_default=False
        ),
    ] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    dry_run: DryRunOption = False,
) -> None:
    """Do one action.

    \b
    go APP               launch APP          focus APP | last
    place [APP] PLACE    close [APP]         minimise [APP]
    maximise [APP]       restore [APP]       recall NAME | N
    save NAME | N

    Places look like: left 2/3, column 2 of 3, centre 60% x 80%, full on main.

    Example: jaklet act "place left 2/3"
    """  # noqa: D301  # a backspace tells Typer to leave the table's lines as they are
    from jaklet.cli.opening import opened, opened_desk
    from jaklet.core.verbs import VERBS, parse_action, usage

    if sentence is None:
        from jaklet.drawing.tables import table_text

        rows = [(usage(verb), verb.help, verb.example) for verb in VERBS.values()]
        terminal.say(
            table_text(("action", "what it does", "example"), rows, terminal.table_columns(), terminal.ink_for())
        )
        return

    ready = opened(config, desk)
    try:
        action = parse_action(sentence)
    except SentenceError as fault:
        pointer = " " * fault.start + "^" * (fault.end - fault.start)
        raise UsageError(fault.message, f"{fault.remedy}\n  {sentence}\n  {pointer}") from fault
    _known(action, ready)
    with opened_desk(desk) as desktop:
        done = perform(action, ready, desktop, dry_run)
    raise typer.Exit(0 if done else 1)


def press(
    chords: Annotated[
        list[str], typer.Argument(metavar="CHORD...", help="Chords, one after another.", show_default=False)
    ],
    config: ConfigOption = None,
    desk: DeskOption = None,
    dry_run: DryRunOption = False,
) -> None:
    """Do what chords are bound to, one after another.

    It stops where one fails. No key is sent: the bindings of the config are looked up and done.

    Example: jaklet press super+b super+left
    """
    from jaklet.cli.opening import opened, opened_desk, tabletop_path
    from jaklet.core.chords import parse_chord
    from jaklet.core.words import did_you_mean

    ready = opened(config, desk)
    bound = ready.config.by_chord
    bindings = []
    for text in chords:
        try:
            chord = parse_chord(text)
        except SentenceError as fault:
            raise UsageError(f"{text}: {fault.message}", fault.remedy) from fault
        binding = bound.get(chord)
        if binding is None:
            known = [str(other) for other in bound]
            raise UsageError(f"{chord} is not bound", did_you_mean(str(chord), known, "add it under `bindings`"))
        bindings.append(binding)
    done = True
    with opened_desk(desk) as desktop:
        # A simulated keyboard may have chords that others hold; on a real one the listener itself holds them.
        chosen = [binding.chord for binding in bindings] if tabletop_path(desk) else []
        held = {refusal.chord: refusal.reason for refusal in desktop.grab(chosen)} if chosen else {}
        for binding in bindings:
            terminal.say(f"{binding.chord}: {binding.action}")
            if binding.chord in held:
                raise JakletError(f"{binding.chord}: {held[binding.chord]}", "bind another chord")
            done = perform(binding.action, ready, desktop, dry_run)
            if not done:
                break
    raise typer.Exit(0 if done else 1)


def _known(action: "Action", ready: "Opened") -> None:
    """Raise where an action names an app or a place that is not defined."""
    from jaklet.core.forms import Named
    from jaklet.core.places import unknown_place
    from jaklet.core.words import did_you_mean

    for ref in action.refs:
        if ref.kind == "APP" and ref.name not in ready.config.apps:
            remedy = did_you_mean(ref.name, ready.config.apps, "add it to `apps` in the config")
            raise UsageError(f"no app is called {ref.name!r}", remedy)
        form = ref.place.form if ref.place else None
        if isinstance(form, Named) and form.name not in ready.config.places:
            raise UsageError(f"no place is called {form.name!r}", unknown_place(form.name, ready.config.places))


def perform(action: "Action", ready: "Opened", desktop: "ChordDesktop", dry_run: bool) -> bool:
    """Do an action and say how it ended; in a dry run, say what would change."""
    from jaklet.core.verbs import begin

    return perform_task(lambda moment: begin(action, ready.context, moment), ready, desktop, dry_run)


def perform_task(start: "Callable[[Moment], Task]", ready: "Opened", desktop: "ChordDesktop", dry_run: bool) -> bool:
    """Do a task and say how it ended; in a dry run, say what would change."""
    from jaklet.core.tasks import Outcome
    from jaklet.core.telling import change_told
    from jaklet.desktops.drive import foresee, run

    if not dry_run:
        outcome = run(desktop, start, _progress)
        terminal.say_outcome(outcome)
        return outcome.done
    first = foresee(desktop, start)
    if isinstance(first, Outcome):
        terminal.say_outcome(first)
        return first.done
    now = desktop.look().desk
    for change in first.changes:
        terminal.say(f"would {change_told(change, now, ready.config)}")
    for line in first.later:
        terminal.say(f"would {line}")
    return True


def _progress(ask: "Ask") -> None:
    """Say on a terminal what is being launched: it can take some seconds until the windows are there."""
    from jaklet.core.desk import Launch

    names = [change.app for change in ask.changes if isinstance(change, Launch)]
    if names and sys.stderr.isatty():
        terminal.warn(f"launching {', '.join(names)} …")


def desk(config: ConfigOption = None, desk: DeskOption = None, form: FormatOption = Format.text) -> None:
    """Show the desk: a drawing to scale, and a table.

    Example: jaklet desk --format json
    """
    from jaklet.cli.opening import opened_desk, opened_or_bare
    from jaklet.drawing.desks import desk_data, desk_text

    known = opened_or_bare(config)
    with opened_desk(desk) as desktop:
        now = desktop.look().desk
    if form is Format.json:
        terminal.say_json(desk_data(now, known))
    else:
        terminal.say(desk_text(now, known, terminal.columns(), terminal.ink_for()))
