"""jaklet lsp"""

from typing import TYPE_CHECKING

import typer

from jaklet import __version__
from jaklet.cli.options import DeskOption
from jaklet.core.values.errors import JakletError

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from jaklet.checks.run import CheckedConfig
    from jaklet.core.values.chords import Keys
    from jaklet.core.values.config import Config
    from jaklet.core.values.desk import Desk
    from jaklet.core.values.layouts import Layout


FRESH = 30.0  # seconds for which a desk is believed to be as it was seen: to look at one can take a while
COLUMNS = 72


def _desk_at_times(address: str | None) -> "Callable[[], Desk | None]":
    """Return a function that tells the desk, and looks at it once in a while."""
    import time

    from jaklet.cli.layout import present

    seen: tuple[float, Desk | None] = (float("-inf"), None)

    def desk() -> "Desk | None":
        nonlocal seen
        if time.monotonic() - seen[0] > FRESH:
            seen = time.monotonic(), present(address)
        return seen[1]

    return desk


def _drawn(layout: "Layout", config: "Config", desk: "Desk | None") -> str:
    """Return a layout as a small drawing in text."""
    from jaklet.core.actions.layouts.imagining import saved_displays
    from jaklet.drawing.panels import panel_of, panels_text

    displays = saved_displays(layout, config, desk.displays if desk else ())
    return panels_text([panel_of(layout.name, layout, displays, config)], config, COLUMNS)


def lsp(desk: DeskOption = None) -> None:
    """Tell an editor of findings while files are written.

    A language server, on standard input and output; the editor starts it.

    Findings as by `jaklet check`, from what is not saved yet; completion, also of actions word by word and of chords
    that are free; what a chord, an action or a name means; definitions, uses, other names; free chords and silences as
    remedies. It is started by the editor.

    Example: jaklet lsp
    """
    try:
        from jaklet.editor.answers import EditorPorts
        from jaklet.editor.completion import CompletionSources
        from jaklet.editor.server import serve
    except ImportError as fault:
        from jaklet.extras import install

        raise JakletError("the language server needs the extra `editor`", install("pygls")) from fault
    from jaklet.cli.resources import checked_config, installed_programs
    from jaklet.cli.schema import of_files
    from jaklet.desktops.tabletop.reading import read_tabletop

    def check(path: "Path") -> "CheckedConfig":
        return checked_config(str(path), desk)

    def about(result: "CheckedConfig", keys: "Keys") -> str:
        from jaklet.checks.chord_explanations import explain_chord
        from jaklet.drawing.whys import why_text

        return why_text(explain_chord(result, keys))

    programs = installed_programs(desk)
    names, entries = (lambda: iter(programs.names())), (lambda: iter(programs.entry_ids()))
    here = CompletionSources(names, entries, _desk_at_times(desk), of_files())
    outside = EditorPorts(check, about, here, _drawn, lambda source: read_tabletop(source)[1])
    raise typer.Exit(serve(outside, __version__))
