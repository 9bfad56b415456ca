"""jaklet check"""

from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli.checking import exit_status, files_of, print_check, run_check
from jaklet.cli.options import ConfigOption, DeskOption, KeyboardOption, ReportFormat
from jaklet.core.values.errors import UsageError

if TYPE_CHECKING:
    from jaklet.cli.checking import Found


def check(
    path: Annotated[
        str | None,
        typer.Argument(
            metavar="[PATH]",
            help="The config: a file, or a folder with jaklet.yaml in it; or a tabletop.",
            show_default=False,
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
    """Find every fault in the config and every conflict of its keys.

    Layouts and trials beside it are looked at, too; the path of one of them stands for their config. A tabletop is
    checked by itself.

    Exits with 0 if there is no error, 1 if there is one (with --strict: or a warning), 2 if there is no such config.
    Notes never count. On a tabletop, its own programs count as installed.

    Example: jaklet check ~/.config/jaklet --keyboard fr --strict
    Example: jaklet check --fix --base ctrl+alt
    Example: jaklet check --watch
    """
    from jaklet.cli.resources import checked_config

    where, unoffered = path or config, None
    if live or fix:
        from jaklet.cli.live import UnofferedChords

        unoffered = UnofferedChords(desk)

    def run() -> "Found":
        return run_check(where, desk, keyboard or (), live, unoffered)

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

        bases = modifiers_of(from_), modifiers_of(base)
        move_base(checked_config(where, desk, keyboard or ()), where, desk, bases, yes, unoffered)
    elif fix:
        from jaklet.cli.fixing import mend

        mend(run, yes, chord or ())
    if watch:
        from jaklet.cli.watching import watch_files

        watch_files(lambda: files_of(print_check(run(), form, desk)[0]), clears=form is ReportFormat.text)
    raise typer.Exit(exit_status(print_check(run(), form, desk), strict))
