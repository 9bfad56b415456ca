"""jaklet status, pause, resume, stop"""

from typing import Any

import typer

from jaklet.cli import terminal
from jaklet.cli.listener_calls import ask_listener
from jaklet.cli.options import ConfigOption, DeskOption, FormatOption, OutputFormat
from jaklet.core.values.errors import JakletError

NO_LISTENER = 3  # exit status of `status` where none runs, as that of a service that is not there


def status(config: ConfigOption = None, desk: DeskOption = None, form: FormatOption = OutputFormat.text) -> None:
    """Say how the listener does.

    Since when it runs, its files, what is not in use yet, its last actions.

    Exit status 0: it listens. 1: something needs a look. 3: none runs on this desk.

    Example: jaklet status
    """
    from jaklet.cli.active import active_lines, changes_not_in_use
    from jaklet.cli.listener_calls import left_behind, listener_status
    from jaklet.cli.resources import checked_config
    from jaklet.core.values.errors import UsageError
    from jaklet.drawing.status import status_text

    told = listener_status(desk)
    if told is None:
        if form is OutputFormat.json:
            terminal.say_json({"listening": False})
        else:
            terminal.warn("no listener is running on this desk: jaklet listen")
            for line in left_behind(desk):
                terminal.warn(f"{line}; `jaklet stop` gives it back")
        raise typer.Exit(NO_LISTENER)
    pending: dict[str, Any] | None = None
    lines: list[str] = []
    try:
        result = checked_config(config or told.get("config"), desk)
        pending, lines = changes_not_in_use(result, desk), active_lines(result, desk)
    except UsageError as fault:
        lines = [f"its config cannot be read any more: {fault.message}"]
    waits = pending is None or bool(pending["added"] or pending["gone"]) or not pending["current"]
    if form is OutputFormat.json:
        terminal.say_json({"listening": True, **told, "pending": pending})
    else:
        terminal.say(status_text(told, lines, terminal.columns(), terminal.ink_for()))
    raise typer.Exit(1 if waits or told.get("refused") or told.get("paused") else 0)


def pause() -> None:
    """Let the listener take no notice of keys until `jaklet resume`.

    Nor of events.

    A chord bound to `pause` or `resume` stays live meanwhile. What is under way goes on.

    Example: jaklet pause
    """
    ask_listener("pause")
    terminal.say("paused: keys and events are let be; jaklet resume ends it")


def resume() -> None:
    """End a pause.

    Example: jaklet resume
    """
    ask_listener("resume")
    terminal.say("listening again")


def stop() -> None:
    """End the listener of this desk; all chords are free again.

    Example: jaklet stop
    """
    import time

    from jaklet.cli.listener_calls import listener_status, tidy_after_listener

    if listener_status(None) is None and tidy_after_listener():
        return
    ask_listener("stop")
    until = time.monotonic() + 5
    while listener_status(None) is not None:
        if time.monotonic() > until:
            raise JakletError("the listener was asked to stop, and has not", "see `jaklet status`")
        time.sleep(0.02)
    terminal.say("stopped: all chords are free again")
