"""jaklet layout save, recall, list, show"""

from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, DryRunOption, Format, FormatOption
from jaklet.core.errors import JakletError, StoreError

if TYPE_CHECKING:
    from jaklet.config.store import LayoutShelf
    from jaklet.core.layouts import Layout

layouts = typer.Typer(no_args_is_help=True, help="Save, recall, list and show layouts.", rich_markup_mode=None)
NameArgument = Annotated[str, typer.Argument(metavar="NAME", help="The layout's name.", show_default=False)]
WordArgument = Annotated[str, typer.Argument(metavar="NAME|N", help="The layout's name or number.", show_default=False)]


@layouts.command()
def save(
    name: NameArgument,
    number: Annotated[
        int | None, typer.Option("--number", min=1, max=999, help="The number that recalls it.", show_default=False)
    ] = None,
    note: Annotated[str | None, typer.Option("--note", help="A line about it.", show_default=False)] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
) -> None:
    """Keep the desk as it is under a name.

    A layout of that name keeps its number and note, and its former version is kept too.

    Example: jaklet layout save departures --number 1 --note "Berths large, radio beside"
    """
    from jaklet.cli.opening import opened, opened_desk
    from jaklet.core.recall import saved

    ready = opened(config, desk)
    former = ready.shelf.find(name)
    if former:
        name, number, note = former.name, number or former.number, former.note if note is None else note
    with opened_desk(desk) as desktop:
        outcome = saved(ready.context(desktop), desktop.look(), name=name, number=number, note=note or "")
    terminal.say_outcome(outcome)
    raise typer.Exit(0 if outcome.done else 1)


@layouts.command()
def recall(
    name: WordArgument, config: ConfigOption = None, desk: DeskOption = None, dry_run: DryRunOption = False
) -> None:
    """Set the desk up as a layout says.

    What is missing is launched; windows are placed, restacked and focused, and read back.

    Example: jaklet layout recall departures --dry-run
    """
    from jaklet.cli.desk import perform_task
    from jaklet.cli.opening import opened, opened_desk
    from jaklet.core.recall import recalled
    from jaklet.core.undoing import undoable

    ready = opened(config, desk)
    layout = found(name, ready.shelf)
    with opened_desk(desk) as desktop:
        done = perform_task(
            lambda context, moment: undoable(
                recalled(layout, context, moment), f"recall {layout.name}", context, moment
            ),
            ready, desktop, dry_run,
        )  # fmt: skip
    raise typer.Exit(0 if done else 1)


@layouts.command("list")
def list_(config: ConfigOption = None, form: FormatOption = Format.text) -> None:
    """List all layouts, and the keys to them.

    Example: jaklet layout list
    """
    from jaklet.cli.opening import opened
    from jaklet.drawing.layouts import layout_data, layout_keys, layouts_text

    ready = opened(config)
    every = []
    for name in ready.shelf.names():
        try:
            every += [layout] if (layout := ready.shelf.find(name)) else []
        except StoreError as fault:  # one layout at fault hides no other
            terminal.say_error(fault)
    every.sort(key=lambda layout: (layout.number is None, layout.number or 0, layout.name))
    keys = layout_keys(every, ready.config)
    if form is Format.json:
        terminal.say_json([layout_data(layout) | {"key": keys.get(layout.name)} for layout in every])
    elif every:
        terminal.say(layouts_text(every, keys, terminal.table_columns(), terminal.ink_for()))
    else:
        terminal.say("no layouts yet; arrange the desk, then: jaklet layout save NAME")


@layouts.command()
def show(name: WordArgument, config: ConfigOption = None, form: FormatOption = Format.text) -> None:
    """Show what a layout holds. NAME@2 shows the second version that was saved over.

    Example: jaklet layout show departures
    """
    from jaklet.cli.opening import opened
    from jaklet.drawing.layouts import layout_data, layout_text

    layout = found(name, opened(config).shelf)
    if form is Format.json:
        terminal.say_json(layout_data(layout))
    else:
        terminal.say(layout_text(layout, terminal.table_columns(), terminal.ink_for()))


def found(word: str, shelf: "LayoutShelf") -> "Layout":
    """Return the layout with this name or number; raises with the nearest name where there is none."""
    layout = shelf.find(word)
    if layout is None:
        from jaklet.core.layouts import no_such_layout

        raise JakletError(*no_such_layout(word, shelf.names()))
    return layout
