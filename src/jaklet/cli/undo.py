"""jaklet undo"""

from typing import TYPE_CHECKING, Annotated, Any

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, DryRunOption, FormatOption, OutputFormat

if TYPE_CHECKING:
    from jaklet.core.actions.ports.history import UndoStep
    from jaklet.core.values.desk import Desk


def undo(
    listed: Annotated[bool, typer.Option("--list", help="List what can be undone, and do nothing.")] = False,
    config: ConfigOption = None,
    desk: DeskOption = None,
    dry_run: DryRunOption = False,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Put windows back as they were before the last placing action.

    Each further undo goes one step further back.

    Windows that are gone since are left out and named. Steps are kept until the X server ends.

    Example: jaklet undo --list
    """
    from jaklet.cli.desk import perform
    from jaklet.cli.resources import history_of, opened_config, opened_desk
    from jaklet.core.language.actions import parse_action

    with opened_desk(desk) as desktop:
        if not listed:
            done = perform(parse_action("undo"), opened_config(config, desk), desktop, dry_run)
            raise typer.Exit(0 if done else 1)
        steps = [step for _, step in history_of(desktop).steps()]
        now = desktop.look().desk
    if form is OutputFormat.json:
        terminal.say_json([_data(step, now) for step in steps])
    elif steps:
        _say(steps, now)
    else:
        terminal.say("there is nothing to undo")


def _data(step: "UndoStep", desk: "Desk") -> dict[str, Any]:
    return {
        "action": step.action,
        "at": round(step.at),
        "windows": [
            {"id": was.id, "name": was.name, "gone": was.id not in desk.by_id, "frame": was.frame._asdict()}
            for was in step.windows
        ],
    }


def _say(steps: "list[UndoStep]", desk: "Desk") -> None:
    from datetime import datetime

    from jaklet.core.values.words import printable
    from jaklet.drawing.tables import table_text

    rows = []
    for number, step in enumerate(steps, 1):
        names = [f"{was.name}{'' if was.id in desk.by_id else ' (gone)'}" for was in step.windows]
        when = datetime.fromtimestamp(step.at).strftime("%a %H:%M:%S")
        rows.append((str(number), when, printable(step.action), ", ".join(names) or "all"))
    heads = ("#", "done", "action", "puts back")
    terminal.say(table_text(heads, rows, terminal.table_columns(), terminal.ink_for()))
