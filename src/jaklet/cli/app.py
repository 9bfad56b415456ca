"""The Typer app: commands by name, and how errors become exit statuses.

Only the command that is meant is loaded: to describe all of them to Typer takes longer than most of them take.
"""

import os
import sys
from collections.abc import Iterable, Mapping
from importlib import import_module
from typing import Annotated, Any

import typer
from typer.core import TyperGroup

from jaklet import __version__
from jaklet.cli import terminal
from jaklet.core.values.errors import UsageError
from jaklet.core.values.words import did_you_mean, either, nearest
from jaklet.locations import COMPLETES

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
            remedy = self._elsewhere(args[0]) if ctx.parent is None else ""
            shown = sorted(name for name, one in self.commands.items() if not one.hidden)
            known = f"commands are {either(shown)}"
            remedy = remedy or did_you_mean(args[0], self.commands, known, likeness=0.5)
            path = " ".join([*ctx.command_path.split()[1:], args[0]])
            raise UsageError(f"there is no command {path!r}", remedy)
        return super().resolve_command(ctx, args)

    def format_commands(self, ctx: Any, formatter: Any) -> None:
        """Write the commands under headings, by what people want."""
        if ctx.parent is not None:
            super().format_commands(ctx, formatter)
            return
        width = max(map(len, COMMANDS))
        for heading, names in HEADINGS.items():
            rows = [(f"{name:<{width}}", self.commands[name]) for name in names if name in self.commands]
            told = [(name, one.get_short_help_str(formatter.width - 6 - width)) for name, one in rows]
            if told:
                with formatter.section(heading):
                    formatter.write_dl(told)

    def _elsewhere(self, word: str) -> str:
        """Return how a word is used that is the command of a group, or the verb of an action; empty for others."""
        from jaklet.core.language.verbs import VERBS

        inside = {name: [*getattr(one, "commands", ())] for name, one in self.commands.items()}
        known = {*VERBS, *(command for commands in inside.values() for command in commands)}
        near = [word] if word in known else nearest(word, known, most=1, likeness=0.75)
        if not near or (near != [word] and nearest(word, self.commands, likeness=0.75)):
            return ""
        ways = [f"jaklet {name} {near[0]}" for name, commands in inside.items() if near[0] in commands]
        ways += [f'jaklet act "{near[0]} …"'] if near[0] in VERBS else []
        return f"did you mean {either(ways)}?"


VERBOSE = "--verbose"


def _version(asked: bool) -> None:
    if asked:
        terminal.say(f"jaklet {__version__}")
        if VERBOSE in sys.argv:
            from jaklet.cli.about import about

            terminal.say("\n".join(about()))
        raise typer.Exit


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


# Each command or group of commands, and where it is: the modules, the first of which has a function
# of this name, or a group `commands`.
COMMANDS: Mapping[str, tuple[str, ...]] = {
    **{name: (name,) for name in ("init", "check", "doctor", "explain", "schema", "lsp", "listen")},
    "reload": ("listen",), "status": ("status",), "pause": ("status",), "resume": ("status",), "stop": ("status",),
    "autostart": ("autostart",), "act": ("desk",), "fire": ("desk",), "rehearse": ("rehearse",), "trial": ("trial",),
    "desk": ("desk",), "undo": ("undo",), "pick": ("pick",), "practise": ("practise",), "demo": ("demo",),
    "overlay": ("overlay",), "set-up": ("set_up",),
    "apps": ("apps",), "keys": ("keys", "keys_drawing", "keys_suggest"), "use": ("use",), "place": ("place",),
    "layout": ("layout", "layout_compare", "layout_versions"), "tabletop": ("tabletop",),
}  # fmt: skip
# The headings of the help, by what people want. A command that only programs call is under none.
HEADINGS: Mapping[str, tuple[str, ...]] = {
    "Every day": (
        "check",
        "listen",
        "status",
        "reload",
        "pause",
        "resume",
        "stop",
        "act",
        "fire",
        "undo",
        "pick",
        "desk",
    ),
    "Keys": ("keys", "use", "practise"),
    "Layouts and places": ("layout", "place", "apps"),
    "Try first": ("demo", "rehearse", "trial", "tabletop"),
    "Set-up": ("init", "set-up", "doctor", "autostart", "explain"),
    "For other programs": ("schema", "lsp"),
}
HIDDEN = tuple(name for name in COMMANDS if not any(name in names for names in HEADINGS.values()))


def app_with(names: Iterable[str]) -> typer.Typer:
    """Return the app with these commands."""
    app = typer.Typer(
        cls=_Commands,
        no_args_is_help=True,
        help=HELP,
        rich_markup_mode=None,
        pretty_exceptions_enable=False,
        add_completion=True,
    )
    app.callback()(options)
    for name in names:
        module, *_ = [import_module(f"jaklet.cli.{part}") for part in COMMANDS[name]]
        group = getattr(module, "commands", None)
        if group:
            own = group.info.cls
            app.add_typer(group, name=name, cls=own if isinstance(own, type) else _Commands)
        else:
            app.command(hidden=name in HIDDEN)(getattr(module, name.replace("-", "_")))
    return app


def commands_for(words: list[str]) -> Iterable[str]:
    """Return the commands that are needed for these words: the one that is meant, else all, as help names them."""
    if words and words[0] in COMMANDS:
        return words[:1]
    return () if "--version" in words else COMMANDS


def main() -> None:
    """Run the command line."""
    words = [] if COMPLETES in os.environ else sys.argv[1:]  # a shell asks by its environment
    with terminal.faults_told():
        app_with(commands_for(words))(prog_name="jaklet")
