"""jaklet lsp"""

from typing import TYPE_CHECKING

import typer

from jaklet import __version__
from jaklet.cli.options import DeskOption
from jaklet.core.values.errors import JakletError

if TYPE_CHECKING:
    from pathlib import Path

    from jaklet.checks.run import Checked
    from jaklet.core.values.chords import Keys


def lsp(desk: DeskOption = None) -> None:
    """Tell an editor of findings while files are written: a language server, on standard input and output.

    Findings as by `jaklet check`, from what is not saved yet; completion, also of actions word by word and of chords
    that are free; what a chord, an action or a name means; definitions, uses, other names; free chords and silences as
    remedies. It is started by the editor.

    Example: jaklet lsp
    """
    try:
        from jaklet.editor.server import Outside, serve
    except ImportError as fault:
        raise JakletError("the language server needs the extra `editor`", "pip install 'jaklet[editor]'") from fault
    from jaklet.cli.resources import checked, installed

    def check(path: "Path") -> "Checked":
        return checked(str(path), desk)

    def about(result: "Checked", keys: "Keys") -> str:
        from jaklet.checks.why import why
        from jaklet.drawing.whys import why_text

        return why_text(why(result, keys))

    programs = installed(desk)
    outside = Outside(check, about, lambda: iter(programs.names()), lambda: iter(programs.entry_ids()))
    raise typer.Exit(serve(outside, __version__))
