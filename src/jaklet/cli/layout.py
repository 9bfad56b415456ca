"""jaklet layout save, recall, list, show"""

from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import (
    ConfigOption,
    DeskOption,
    DryRunOption,
    FormatOption,
    OnOption,
    OutputFormat,
    WordArgument,
)
from jaklet.core.values.errors import JakletError, SentenceError, StoreError, UsageError

if TYPE_CHECKING:
    from jaklet.cli.resources import OpenedConfig
    from jaklet.core.actions.layouts.capturing import Selection
    from jaklet.core.values.desk import Desk
    from jaklet.core.values.layouts import Layout, LayoutEntry

commands = typer.Typer(
    no_args_is_help=True, help="Save, recall, compare, draw and keep layouts.", rich_markup_mode=None
)
NameArgument = Annotated[str, typer.Argument(metavar="NAME", help="The layout's name.", show_default=False)]


@commands.command()
def save(
    name: NameArgument,
    number: Annotated[
        int | None, typer.Option("--number", min=1, max=999, help="The number that recalls it.", show_default=False)
    ] = None,
    note: Annotated[str | None, typer.Option("--note", help="A line about it.", show_default=False)] = None,
    only: Annotated[
        str | None,
        typer.Option(
            "--only", metavar="PARTS", help="Keep only: place,workspace,order,focus,state.", show_default=False
        ),
    ] = None,
    app: Annotated[
        list[str] | None, typer.Option("--app", metavar="APP", help="Only this app's windows.", show_default=False)
    ] = None,
    display: Annotated[
        list[str] | None,
        typer.Option("--display", metavar="DISPLAY", help="Only what is on this display.", show_default=False),
    ] = None,
    active: Annotated[bool, typer.Option("--active", help="Only the window that has the focus.")] = False,
    also: Annotated[
        list[str] | None,
        typer.Option(
            "--also", metavar="WINDOW", help='A window that is not open: "tides full on quay".', show_default=False
        ),
    ] = None,
    preview: Annotated[bool, typer.Option("--preview", help="Show what would be kept, and keep nothing.")] = False,
    sure: Annotated[bool, typer.Option("--sure", help="Take the number from a layout that has it.")] = False,
    config: ConfigOption = None,
    desk: DeskOption = None,
) -> None:
    """Keep the desk as it is under a name.

    A layout of that name keeps its number, its note and what is written into it by hand, and its former version is kept
    too. On other displays than it was saved on it gets a second arrangement; the first one stays.

    Example: jaklet layout save departures --number 1 --note "Berths large, radio beside"
    """
    from jaklet.cli.listener_calls import kept_by_listener
    from jaklet.cli.resources import opened_config, opened_desk
    from jaklet.core.actions.layouts.capturing import caught_in_parts, layout_summary
    from jaklet.core.actions.layouts.saving import SaveRequest, capture_to_save, save_layout
    from jaklet.core.actions.tasks import TaskOutcome

    ready = opened_config(config, desk)
    former = ready.shelf.find(name)
    wanted = SaveRequest(
        former.name if former else name,
        number,
        note,
        _selection(only, app or [], display or [], active, ready),
        tuple(_unopened(text, ready) for text in also or ()),
        sure,
    )
    with opened_desk(desk) as desktop:
        moment = desktop.look()
        context = ready.context(desktop)._replace(kept=lambda: kept_by_listener(desk))
        if preview:
            new = capture_to_save(context, moment, wanted)
            more = (*caught_in_parts(new.here), *new.remarks)
            outcome = TaskOutcome(True, f"{wanted.name} would hold: {layout_summary(new.here)}", more)
        else:
            outcome = save_layout(context, moment, wanted)
    terminal.say_outcome(outcome)
    raise typer.Exit(0 if outcome.done else 1)


def _selection(
    only: str | None, apps: list[str], displays: list[str], active: bool, ready: "OpenedConfig"
) -> "Selection":
    """Return the selection of windows and parts to save; raises `UsageError` for one that is not there."""
    from jaklet.core.actions.layouts.capturing import Selection
    from jaklet.core.values.layouts import PARTS
    from jaklet.core.values.words import did_you_mean, either

    parts = None if only is None else frozenset(part.strip() for part in only.split(","))
    for word, known, what in (
        *((part, PARTS, "part") for part in sorted(parts or ())),
        *((app, ready.config.apps, "app") for app in apps),
    ):
        if word not in known:
            raise UsageError(f"there is no {what} {word!r}", did_you_mean(word, known, f"use {either(list(known))}"))
    return Selection(parts, tuple(apps), tuple(displays), active)


