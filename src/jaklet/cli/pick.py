"""jaklet pick"""

import sys
from typing import Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, FormatOption, OutputFormat
from jaklet.cli.picking import candidate_sources, filter_candidates, kind_of, pick_on_screen
from jaklet.core.actions.pick_candidate import Candidate


def pick(
    kind: Annotated[
        str | None,
        typer.Argument(metavar="[KIND]", help="windows, apps, layouts, actions, hosts or all.", show_default=False),
    ] = None,
    words: Annotated[
        list[str] | None, typer.Argument(metavar="[WORDS]...", help="What to look for.", show_default=False)
    ] = None,
    printed: Annotated[bool, typer.Option("--print", help="Print what fits, best first, and do nothing.")] = False,
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Find anything by a few letters, and do it.

    A window, app, layout, action or host.

    Words may stand in any order. Enter does the chosen one, Escape changes nothing, Tab goes to the next kind.
    Without a terminal, or with --print, what fits is printed: kind, name, detail, keys, action, parted by tabs.

    Example: jaklet pick windows

    Example: jaklet pick apps rad --print
    """
    from jaklet.cli.resources import opened_config, opened_desk

    chosen = kind_of(kind)
    typed = " ".join(words or ())
    if printed or form is OutputFormat.json or not (sys.stdin.isatty() and sys.stdout.isatty()):
        with opened_desk(desk) as desktop:
            found = filter_candidates(candidate_sources(opened_config(config, desk), desktop, chosen), chosen, typed)
        _print(found, form)
        raise typer.Exit(0 if found else 1)
    raise typer.Exit(0 if pick_on_screen(chosen, typed, config, desk) else 1)


def _print(found: list[Candidate], form: OutputFormat) -> None:
    from jaklet.core.values.words import printable

    if form is OutputFormat.json:
        terminal.say_json([{k: v for k, v in one._asdict().items() if k != "begin"} for one in found])
        return
    for one in found:
        cells = (one.kind, one.label, one.detail, " ".join(one.keys), one.does)
        terminal.say("\t".join(printable(cell) for cell in cells))
