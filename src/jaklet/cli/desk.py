"""jaklet act, fire, desk"""

import sys
from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, DryRunOption, FormatOption, OutputFormat
from jaklet.core.values.errors import JakletError, UsageError
from jaklet.core.values.words import printable

if TYPE_CHECKING:
    from collections.abc import Callable

    from jaklet.cli.resources import OpenedConfig
    from jaklet.core.actions.ports.desktop import Desktop, Moment
    from jaklet.core.actions.tasks import Task, TaskContext, TaskRequest
    from jaklet.core.values.sentences import Action


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
    sure: Annotated[bool, typer.Option("--sure", help="Do not ask before a program is killed.")] = False,
) -> None:
    """Do one action, or what a word of the config stands for.

    \b
    go APP [backwards] [or ACTION]          launch APP
    focus left|right|up|down                focus next|previous|last|APP
    place [APP] PLACE    pair SIDE [SHARE]      spread columns|rows|grid [on DISPLAY]
    swap SIDE|last|next|previous|largest    nudge SIDE [LENGTH]
    stretch SIDE [LENGTH]                   shrink SIDE [LENGTH]
    send [APP] to display NAME|next|previous|SIDE
    send [APP] to workspace N|NAME|next|previous|last|all
    workspace N|NAME|next|previous|last     workspace N|NAME or back
    minimise [APP|all|others]               restore [APP|all]
    maximise [APP]       fullscreen [APP]
    keep [APP] above [on|off]               sweep above
    keep arranged FORM|off                  float [on|off]
    gather               gaps [on|off]      undo
    close [APP]          close all of APP   kill [APP]
    recall NAME|N        save NAME|N        press CHORD...
    run MACRO [with NAME=VALUE, ...]        stop [MACRO]
    type TEXT [into APP]     tell TEXT      shell TEXT [up to TIME]
    wait TIME            wait for CONDITION [up to TIME]
    enter LAYER          leave              pause      resume
    pick [KIND]          show keys [WORDS]|layout NAME|place PLACE
    place by grid        focus by letter    swap by letter
                                            (these only as a key)

    Places look like: left 2/3, column 2 of 3, cells B2:D3 of 6x4,
    centre 60% x 80%, full on main. Of several (left 1/2, left 1/3) each
    further press takes the next.

    Example: jaklet act "place left 2/3"
    """  # noqa: D301  # a backspace tells Typer to leave the table's lines as they are
    from jaklet.cli.resources import opened_config, opened_desk
    from jaklet.core.actions.requests import action_asked
    from jaklet.core.language.actions import action_usage
    from jaklet.core.language.verbs import VERBS

    if sentence is None:
        from jaklet.drawing.tables import table_text

        rows = [(action_usage(verb), verb.help, verb.example) for verb in VERBS.values()]
        terminal.say(
            table_text(("action", "what it does", "example"), rows, terminal.table_columns(), terminal.ink_for())
        )
        return

    ready = opened_config(config, desk)
    asked = action_asked(sentence, ready.config, sure or dry_run)
    with opened_desk(desk) as desktop:
        if asked.harsh:
            _ask_first(asked.action, ready, desktop)
        done = perform(asked.action, ready, desktop, dry_run)
    raise typer.Exit(0 if done else 1)


def _ask_first(action: "Action", ready: "OpenedConfig", desktop: "Desktop") -> None:
    """Name what would be killed and ask; raises where there is nobody to ask, or the answer is no."""
    from jaklet.core.actions.begin import begin
    from jaklet.core.actions.change_words import change_told
    from jaklet.core.actions.tasks import TaskOutcome
    from jaklet.desktops.drive import foresee

    first = foresee(desktop, lambda moment: begin(action, ready.context(desktop), moment))
    if isinstance(first, TaskOutcome):
        return  # there is nothing to kill, and doing it says so
    if not sys.stdin.isatty() or not sys.stderr.isatty():
        raise UsageError("this kills a program, and nobody is here to be asked", "add --sure if that is meant")
    now = desktop.look().desk
    what = "; ".join(change_told(change, now, ready.config) for change in first.changes)
    if not typer.confirm(f"{printable(what)}: what is not saved in it is lost. Sure?", err=True):
        raise JakletError("nothing was done")


