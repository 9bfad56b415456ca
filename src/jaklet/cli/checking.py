"""What `jaklet check` does, when its options are read: `cli.check` has those that Typer reads.

`check` with a path and no other options is what people, hooks and editors run again and again: it comes here at once,
as Typer takes a fifth of the time.
"""

import os
import sys
from typing import TYPE_CHECKING, Any

from jaklet.cli import terminal
from jaklet.core.values.findings import ERROR, NOTE, Finding
from jaklet.core.values.words import counted

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence
    from pathlib import Path

    from jaklet.checks.run import CheckedConfig
    from jaklet.cli.live import UnofferedChords

    Found = tuple[CheckedConfig, list[Finding]]  # a config, and what was found, in order

DATA_VERSION = 1  # of the JSON answer, described in docs/formats.md


def checked_plainly(words: list[str]) -> int | None:
    """Check by `[PATH]` and `--strict` alone; return the exit status, None where other words are for Typer to read."""
    paths = [word for word in words if word != "--strict"]
    if len(paths) > 1 or any(word.startswith("-") or not word for word in paths):
        return None
    config, desk = (os.environ.get(name) or None for name in ("JAKLET_CONFIG", "JAKLET_DESK"))
    where = paths[0] if paths else config
    return exit_status(print_check(run_check(where, desk), "text", desk), "--strict" in words)


def run_check(
    where: str | None,
    desk: str | None,
    keyboards: "Sequence[str]" = (),
    live: bool = False,
    unoffered: "UnofferedChords | None" = None,
) -> "Found":
    """Check a config, or a tabletop by itself. `live`: also against the running desk. `unoffered`: asks it about cures.

    A file beside a config stands for that config.
    """
    from pathlib import Path

    from jaklet.cli.resources import checked_config
    from jaklet.config.paths import BESIDE, config_of, shown_path
    from jaklet.locations import FILE

    if where and (path := Path(where)).name != FILE and path.is_file():
        result = _tabletop(path)
        if result:
            return result, [*result.findings]
        where = shown_path(config_of(path.absolute())) if path.absolute().parent.name in BESIDE else where
    result = checked_config(where, desk, keyboards)
    if unoffered and (live or any(one.cures for one in result.findings)):
        result = checked_config(where, desk, keyboards, unoffered.of(result))
    findings = [*result.findings]
    if live:
        from jaklet.cli.live import live_found

        findings += live_found(result, desk)
    return result, sorted(findings, key=lambda one: one.order)


def _tabletop(path: "Path") -> "CheckedConfig | None":
    """Return the findings of a tabletop; None for a file that is no tabletop."""
    from jaklet.checks.run import check_file_alone
    from jaklet.config.paths import TABLETOP, kind_of, shown_path
    from jaklet.installed.programs import InstalledPrograms
    from jaklet.yaml_files.reader import read_source

    findings: list[Finding] = []
    source = read_source(path, shown_path(path), findings)
    if source is None or kind_of(path.absolute(), source.text) != TABLETOP:
        return None
    from jaklet.desktops.tabletop.reading import read_tabletop

    return check_file_alone(TABLETOP, source, path, read_tabletop(source)[1], InstalledPrograms())


def print_check(every: "Found", form: str, desk: str | None) -> "Found":
    """Print what was found. `form`: one of `ReportFormat`."""
    result, findings = every
    if form == "sarif":
        from jaklet import __version__
        from jaklet.drawing.sarif import sarif

        terminal.say_json(sarif(findings, __version__))
    elif form != "text":
        terminal.say_json(_data(result, findings, desk), on_one_line=form == "jsonl")
    else:
        _say(result, findings, desk)
    return every


def files_of(result: "CheckedConfig") -> "Iterator[Path]":
    """Yield the files that were read, and the folders in which others can come to be."""
    from jaklet.config.paths import companion_folders

    yield from result.reading.files.values()
    yield from (folder for folder in companion_folders(result.path) if folder.is_dir())


def exit_status(every: "Found", strict: bool) -> int:
    """Return 1 if there are errors, with `strict` also if there are warnings."""
    result, findings = every
    counts = [one for one in findings if one.severity == ERROR or (strict and one.severity != NOTE)]
    return 1 if counts or not result.usable else 0


def _data(result: "CheckedConfig", findings: list[Finding], desk: str | None) -> dict[str, Any]:
    from jaklet.cli.active import changes_not_in_use
    from jaklet.drawing.findings import findings_data

    return {
        "version": DATA_VERSION,
        "usable": result.usable,
        "keyboards": [str(keyboard) for keyboard in result.case.keyboards],
        "findings": findings_data(findings),
        "silenced": result.silenced,
        "left_out": result.reading.left_out,
        "listener": changes_not_in_use(result, desk),
    }


def _say(result: "CheckedConfig", findings: list[Finding], desk: str | None) -> None:
    from jaklet.checks.run import MOST_FOUND
    from jaklet.cli.active import active_lines
    from jaklet.drawing.findings import findings_text, summary

    silent = f", {counted(result.silenced, 'finding')} silenced" if result.silenced else ""
    serious = [found for found in findings if found.severity != NOTE]
    if findings:
        lines = {path: source.lines for path, source in result.reading.sources.items()}
        terminal.say(findings_text(findings, lines, terminal.ink_for()))
        unusable = "" if result.usable else f"; the {result.what} cannot be used until its errors are mended"
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


def _what_there_is(result: "CheckedConfig") -> str:
    from jaklet.config.paths import TABLETOP
    from jaklet.core.values.words import listed

    if result.what == TABLETOP:
        return f"this {TABLETOP} can be used"
    read, layouts = result.config, result.reading.layouts
    counts = [counted(len(read.bindings), "binding"), counted(len(read.apps), "app"), counted(len(layouts), "layout")]
    return f"{', '.join(counts)}, on keyboard {listed([str(keyboard) for keyboard in result.case.keyboards])}"
