"""jaklet listen, reload"""

from typing import Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.listener_calls import ask_listener
from jaklet.cli.listening import ListenerOptions, only_real, run_listener
from jaklet.cli.options import ConfigOption, DeskOption, KeyboardOption


def listen(
    config: ConfigOption = None,
    desk: DeskOption = None,
    keyboard: KeyboardOption = None,
    watch: Annotated[bool, typer.Option("--watch", help="Read the config again when its files change.")] = False,
    restart: Annotated[bool, typer.Option("--restart", help="Begin again if it fails, a few times.")] = False,
) -> None:
    """Hear the chords and do what they are bound to.

    It listens on the desk that is here until it is stopped, by Ctrl+C, SIGTERM or `jaklet stop`.
    SIGHUP or `jaklet reload` makes it read the config again; one with errors is refused, and the old one stays.
    What it does stands in listener.log in the state folder, too: no keys but bound chords are ever recorded.

    Example: jaklet listen --config ~/.config/jaklet
    """
    raise typer.Exit(run_listener(ListenerOptions(config, desk, tuple(keyboard or ()), watch, restart)))


def reload(desk: DeskOption = None) -> None:
    """Make the listener read its config again.

    With errors in it, the old one stays, and the exit status is 1.

    Example: jaklet check && jaklet reload
    """
    only_real(desk)
    answer = ask_listener("reload")
    for line in answer["lines"]:
        (terminal.say if answer["done"] else terminal.warn)(line)
    raise typer.Exit(0 if answer["done"] else 1)