def fire(
    chords: Annotated[
        list[str], typer.Argument(metavar="CHORD...", help="Chords, one after another.", show_default=False)
    ],
    config: ConfigOption = None,
    desk: DeskOption = None,
    dry_run: DryRunOption = False,
) -> None:
    """Do what chords are bound to, one after another.

    It stops where one fails. No key is sent: the bindings of the config are looked up and done.

    Example: jaklet fire super+b super+left
    """
    from jaklet.cli.resources import opened_config, opened_desk
    from jaklet.core.keys.firing import chords_asked, fire_chord, unfinished_sequence
    from jaklet.core.keys.keymap import REST, Keymap
    from jaklet.desktops.addresses import file_of

    typed = chords_asked(chords)
    ready = opened_config(config, desk)
    keymap, state = Keymap(ready.config), REST
    with opened_desk(desk) as desktop:
        # A simulated keyboard may have chords that others hold; on a real one the listener itself holds them.
        taken = desktop.chords.probe(typed) if desktop.chords and file_of(desk) else []
        held = {refusal.chord: refusal.reason for refusal in taken}
        for chord in typed:
            if chord in held and not state.layer:
                raise JakletError(f"{chord}: {held[chord]}", "bind another chord")
            one = fire_chord(chord, state, ready.config.front_app(desktop.look().desk), keymap, ready.config)
            if one.line:
                terminal.say(one.line)
            state = one.meaning.state
            for binding in one.bindings:
                terminal.say(f"{binding.written}: {binding.action}")
                done = perform(binding.action, ready, desktop, dry_run)
                state = keymap.release(state, binding) if binding is one.meaning.on_release else state
                if not done:
                    raise typer.Exit(1)
        fault = unfinished_sequence(state, keymap)
        if fault:
            raise fault


def perform(action: "Action", ready: "OpenedConfig", desktop: "Desktop", dry_run: bool) -> bool:
    """Do an action and say how it ended; in a dry run, say what would change."""
    from functools import partial

    from jaklet.core.actions.begin import begin

    done = perform_task(partial(begin, action), ready, desktop, dry_run)
    if dry_run and action.verb == "run":
        _say_steps(action, ready)
    return done


def _say_steps(action: "Action", ready: "OpenedConfig") -> None:
    """Print the steps of a macro; the caller has printed the first one in full."""
    from jaklet.core.values.macros import outline

    macro = ready.config.macros.get(action.refs[0].name)
    for line in outline(macro.steps) if macro else ():
        terminal.say(f"step: {printable(line)}")
    if macro:
        terminal.say("`jaklet rehearse` shows what all of it would do")


def perform_task(
    start: "Callable[[TaskContext, Moment], Task]", ready: "OpenedConfig", desktop: "Desktop", dry_run: bool
) -> bool:
    """Do a task and say how it ended; in a dry run, say what would change."""
    from jaklet.core.actions.change_words import change_told
    from jaklet.core.actions.tasks import TaskOutcome
    from jaklet.desktops.drive import drive_task, foresee

    context = ready.context(desktop)
    if not dry_run:
        outcome = drive_task(desktop, lambda moment: start(context, moment), _progress)
        terminal.say_outcome(outcome)
        return outcome.done
    first = foresee(desktop, lambda moment: start(context, moment))
    if isinstance(first, TaskOutcome):
        terminal.say_outcome(first)
        return first.done
    now = desktop.look().desk
    for change in first.changes:
        terminal.say(f"would {change_told(change, now, ready.config)}")
    for line in first.later:
        terminal.say(f"would {line}")
    return True


def _progress(ask: "TaskRequest") -> None:
    """Say on a terminal what is being launched: it can take some seconds until the windows are there."""
    from jaklet.core.values.changes import Launch
    from jaklet.core.values.orders import Tell

    for order in ask.orders:
        if isinstance(order, Tell):
            terminal.warn(printable(order.text))
    names = [change.app for change in ask.changes if isinstance(change, Launch)]
    if names and sys.stderr.isatty():
        terminal.warn(f"launching {', '.join(names)} …")


def desk(
    config: ConfigOption = None,
    desk: DeskOption = None,
    picture: Annotated[
        str | None, typer.Option("--picture", metavar="FILE", help="Write a picture, too.", show_default=False)
    ] = None,
    every: Annotated[bool, typer.Option("--list", help="Say which desks there are, and which is here.")] = False,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Show the desk: a drawing to scale, and a table.

    Windows that no pointer can reach are marked as lost, and those of which nothing is seen as covered.
    With --list, the desks that Jaklet knows how to work on are listed instead.

    Example: jaklet desk --picture desk.png
    """
    if every:
        _list_desks(form)
        return
    from jaklet.cli.listener_calls import listener_status
    from jaklet.cli.place import write_picture
    from jaklet.cli.resources import opened_desk, opened_or_bare
    from jaklet.drawing.desks import desk_data, desk_text

    known = opened_or_bare(config, desk)
    with opened_desk(desk) as desktop:
        now = desktop.look().desk
    if form is OutputFormat.json:
        terminal.say_json(desk_data(now, known))
    else:
        told = listener_status(desk)
        arranged = told["arranged"] if told else None
        terminal.say(desk_text(now, known, terminal.columns(), terminal.ink_for(), arranged))
    if picture:
        write_picture(now, known, picture)


def _list_desks(form: OutputFormat) -> None:
    """Say which desks there are, how each is written, and whether it is here, or why not."""
    from jaklet.desktops.addresses import known_desks
    from jaklet.drawing.tables import table_text

    desks = known_desks()
    if form is OutputFormat.json:
        terminal.say_json([one._asdict() for one in desks])
        return
    rows = [(one.written, one.help, one.here or one.missing, "; ".join(one.cannot.values())) for one in desks]
    heads = ("--desk", "what it is", "here", "what it cannot do")
    terminal.say(table_text(heads, rows, terminal.table_columns(), terminal.ink_for()))
