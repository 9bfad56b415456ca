"""The Typer app: commands by name, and how errors become exit statuses."""

import sys
from typing import Annotated, Any

import typer
from typer.core import TyperGroup

from jaklet import __version__
from jaklet.cli import keys_drawing, keys_suggest, layout_compare, layout_versions, terminal  # noqa: F401  # they add commands
from jaklet.cli.about import about
from jaklet.cli.apps import apps
from jaklet.cli.autostart import autostart
from jaklet.cli.check import check
from jaklet.cli.demo import demo
from jaklet.cli.desk import act, desk, fire
from jaklet.cli.doctor import doctor
from jaklet.cli.explain import explain
from jaklet.cli.init import init
from jaklet.cli.keys import keys
from jaklet.cli.layout import layouts
from jaklet.cli.listen import listen, reload
from jaklet.cli.lsp import lsp
from jaklet.cli.overlay import overlay
from jaklet.cli.pick import pick
from jaklet.cli.place import places
from jaklet.cli.practise import practise
from jaklet.cli.rehearse import rehearse
from jaklet.cli.schema import schema
from jaklet.cli.status import pause, resume, status, stop
from jaklet.cli.tabletop import tabletops
from jaklet.cli.trial import trial
from jaklet.cli.undo import undo
from jaklet.cli.use import use
from jaklet.core.values.errors import UsageError
from jaklet.core.values.words import did_you_mean, either

HELP = """Hotkeys, window places and named layouts, checked before use.

Write a first config, check it, then listen:

  jaklet init && jaklet check && jaklet listen

Without a desktop of your own, see it all on a simulated one: jaklet demo
"""


class _Commands(TyperGroup):
    """All commands; a word that is none of them is told of with those that are like it."""

    def resolve_command(self, ctx: Any, args: list[str]) -> Any:
        """Return the command that is meant; raises `UsageError`."""
        if args and not args[0].startswith("-") and args[0] not in self.commands:
            remedy = did_you_mean(args[0], self.commands, f"commands are {either(sorted(self.commands))}", likeness=0.5)
            raise UsageError(f"there is no command {args[0]!r}", remedy)
        return super().resolve_command(ctx, args)


app = typer.Typer(
    cls=_Commands,
    no_args_is_help=True,
    help=HELP,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    add_completion=True,
)


VERBOSE = "--verbose"


def _version(asked: bool) -> None:
    if asked:
        terminal.say(f"jaklet {__version__}")
        for line in about() if VERBOSE in sys.argv else ():
            terminal.say(line)
        raise typer.Exit


@app.callback()
def options(
    version: Annotated[  # noqa: ARG001  # its callback has answered already
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Print the version.")
    ] = False,
    verbose: Annotated[
        bool, typer.Option(VERBOSE, help="With --version: what it runs on, for a report of a fault.")
    ] = False,
) -> None:
    """Global options."""
    if verbose:
        raise UsageError("--verbose is about --version", "jaklet --version --verbose")


COMMANDS = (
    *(init, check, doctor, explain, schema, lsp),
    *(listen, reload, status, pause, resume, stop, autostart),
    *(act, fire, rehearse, trial, desk, undo, pick, practise, demo),
)
for command in COMMANDS:
    app.command()(command)
app.command(hidden=True)(overlay)
app.add_typer(apps, name="apps")
app.add_typer(keys, name="keys")
app.add_typer(use, name="use")
app.add_typer(places, name="place")
app.add_typer(layouts, name="layout")
app.add_typer(tabletops, name="tabletop")


def main() -> None:
    """Run the command line."""
    with terminal.faults_told():
        app(prog_name="jaklet")
