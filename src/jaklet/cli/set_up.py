"""jaklet set-up: what a desk needs once, before Jaklet can work on it."""

from typing import Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import FormatOption, OutputFormat
from jaklet.core.values.errors import UsageError
from jaklet.core.values.words import either


def set_up(
    desk: Annotated[
        str | None,
        typer.Argument(
            metavar="[DESK]", help="Which kind: gnome. Without it: say what each needs.", show_default=False
        ),
    ] = None,
    remove: Annotated[bool, typer.Option("--remove", help="Take out again what was set up.")] = False,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Do what a desk needs once, before Jaklet can work on it.

    GNOME needs an extension in its shell. X11 and Plasma need nothing.

    Example: jaklet set-up gnome
    """
    from jaklet.desktops.addresses import KINDS

    if desk is None:
        if remove:
            raise UsageError("--remove is about one kind of desk", "jaklet set-up gnome --remove")
        _say_needs(form)
        return
    kind = KINDS.get(desk)
    if kind is None or kind.here is None:
        known = either([name for name, one in KINDS.items() if one.set_up])
        raise UsageError(f"there is no kind of desk called {desk!r} that is set up", f"jaklet set-up {known}")
    does = kind.take_out if remove else kind.set_up
    lines = list(does()) if does else []
    if form is OutputFormat.json:
        terminal.say_json({"desk": desk, "done": lines})
        return
    terminal.say("\n".join(lines) or ("nothing was set up" if remove else f"{kind.written} needs nothing"))


def _say_needs(form: OutputFormat) -> None:
    from jaklet.desktops.addresses import KINDS

    needs = {name: list(one.grants()) if one.grants else [] for name, one in KINDS.items() if one.here}
    if form is OutputFormat.json:
        terminal.say_json(needs)
        return
    for name, lines in needs.items():
        first, *more = lines or ["nothing is needed"]
        terminal.say("\n".join([f"{name}: {first}", *(f"  {line}" for line in more)]))
