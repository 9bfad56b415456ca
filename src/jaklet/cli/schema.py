"""jaklet schema"""

from typing import Annotated

import typer

from jaklet.cli import terminal
from jaklet.core.values.errors import UsageError
from jaklet.core.values.words import did_you_mean, either

TABLETOP = "tabletop"


def schema(
    kind: Annotated[str, typer.Argument(metavar="[config|layout|trial|tabletop]", help="Of which file.")] = "config",
) -> None:
    """Print the JSON Schema of a file that you write, for editors that know YAML.

    It is made from the tables by which Jaklet reads the file. In many editors this line at the top of a file is enough:
    # yaml-language-server: $schema=jaklet.schema.json

    Example: jaklet schema > ~/.config/jaklet/jaklet.schema.json
    """
    from jaklet.config.schema import SCHEMAS
    from jaklet.desktops.tabletop.schema import tabletop_schema

    every = {**SCHEMAS, TABLETOP: tabletop_schema}
    if kind not in every:
        raise UsageError(f"there is no schema of {kind!r}", did_you_mean(kind, every, f"there are {either([*every])}"))
    terminal.say_json(every[kind]())
