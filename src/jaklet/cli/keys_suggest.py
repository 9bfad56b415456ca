"""jaklet keys suggest"""

from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.keys import commands
from jaklet.cli.options import ConfigOption, DeskOption, FormatOption, KeyboardOption, OutputFormat
from jaklet.core.values.errors import JakletError, SentenceError, UsageError

if TYPE_CHECKING:
    from jaklet.checks.run import CheckedConfig
    from jaklet.core.values.chords import Chord

HABITS, NOTHING = "habits", "nothing"
DAYS = 365


@commands.command()
def suggest(
    heading: Annotated[
        str | None,
        typer.Option("--heading", metavar="NAME", help="Move only what is under this heading.", show_default=False),
    ] = None,
    keep: Annotated[
        list[str] | None,
        typer.Option(
            "--keep",
            metavar="WHAT",
            help="`habits`: change only what gains enough (the default); `nothing`; or a chord that stays.",
            show_default=False,
        ),
    ] = None,
    changes: Annotated[
        int | None, typer.Option("--changes", min=1, help="The best with at most so many.", show_default=False)
    ] = None,
    since: Annotated[str, typer.Option("--since", metavar="DAYS", help="What was counted since: 90d.")] = f"{DAYS}d",
    out: Annotated[
        str | None,
        typer.Option("--out", metavar="FILE", help="Draw the curve: .png, .svg or .pdf.", show_default=False),
    ] = None,
    apply: Annotated[bool, typer.Option("--apply", help="Write the changes into the config.")] = False,
    config: ConfigOption = None,
    desk: DeskOption = None,
    keyboard: KeyboardOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Suggest better keys for what is pressed often.

    Easier to reach, with a letter that recalls the word.

    It goes by what was counted (`jaklet use`) and by `settings: hands`. Nothing is suggested that `check` would find
    fault with.

    Example: jaklet keys suggest --changes 3

    Example: jaklet keys suggest --keep super+l --apply
    """
    from importlib.util import find_spec

    from jaklet.cli.fixing import say_difference
    from jaklet.cli.resources import checked_config, usable_config
    from jaklet.cli.use import days_of
    from jaklet.config.edit import write_edited
    from jaklet.config.paths import state_folder
    from jaklet.core.values.use_counts import FIRED
    from jaklet.core.values.words import counted
    from jaklet.counters.use_counts import UseCounts
    from jaklet.counters.use_report import sum_counts
    from jaklet.drawing.suggestions import draw_curve, suggestion_data, suggestion_text
    from jaklet.suggesting.suggest import HABIT, SuggestionRequest, moved_files
    from jaklet.suggesting.suggest import suggest as suggestion

    if find_spec("scipy") is None:
        from jaklet.extras import install

        raise JakletError("suggestions need SciPy", install("scipy"))
    result = checked_config(config, desk, keyboard or ())
    usable_config(result)
    names = [word for word in keep or () if word not in (HABITS, NOTHING)]
    if heading is not None:
        _known_heading(result, heading)
    counts = sum_counts(UseCounts(state_folder).since(days_of(since)), FIRED)
    habit = 0.0 if NOTHING in (keep or ()) else HABIT
    told = suggestion(result.case, counts, SuggestionRequest(habit, changes, heading, tuple(map(_chord, names))))
    texts = moved_files(result.reading, told)
    if texts:
        _prove(result, texts, config, desk)
    if out is not None:
        draw_curve(told, out)
    if apply:
        for path, text in texts.items():
            write_edited(result.reading.files[path], result.reading.sources[path], text)
    if form is OutputFormat.json:
        terminal.say_json({**suggestion_data(told), "written": list(texts) if apply else []})
        return
    if out is not None:
        terminal.say(f"wrote {out}")
    else:
        terminal.say(suggestion_text(told, terminal.table_columns(), terminal.ink_for()))
        if texts:
            terminal.say("")
            say_difference(result.reading, texts)
    if texts and apply:
        terminal.say(f"{counted(len(told.moves), 'change')} written into {', '.join(texts)}")
    elif texts and out is None:
        terminal.say("\nnothing was written; --apply writes this")


def _known_heading(result: "CheckedConfig", heading: str) -> None:
    from jaklet.core.values.words import did_you_mean

    headings = list(dict.fromkeys(one.heading for one in result.config.bindings if one.heading))
    if heading not in headings:
        raise UsageError(
            f"no heading is called {heading!r}", did_you_mean(heading, headings, "`jaklet keys` shows them")
        )


def _chord(text: str) -> "Chord":
    from jaklet.core.values.chords import parse_chord
    from jaklet.core.values.words import did_you_mean

    try:
        return parse_chord(text)
    except SentenceError as fault:
        otherwise = f"{fault.remedy}; or `{HABITS}` or `{NOTHING}`"
        remedy = did_you_mean(text, (HABITS, NOTHING), otherwise, likeness=0.7)
        raise UsageError(f"--keep {text}: {fault.message}", remedy) from fault


def _prove(result: "CheckedConfig", texts: "dict[str, str]", config: str | None, desk: str | None) -> None:
    """Check the config as it would be; raises `JakletError` if anything about its keys would be worse."""
    from jaklet.cli.fixing import checked_with, new_among
    from jaklet.config.paths import locate_config
    from jaklet.drawing.findings import findings_text

    boards = [str(board) for board in result.case.keyboards]
    after = checked_with(result, texts, locate_config(config), desk, "write the changes by hand", *boards)
    wrong = new_among(after.findings, result.findings)
    if wrong:
        terminal.warn(findings_text(wrong, {path: its.lines for path, its in after.reading.sources.items()}))
        raise JakletError("with these keys something else would be wrong", "leave that one out with --keep CHORD")
