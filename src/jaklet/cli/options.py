"""The options that several commands share. Typer reads these annotations at run time."""

from enum import StrEnum
from typing import Annotated

import typer


class Format(StrEnum):
    """How a command answers."""

    text = "text"
    json = "json"


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
        help="The desk to work on: x11, or tabletop:FILE.",
        show_default=False,
    ),
]
FormatOption = Annotated[Format, typer.Option("--format", help="Text for people, or JSON for scripts.")]
DryRunOption = Annotated[bool, typer.Option("--dry-run", help="Say what would change, and change nothing.")]
