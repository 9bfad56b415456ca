"""jaklet listen, reload"""

import gc
from typing import TYPE_CHECKING

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, KeyboardOption
from jaklet.cli.serving import desk_name
from jaklet.core.errors import UsageError

if TYPE_CHECKING:
    from jaklet.listener.loop import Loaded


def _only_x11(desk: str | None) -> None:
    from jaklet.cli.opening import tabletop_path

    if tabletop_path(desk):
        raise UsageError(
            "a tabletop has no keys to listen to", "use `jaklet press CHORD` on it, or listen on --desk x11"
        )


def listen(config: ConfigOption = None, desk: DeskOption = None, keyboard: KeyboardOption = None) -> None:
    """Hear the chords and do what they are bound to.

    It listens on the X server of $DISPLAY until it is stopped, by Ctrl+C or SIGTERM.
    SIGHUP or `jaklet reload` makes it read the config again; one with errors is refused, and the old one stays.

    Example: jaklet listen --config ~/.config/jaklet
    """
    from jaklet.checks.run import shelf_of
    from jaklet.cli.opening import checked, history_of, opened_desk, usable
    from jaklet.config.paths import locate
    from jaklet.drawing.findings import finding_line
    from jaklet.listener.loop import Listener, Loaded

    _only_x11(desk)
    first = checked(config, keyboards=keyboard or ())
    ready = usable(first)

    def load() -> "Loaded":
        result = checked(config, keyboards=keyboard or ())
        lines = tuple(finding_line(found) for found in result.findings)
        return Loaded(result.config if result.usable else None, lines)

    for found in first.findings:
        terminal.say_now(finding_line(found))
    with opened_desk("x11") as desktop:
        shelf, history = shelf_of(locate(config)), history_of(desktop)
        listener = Listener(desktop, desk_name(), first.path, ready, shelf, load, terminal.say_now, history)
        # What there is by now stays for the listener's life: it is set aside, and never looked through again.
        # The listener looks through the rest itself, when no key waits.
        gc.collect()
        gc.freeze()
        try:
            listener.run()
        finally:
            listener.close()


def reload(desk: DeskOption = None) -> None:
    """Make the listener read its config again.

    With errors in it, the old one stays, and the exit status is 1.

    Example: jaklet check && jaklet reload
    """
    from jaklet.listener.control import request, socket_path

    _only_x11(desk)
    path = socket_path(desk_name())
    if path is None:
        raise UsageError("XDG_RUNTIME_DIR is not set, so the listener cannot be found", "send it SIGHUP instead")
    answer = request(path, "reload")
    for line in answer["lines"]:
        (terminal.say if answer["done"] else terminal.warn)(line)
    raise typer.Exit(0 if answer["done"] else 1)
