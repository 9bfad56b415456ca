"""jaklet apps, apps explain, apps suggest"""

from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, FormatOption, OutputFormat
from jaklet.core.values.errors import DeskError, JakletError

if TYPE_CHECKING:
    from jaklet.core.values.config import Config
    from jaklet.core.values.desk import Desk, Window

commands = typer.Typer(rich_markup_mode=None, invoke_without_command=True)
WINDOW_HELP = "An id, `front`, an app, or a part of title or class."


@commands.callback()
def list_(
    context: typer.Context, config: ConfigOption = None, desk: DeskOption = None, form: FormatOption = OutputFormat.text
) -> None:
    """List apps with their windows and keys; tell whose a window is.

    Example: jaklet apps
    """
    if context.invoked_subcommand:
        return
    from jaklet.cli.resources import opened_or_bare
    from jaklet.drawing.app_tables import apps_data, apps_text

    known, now = opened_or_bare(config, desk), _desk(desk)
    if form is OutputFormat.json:
        terminal.say_json(apps_data(known, now))
    else:
        terminal.say(apps_text(known, now, terminal.table_columns(), terminal.ink_for()))


@commands.command()
def explain(
    window: Annotated[str, typer.Argument(metavar="WINDOW", help=WINDOW_HELP, show_default=False)],
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Say which app has a window, and how each rule judges it.

    Example: jaklet apps explain front
    """
    from jaklet.cli.resources import opened_desk, opened_or_bare
    from jaklet.drawing.app_tables import explain_data, explain_text

    known = opened_or_bare(config, desk)
    with opened_desk(desk) as desktop:
        now = desktop.look().desk
    windows = _meant(window, now, known)
    if form is OutputFormat.json:
        terminal.say_json([explain_data(one, now, known) for one in windows])
    else:
        terminal.say("\n\n".join(explain_text(one, now, known, terminal.ink_for()) for one in windows))


@commands.command()
def suggest(
    window: Annotated[
        str | None, typer.Argument(metavar="[WINDOW]", help=WINDOW_HELP + " All, if left out.", show_default=False)
    ] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
) -> None:
    """Write lines for `apps:`, for windows that no app claims.

    Example: jaklet apps suggest front
    """
    from jaklet.cli.resources import installed_programs, opened_desk, opened_or_bare
    from jaklet.core.language.app_entries import suggestions
    from jaklet.files import yaml_line

    known, programs = opened_or_bare(config, desk), installed_programs(desk)
    with opened_desk(desk) as desktop:
        now = desktop.look().desk
    chosen = _meant(window, now, known) if window else now.main_windows
    strays = [one for one in chosen if known.claims.app_of(one, now) is None]
    for one in chosen if window else ():
        if owner := known.claims.app_of(one, now):
            terminal.warn(f"window 0x{one.id:x} belongs to {owner} already")
    if not strays:
        if not window:
            terminal.warn("every window belongs to an app" if chosen else "there is no window")
        raise typer.Exit(1 if window else 0)
    terminal.say("apps:")
    for entry in suggestions(strays, known, programs.entries(), programs.has):
        terminal.say(f"  {entry.name}: {yaml_line(entry.keys)}{f'  # {entry.remark}' if entry.remark else ''}")


def _desk(desk: str | None) -> "Desk | None":
    """Return the desk; None, with a remark, where there is none to look at."""
    from jaklet.cli.resources import opened_desk

    try:
        with opened_desk(desk) as desktop:
            return desktop.look().desk
    except DeskError as fault:
        terminal.warn(f"windows are left out: {fault.message}")
        return None


def _meant(words: str, desk: "Desk", config: "Config") -> "tuple[Window, ...]":
    from jaklet.core.actions.window_search import windows_meant

    found = windows_meant(words, desk, config)
    if not found:
        raise JakletError(f"no window is meant by {words!r}", "`jaklet desk` shows them all")
    return found
