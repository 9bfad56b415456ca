"""jaklet schema"""

from collections.abc import Callable
from typing import Annotated, Any

import typer

from jaklet.cli import terminal
from jaklet.config.paths import TABLETOP
from jaklet.core.values.errors import UsageError
from jaklet.core.values.words import did_you_mean, either

SOCKET = "socket"


def of_files() -> dict[str, Callable[[], Any]]:
    """Return the functions that make the schema of each kind of file."""
    from jaklet.config.schema import SCHEMAS
    from jaklet.desktops.tabletop.reading import tabletop_schema

    return {**SCHEMAS, TABLETOP: tabletop_schema}


def schema(
    kind: Annotated[
        str, typer.Argument(metavar="[config|layout|trial|tabletop|socket]", help="Of which file.")
    ] = "config",
) -> None:
    """Print the JSON Schema of a file that you write.

    For editors that know YAML; or, with `socket`, what a listener can be asked.

    It is made from the tables by which Jaklet reads the file; `socket` is in the form of OpenRPC.
    In many editors this line at the top of a file is enough: # yaml-language-server: $schema=jaklet.schema.json

    Example: jaklet schema > ~/.config/jaklet/jaklet.schema.json
    """
    from jaklet import __version__
    from jaklet.listener.openrpc import openrpc_document

    every = of_files()
    every[SOCKET] = lambda: openrpc_document(__version__)
    if kind not in every:
        raise UsageError(f"there is no schema of {kind!r}", did_you_mean(kind, every, f"there are {either([*every])}"))
    terminal.say_json(every[kind]())
