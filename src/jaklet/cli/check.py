"""jaklet check"""

import sys
from typing import TYPE_CHECKING, Annotated, Any

import typer

from jaklet import __version__
from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, KeyboardOption, ReportFormat
from jaklet.core.values.errors import UsageError
from jaklet.core.values.findings import ERROR, NOTE, Finding
from jaklet.core.values.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

    from jaklet.checks.run import Checked

DATA_VERSION = 1  # of the JSON answer, described in docs/formats.md


def check(
    path: Annotated[
        str | None,
        typer.Argument(
            metavar="[PATH]", help="The config: a file, or a folder with jaklet.yaml in it.", show_default=False
        ),
    ] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    keyboard: KeyboardOption = None,
    live: Annotated[
        bool, typer.Option("--live", help="Ask the running desk which chords other programs hold.")
    ] = False,
    fix: Annotated[bool, typer.Option("--fix", help="Choose a free chord for each conflict, and write it.")] = False,
    yes: Annotated[bool, typer.Option("--yes", help="With --fix: take the first free chord each time.")] = False,
    chord: Annotated[
        list[str] | None, typer.Option("--chord", metavar="CHORD", help="With --fix: change this chord alone.")
    ] = None,
    base: Annotated[
        str, typer.Option("--base", metavar="MODIFIERS", help="With --fix: move all chords of --from to this base.")
    ] = "",
    from_: Annotated[
        str, typer.Option("--from", metavar="MODIFIERS", help="With --base: the base that the chords have now.")
    ] = "super",
    watch: Annotated[bool, typer.Option("--watch", help="Check again whenever a file changes, until Ctrl+C.")] = False,
    strict: Annotated[bool, typer.Option("--strict", help="Exit with 1 for warnings as well.")] = False,
    form: Annotated[
        ReportFormat,
        typer.Option("--format", help="Text for people; JSON, or a line of it, for scripts; SARIF for hosts."),
    ] = ReportFormat.text,
) -> None:
    """Find every fault in the config and its layouts, and every conflict of its keys.

    Exits with 0 if there is no error, 1 if there is one (with --strict: or a warning), 2 if there is no such config.
    Notes never count. On a tabletop, its own programs count as installed.

    Example: jaklet check ~/.config/jaklet --keyboard fr --strict
    Example: jaklet check --fix --base ctrl+alt
    Example: jaklet check --watch
    """
    from jaklet.cli.resources import checked

    where = path or config

    def run() -> "tuple[Checked, list[Finding]]":
        result = checked(where, desk, keyboard or ())
        from jaklet.cli.live import live_found

        found = [*result.findings, *(live_found(result, desk) if live else ())]
        return result, sorted(found, key=lambda one: one.order)

    for word, given in (("--yes", yes), ("--chord", chord), ("--base", base)):
        if given and not fix:
            raise UsageError(f"{word} is about --fix", "add --fix")
    if watch and (fix or form in (ReportFormat.json, ReportFormat.sarif)):
        raise UsageError("--watch checks again and again", "leave --fix out, and write --format jsonl for scripts")
    if fix and form is not ReportFormat.text:
        raise UsageError("--fix talks to people", "leave --format out")
    if base:
        from jaklet.cli.fixing import move_base
        from jaklet.cli.keys import modifiers_of

        move_base(checked(where, desk, keyboard or ()), where, desk, (modifiers_of(from_), modifiers_of(base)), yes)
    elif fix:
        from jaklet.cli.fixing import mend

        mend(run, yes, chord or ())

    def report() -> "tuple[Checked, list[Finding]]":
        result, findings = run()
        if form is ReportFormat.sarif:
            from jaklet.drawing.sarif import sarif

            terminal.say_json(sarif(findings, __version__))
        elif form is not ReportFormat.text:
            terminal.say_json(_data(result, findings, desk), on_one_line=form is ReportFormat.jsonl)
        else:
            _say(result, findings, desk)
        return result, findings

    if watch:
        from jaklet.cli.watching import watched

        watched(lambda: _files_of(report()[0]), clears=form is ReportFormat.text)
    result, findings = report()
    counts = [one for one in findings if one.severity == ERROR or (strict and one.severity != NOTE)]
    raise typer.Exit(1 if counts or not result.usable else 0)


def _files_of(result: "Checked") -> "Iterator[Path]":
    """Yield the files that were read, and the folders in which others can come to be."""
    from jaklet.config.paths import beside

    yield from result.reading.files.values()
    yield from (folder for folder in beside(result.path) if folder.is_dir())


def _data(result: "Checked", findings: list[Finding], desk: str | None) -> dict[str, Any]:
    from jaklet.cli.active import active
    from jaklet.drawing.findings import findings_data

    return {
        "version": DATA_VERSION,
        "usable": result.usable,
        "keyboards": [str(keyboard) for keyboard in result.case.keyboards],
        "findings": findings_data(findings),
        "silenced": result.silenced,
        "left_out": result.reading.left_out,
        "listener": active(result, desk),
    }


def _say(result: "Checked", findings: list[Finding], desk: str | None) -> None:
    from jaklet.checks.run import MOST_FOUND
    from jaklet.cli.active import active_lines
    from jaklet.drawing.findings import findings_text, summary

    silent = f", {counted(result.silenced, 'finding')} silenced" if result.silenced else ""
    serious = [found for found in findings if found.severity != NOTE]
    if findings:
        lines = {path: source.lines for path, source in result.reading.sources.items()}
        terminal.say(findings_text(findings, lines, terminal.ink_for()))
        unusable = "" if result.usable else "; the config cannot be used until its errors are mended"
        terminal.say(f"\n{summary(findings)}{silent}{unusable}")
        if result.cut:
            terminal.say(f"there may be more: it stops looking at {MOST_FOUND:,}")
        if any(found.cures for found in findings) and sys.stdout.isatty():
            terminal.say("`jaklet check --fix` puts free chords in; `jaklet explain CODE` tells more of a finding")
    if not serious:
        head = "nothing is wrong" if findings else "no findings"
        terminal.say(f"{head}: {_what_there_is(result)}{silent}")
    for line in (*(f"left out: {part}" for part in result.reading.left_out), *active_lines(result, desk)):
        terminal.say(line)


def _what_there_is(result: "Checked") -> str:
    from jaklet.core.values.words import listed

    read, layouts = result.config, result.reading.layouts
    counts = [counted(len(read.bindings), "binding"), counted(len(read.apps), "app"), counted(len(layouts), "layout")]
    return f"{', '.join(counts)}, on keyboard {listed([str(keyboard) for keyboard in result.case.keyboards])}"
