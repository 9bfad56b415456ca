"""jaklet layout history, restore, rename, copy, remove, edit"""

from typing import TYPE_CHECKING, Annotated, Any

import typer

from jaklet.cli import terminal
from jaklet.cli.layout import NameArgument, commands
from jaklet.cli.options import ConfigOption, FormatOption, OutputFormat
from jaklet.core.values.errors import JakletError, UsageError

if TYPE_CHECKING:
    from pathlib import Path

    from jaklet.cli.resources import OpenedConfig
    from jaklet.core.values.findings import Finding
    from jaklet.core.values.layouts import PastVersion

NewNameArgument = Annotated[str, typer.Argument(metavar="NEW", help="The new name.", show_default=False)]


@commands.command()
def history(
    name: Annotated[
        str | None, typer.Argument(metavar="[NAME]", help="The layout; without it, all.", show_default=False)
    ] = None,
    config: ConfigOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """List the versions of a layout, and what changed with each. Removed layouts have theirs still.

    Example: jaklet layout history departures
    """
    from jaklet.cli.resources import opened_config
    from jaklet.drawing.histories import histories_text, history_data, history_text

    ready = opened_config(config)
    shelf = ready.shelf
    if name is None:
        names = sorted({*shelf.names(), *shelf.versions.names()})
        counts = [(one, len(shelf.versions.of(one)), one in shelf.names()) for one in names]
        if form is OutputFormat.json:
            terminal.say_json(
                [{"layout": one, "versions": count, "removed": not there} for one, count, there in counts]
            )
        else:
            terminal.say(histories_text(counts, terminal.table_columns(), terminal.ink_for()))
        return
    past = _past(name, ready)
    if form is OutputFormat.json:
        terminal.say_json(history_data(past))
    else:
        terminal.say(history_text(name, past, terminal.table_columns(), terminal.ink_for()))


def _past(name: str, ready: "OpenedConfig") -> "list[PastVersion]":
    from jaklet.core.values.layouts import no_such_layout

    past = ready.shelf.past(name)
    if not past:
        raise JakletError(*no_such_layout(name, {*ready.shelf.names(), *ready.shelf.versions.names()}))
    return past


@commands.command()
def restore(
    version: Annotated[
        str, typer.Argument(metavar="NAME@N", help="A version; NAME alone is its last.", show_default=False)
    ],
    config: ConfigOption = None,
) -> None:
    """Put a former version in use again. What was in use is kept as a version.

    A layout that was removed comes back.

    Example: jaklet layout restore departures@3
    """
    from jaklet.cli.resources import opened_config

    name, _, number = version.partition("@")
    restored, former = opened_config(config).shelf.restore(name, number)
    kept = f"; what was in use is kept as {name}@{former}" if former else ""
    terminal.say(f"{name}@{restored} is in use again{kept}")


@commands.command()
def rename(name: NameArgument, new: NewNameArgument, config: ConfigOption = None) -> None:
    """Give a layout another name. Its history goes with it; keys that name it are listed.

    Example: jaklet layout rename departures "morning departures"
    """
    from jaklet.cli.resources import opened_config, uses_of_layouts

    ready = opened_config(config)
    ready.shelf.rename(name, new)
    uses_of_layouts().renamed(name, new)
    terminal.say(f"{name} is now {new}")
    for binding in ready.config.live:
        ref = binding.action.named("LAYOUT") or binding.action.named("NAME")
        if ref and ref.name == name:
            terminal.say(f"  {binding.written} still says: {binding.action} ({binding.spot})")


@commands.command()
def copy(name: NameArgument, new: NewNameArgument, config: ConfigOption = None) -> None:
    """Write a layout under another name, to start the next one from it. The copy has no number.

    Example: jaklet layout copy departures arrivals
    """
    from jaklet.cli.resources import opened_config

    opened_config(config).shelf.copy(name, new)
    terminal.say(f"{new} is as {name}, without a number; jaklet layout edit {_typed(new)} changes it")


@commands.command()
def remove(name: NameArgument, config: ConfigOption = None) -> None:
    """Take a layout away. It is kept in its history.

    Example: jaklet layout remove arrivals
    """
    from jaklet.cli.resources import opened_config

    number = opened_config(config).shelf.remove(name)
    terminal.say(f"{name} is removed, and kept as {name}@{number}: jaklet layout restore {_typed(name)}")


@commands.command()
def edit(name: NameArgument, config: ConfigOption = None) -> None:
    """Open a layout in $VISUAL or $EDITOR. It is checked then; with errors, the old one stays in use.

    Example: jaklet layout edit departures
    """
    import os
    import tempfile
    from pathlib import Path

    from jaklet.cli.resources import opened_config
    from jaklet.files import read_ordinary

    shelf = opened_config(config).shelf
    command = os.environ.get("VISUAL") or os.environ.get("EDITOR")
    if not command:
        raise UsageError("neither VISUAL nor EDITOR says which editor to use", "set one: export EDITOR=nano")
    path = shelf.path(name)
    before = read_ordinary(path).decode("utf-8", "replace")
    with tempfile.TemporaryDirectory() as folder:
        draft = Path(folder) / path.name
        draft.write_text(before, encoding="utf-8")
        _run_editor(command, draft)
        after = draft.read_text(encoding="utf-8", errors="replace")
    if after == before:
        terminal.say(f"{name} is unchanged")
        return
    faults = _faults(after, name, config)
    if faults:
        kept = path.with_name(f".{path.name}.draft")
        kept.write_text(after, encoding="utf-8")
        for fault in faults:
            terminal.warn(f"{fault.spot}: {fault.cause}; {fault.remedy}")
        raise JakletError(f"{name} is as it was, as the new text has errors", f"what you wrote is kept in {kept}")
    number = shelf.put_text(name, after)
    former = f"; the former version is kept as {name}@{number}" if number else ", and was gone meanwhile"
    terminal.say(f"{name} is changed{former}")


def _run_editor(command: str, path: "Path") -> None:
    import shlex
    import subprocess

    try:
        done = subprocess.run([*shlex.split(command), str(path)], check=False)
    except (OSError, ValueError) as fault:
        raise UsageError(
            f"the editor could not be started: {fault}", "set EDITOR to a program that is there"
        ) from fault
    if done.returncode:
        raise JakletError(f"the editor ended with status {done.returncode}", "nothing was changed")


def _faults(text: str, name: str, config: str | None) -> "list[Finding]":
    """Return the errors of a layout's text, those of what it names included."""
    from jaklet.cli.resources import opened_config
    from jaklet.core.values.findings import ERROR

    found = opened_config(config).shelf.check_text(name, text)
    return [fault for fault in found if fault.severity == ERROR]


def _typed(name: str) -> Any:
    return f'"{name}"' if " " in name else name
