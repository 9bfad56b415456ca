"""jaklet status, pause, resume, stop"""

from typing import Any

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, Format, FormatOption
from jaklet.cli.serving import ask
from jaklet.core.values.errors import JakletError

NO_LISTENER = 3  # exit status of `status` where none runs, as that of a service that is not there
SHOWN = 8  # last actions


def status(config: ConfigOption = None, desk: DeskOption = None, form: FormatOption = Format.text) -> None:
    """Say how the listener does: since when, its files, what is not in use yet, its last actions.

    Exit status 0: it listens. 1: something needs a look. 3: none runs on this desk.

    Example: jaklet status
    """
    from jaklet.cli.active import active, active_lines
    from jaklet.cli.resources import checked
    from jaklet.cli.serving import status as told_by_listener
    from jaklet.core.values.errors import UsageError

    told = told_by_listener(desk)
    if told is None:
        if form is Format.json:
            terminal.say_json({"listening": False})
        else:
            terminal.warn("no listener is running on this desk: jaklet listen")
        raise typer.Exit(NO_LISTENER)
    pending: dict[str, Any] | None = None
    lines: list[str] = []
    try:
        result = checked(config or told.get("config"), desk)
        pending, lines = active(result, desk), active_lines(result, desk)
    except UsageError as fault:
        lines = [f"its config cannot be read any more: {fault.message}"]
    waits = bool(pending and (pending["added"] or pending["gone"])) or pending is None
    if form is Format.json:
        terminal.say_json({"listening": True, **told, "pending": pending})
    else:
        _show(told, lines)
    raise typer.Exit(1 if waits or told.get("refused") or told.get("paused") else 0)


def _show(told: dict[str, Any], lines: list[str]) -> None:
    from datetime import datetime

    from jaklet.core.values.words import cut, printable
    from jaklet.drawing.layouts import when

    ink, since = terminal.ink_for(), when(told.get("since"))
    state = ink("paused", "warning") if told.get("paused") else ink("listening", "good")
    terminal.say(f"{state} on {told.get('desk')} since {since} (process {told.get('pid')})")
    refused = told.get("refused", {})
    rows = [
        ("config", f"{told.get('config')}{', watched for changes' if told.get('watching') else ''}"),
        ("bindings", f"{len(told.get('bindings', ()))}, {len(told.get('chords', ()))} chords held"),
        ("layer", told.get("layer") or "none"),
        ("layout", told.get("layout") or "none"),
    ]
    rows += [("keyboard", f"kept from programs, as {told['keyboard']}")] if told["keyboard"] else []
    rows += [("under way", one) for one in told.get("under way", ())]
    rows += [("refused", f"{chord}: {reason}") for chord, reason in refused.items()]
    rows += [("finding", line) for line in told.get("warnings", ())]
    for label, text in rows:
        terminal.say(f"  {label:<10} {cut(printable(str(text)), terminal.columns() - 13)}")
    for line in lines:
        terminal.say(f"  {printable(line)}")
    actions = told.get("actions", [])[-SHOWN:]
    if actions:
        terminal.say("last actions")
    for one in actions:
        clock = datetime.fromtimestamp(one["at"]).strftime("%H:%M:%S")
        mark = "" if one["done"] else ink("failed: ", "error")
        head = f"{one['keys'] or '-':<16} {one['action']}"
        took = f"{one['seconds'] * 1000:.0f} ms" if one["seconds"] < 10 else f"{one['seconds']:.0f} s"
        terminal.say(f"  {clock} {took:>8}  {cut(printable(head), 46):<46}  {mark}{cut(printable(one['line']), 60)}")


def pause() -> None:
    """Let the listener take no notice of keys and events, until `jaklet resume`.

    A chord bound to `pause` or `resume` stays live meanwhile. What is under way goes on.

    Example: jaklet pause
    """
    ask("pause")
    terminal.say("paused: keys and events are let be; jaklet resume ends it")


def resume() -> None:
    """End a pause.

    Example: jaklet resume
    """
    ask("resume")
    terminal.say("listening again")


def stop() -> None:
    """End the listener of this desk; all chords are free again.

    Example: jaklet stop
    """
    import time

    from jaklet.cli.serving import status as told_by_listener

    ask("stop")
    until = time.monotonic() + 5
    while told_by_listener(None) is not None:
        if time.monotonic() > until:
            raise JakletError("the listener was asked to stop, and has not", "see `jaklet status`")
        time.sleep(0.02)
    terminal.say("stopped: all chords are free again")
