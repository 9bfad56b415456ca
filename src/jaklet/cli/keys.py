"""jaklet keys"""

from typing import Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, Format, FormatOption
from jaklet.core.errors import UsageError


def keys(
    words: Annotated[
        list[str] | None,
        typer.Argument(metavar="[WORD]...", help="Only lines with all of these words.", show_default=False),
    ] = None,
    app: Annotated[str | None, typer.Option("--app", help="Only what is about this app.", show_default=False)] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: FormatOption = Format.text,
) -> None:
    """Show the sheet of all keys and typed words, under their headings.

    A word can be part of a key, an action, a note or a heading: `super`, `recall`, `radio`.

    Example: jaklet keys radio
    """
    from jaklet.cli.opening import opened
    from jaklet.core.sheet import filtered, sheet
    from jaklet.core.words import did_you_mean
    from jaklet.drawing.sheets import sheet_data, sheet_text

    known = opened(config, desk).config
    if app is not None and app not in known.apps:
        raise UsageError(f"no app is called {app!r}", did_you_mean(app, known.apps, "`jaklet apps` lists them"))
    lines = filtered(sheet(known), words or (), app)
    if form is Format.json:
        terminal.say_json(sheet_data(lines))
    elif lines:
        terminal.say(sheet_text(lines, terminal.table_columns(), terminal.ink_for()))
    else:
        terminal.warn("no key or word fits" if words or app else "there is no binding yet; add some under `bindings`")
    raise typer.Exit(0 if lines else 1)