def _unopened(text: str, ready: "OpenedConfig") -> "LayoutEntry":
    """Return the entry for `APP PLACE`, a window that is not open; raises `UsageError`."""
    from jaklet.core.language.actions import parse_action
    from jaklet.core.values.layouts import SKIP, LayoutEntry

    try:
        action = parse_action(f"place {text}")
    except SentenceError as fault:
        raise UsageError(f"{text}: {fault.message}", 'write app and place, such as "tides full on quay"') from fault
    app, place = action.named("APP"), action.named("PLACE")
    if app is None or place is None or app.name not in ready.config.apps:
        raise UsageError(f"{text!r} names no app of the config", 'write app and place, such as "tides full on quay"')
    return LayoutEntry(app.name, None, None, place.place, missing=SKIP)


@commands.command()
def recall(
    name: Annotated[
        str, typer.Argument(metavar="NAME|N|last|home", help="The layout; NAME@2 a version.", show_default=False)
    ],
    config: ConfigOption = None,
    desk: DeskOption = None,
    dry_run: DryRunOption = False,
) -> None:
    """Set the desk up as a layout says.

    What is missing is launched; windows are placed, restacked and focused, and read back. `last` is the layout that
    stood before the present one, `home` the one that is marked so.

    Example: jaklet layout recall departures --dry-run
    """
    from jaklet.cli.desk import perform
    from jaklet.cli.resources import opened_config, opened_desk
    from jaklet.core.actions.requests import recalling

    ready = opened_config(config, desk)
    with opened_desk(desk) as desktop:
        done = perform(recalling(name), ready, desktop, dry_run)
    raise typer.Exit(0 if done else 1)


@commands.command("list")
def list_(config: ConfigOption = None, desk: DeskOption = None, form: FormatOption = OutputFormat.text) -> None:
    """List all layouts with the keys to them.

    Whether they fit the displays that are there, and when they were used.

    Layouts without a key and keys without a layout are marked.

    Example: jaklet layout list
    """
    from jaklet.cli.resources import last_uses, opened_config
    from jaklet.drawing.layout_tables import layout_data, layouts_text, listing

    ready = opened_config(config, desk)
    every = []
    for name in ready.shelf.names():
        try:
            every += [layout] if (layout := ready.shelf.find(name)) else []
        except StoreError as fault:  # one layout at fault hides no other
            terminal.say_error(fault)
    every.sort(key=lambda layout: (layout.number is None, layout.number or 0, layout.name))
    rows = listing(every, ready.config, present(desk), last_uses())
    if form is OutputFormat.json:
        terminal.say_json([layout_data(row.layout) | row.data() for row in rows])
    elif every:
        terminal.say(layouts_text(rows, ready.config, terminal.table_columns(), terminal.ink_for()))
    else:
        terminal.say("no layouts yet; arrange the desk, then: jaklet layout save NAME")


@commands.command()
def show(
    name: WordArgument,
    on: OnOption = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Show what a layout holds. NAME@2 shows the second version that was saved over.

    With --on, what it would be on displays that need not be there.

    Example: jaklet layout show departures --on "main 1366x768"
    """
    from jaklet.cli.resources import opened_config
    from jaklet.core.actions.layouts.displays import present_for, stood_in_for
    from jaklet.core.actions.layouts.imagining import imagine_desk, parse_displays
    from jaklet.core.actions.requests import layout_asked
    from jaklet.drawing.desks import desk_data, desk_text
    from jaklet.drawing.layout_tables import layout_data, layout_text

    ready = opened_config(config, desk)
    layout = sound_layout(name, ready) if on else layout_asked(name, ready.shelf)
    if on:
        would_be = imagine_desk(layout, parse_displays(on, ready.config), ready.config)
        if form is OutputFormat.json:
            terminal.say_json(desk_data(would_be, ready.config))
        else:
            terminal.say(desk_text(would_be, ready.config, terminal.columns(), terminal.ink_for()))
            for line in stood_in_for(present_for(layout, would_be, ready.config).entries, would_be, ready.config):
                terminal.say(line)
    elif form is OutputFormat.json:
        terminal.say_json(layout_data(layout))
    else:
        terminal.say(layout_text(layout, terminal.table_columns(), terminal.ink_for()))


def sound_layout(word: str, ready: "OpenedConfig") -> "Layout":
    """Return a layout whose places are all defined; raises `JakletError`."""
    from jaklet.core.actions.layouts.plans import unknown
    from jaklet.core.actions.layouts.recall import UNKNOWN_REMEDY
    from jaklet.core.actions.requests import layout_asked

    layout = layout_asked(word, ready.shelf)
    if missing := unknown(layout, ready.config):
        raise JakletError(f"{layout.name} names what is not there: {missing}", UNKNOWN_REMEDY)
    return layout


def present(desk: str | None) -> "Desk | None":
    """Return the desk if there is one: some answers can do without."""
    from jaklet.cli.resources import opened_desk
    from jaklet.core.values.errors import DeskError

    try:
        with opened_desk(desk) as desktop:
            return desktop.look().desk
    except DeskError:
        return None
