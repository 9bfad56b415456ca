"""The options that several commands share. Typer reads these annotations at run time."""

from enum import StrEnum
from typing import Annotated, Any

import typer
from typer.core import TyperGroup


class OutputFormat(StrEnum):
    """How a command answers."""

    text = "text"
    json = "json"


class ReportFormat(StrEnum):
    """How a check answers."""

    text = "text"
    json = "json"
    jsonl = "jsonl"
    sarif = "sarif"


ConfigOption = Annotated[
    str | None,
    typer.Option(
        "--config",
        metavar="PATH",
        envvar="JAKLET_CONFIG",
        help="The config: a file, or a folder with jaklet.yaml in it.",
        show_default=False,
    ),
]
DeskOption = Annotated[
    str | None,
    typer.Option(
        "--desk",
        metavar="DESK",
        envvar="JAKLET_DESK",
        help="The desk to work on: x11, plasma, gnome, or tabletop:FILE.",
        show_default=False,
    ),
]
FormatOption = Annotated[OutputFormat, typer.Option("--format", help="Text for people, or JSON for scripts.")]
KeyboardOption = Annotated[
    list[str] | None,
    typer.Option(
        "--keyboard",
        metavar="NAME",
        help="Keyboards to look at, instead of the config's: fr, `de small laptop`, or `this` for the running one.",
        show_default=False,
    ),
]
WordArgument = Annotated[
    str, typer.Argument(metavar="NAME|N", help="The layout's name or number, or NAME@2.", show_default=False)
]
OnOption = Annotated[
    str | None,
    typer.Option(
        "--on", metavar="DISPLAYS", help='For displays such as "main 1920x1080, quay 1280x1024".', show_default=False
    ),
]
DryRunOption = Annotated[bool, typer.Option("--dry-run", help="Say what would change, and change nothing.")]


def first_is(name: str) -> type[TyperGroup]:
    """Return a group of commands of which this one is meant where no other is named: `jaklet keys radio`."""

    class DefaultCommandGroup(TyperGroup):
        usual = name

        def parse_args(self, ctx: Any, args: list[str]) -> list[str]:
            """Take the words for that command's, unless the first one is a command or asks for help."""
            if not args or (args[0] not in self.commands and args[0] not in ctx.help_option_names):
                args = [name, *args]
            rest: list[str] = super().parse_args(ctx, args)
            return rest

    return DefaultCommandGroup
