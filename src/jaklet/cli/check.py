"""jaklet check"""

from typing import Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, Format, FormatOption
from jaklet.core.words import counted


def check(
    path: Annotated[
        str | None,
        typer.Argument(
            metavar="[PATH]", help="The config: a file, or a folder with jaklet.yaml in it.", show_default=False
        ),
    ] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: FormatOption = Format.text,
) -> None:
    """Find every fault in the config and its layouts.

    Exits with 0 if there is none, 1 if there are findings, 2 if there is no such config.
    On a tabletop, its own programs count as installed.

    Example: jaklet check ~/.config/jaklet
    """
    from jaklet.cli.opening import checked
    from jaklet.drawing.findings import findings_data, findings_text, summary

    result = checked(path or config, desk)
    findings = result.findings
    if form is Format.json:
        terminal.say_json({"usable": result.usable, "findings": findings_data(findings)})
    elif findings:
        lines = {path: source.lines for path, source in result.reading.sources.items()}
        terminal.say(findings_text(findings, lines, terminal.ink_for()))
        terminal.say(
            f"\n{summary(findings)}"
            + ("" if result.usable else "; the config cannot be used until its errors are mended")
        )
    else:
        read = result.config
        counts = (
            counted(len(read.bindings), "binding"),
            counted(len(read.apps), "app"),
            counted(len(result.reading.layouts), "layout"),
        )
        terminal.say(f"no findings: {', '.join(counts)}")
    raise typer.Exit(1 if findings else 0)
