"""jaklet use, jaklet use forget"""

from enum import StrEnum
from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, first_is
from jaklet.core.values.errors import UsageError

if TYPE_CHECKING:
    from jaklet.core.values.config import Config
    from jaklet.counters.use_report import UseReport

SHOWN = "show"
DAYS = 30


class UseGrouping(StrEnum):
    """What presses are added up by."""

    app = "app"
    hand = "hand"
    week = "week"


class UseFormat(StrEnum):
    """How it is written."""

    text = "text"
    json = "json"
    csv = "csv"


HELP = """Tell which keys are used, and which are not.

\b
jaklet use                  the most used keys, those never used, apps reached without one
jaklet use forget           forget all that was counted

The listener counts bound chords and apps, never what is typed; `settings: {count: off}` ends that.

Example: jaklet use --since 90d --by week
"""  # a backspace tells Typer to leave the table's lines as they are
commands = typer.Typer(cls=first_is(SHOWN), help=HELP, rich_markup_mode=None)


@commands.command(SHOWN)
def show(
    since: Annotated[str, typer.Option("--since", metavar="DAYS", help="How far back: 30d.")] = f"{DAYS}d",
    by: Annotated[
        UseGrouping | None, typer.Option("--by", help="Add up by app, hand or week.", show_default=False)
    ] = None,
    out: Annotated[
        str | None, typer.Option("--out", metavar="FILE", help="Draw it: .png, .svg or .pdf.", show_default=False)
    ] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: Annotated[UseFormat, typer.Option("--format", help="text, json or csv.")] = UseFormat.text,
) -> None:
    """Tell which keys were used, and which were not.

    In the last days; and which apps were reached without one.

    Example: jaklet use --since 90d --out use.png
    """
    from jaklet.cli.resources import checked_config
    from jaklet.config.paths import state_folder
    from jaklet.core.keys.keycaps import boards
    from jaklet.core.keys.sheet import sheet_lines
    from jaklet.core.values.use_counts import FIRED
    from jaklet.counters.use_counts import UseCounts
    from jaklet.counters.use_report import by_week, sum_counts, use_report
    from jaklet.drawing.use_tables import draw_use, groups_csv, groups_text, use_csv, use_data, use_text

    days = days_of(since)
    counts = UseCounts(state_folder).since(days)
    result = checked_config(config, desk)
    known = result.config
    told = use_report(counts, sheet_lines(known), known)
    if out is not None:
        board = result.case.keyboards[0]
        drawings = boards(board, known.live, ())
        draw_use(by_week(counts), drawings, sum_counts(counts, FIRED), out)
        terminal.say(f"wrote {out}")
        return
    if by is not None:
        groups = by_week(counts) if by is UseGrouping.week else _groups(by, told, known)
        if form is UseFormat.json:
            terminal.say_json(groups)
        elif form is UseFormat.csv:
            terminal.say(groups_csv(by.value, groups).rstrip())
        else:
            terminal.say(groups_text(by.value, groups, terminal.table_columns(), terminal.ink_for()))
        return
    if form is UseFormat.json:
        terminal.say_json(use_data(told))
    elif form is UseFormat.csv:
        terminal.say(use_csv(told).rstrip())
    elif not counts:
        off = (
            "`settings: {count: off}` says so" if not known.settings.counts else "`jaklet listen` counts while it runs"
        )
        terminal.say(f"nothing was counted in {days} days; {off}")
    else:
        terminal.say(use_text(told, days, terminal.table_columns(), terminal.ink_for()))


def days_of(text: str) -> int:
    """Return the days of `30d`; raises `UsageError`."""
    number = text.lower().removesuffix("d")
    if not number.isdigit() or not 1 <= int(number) <= 3660:
        raise UsageError(f"{text!r} is no number of days", "write it like: --since 30d")
    return int(number)


def _groups(by: UseGrouping, told: "UseReport", config: "Config") -> dict[str, int]:
    """Return presses added up by app, or by the hand of the first keyboard of the config."""
    found: dict[str, int] = {}
    if by is UseGrouping.app:
        apps = sorted(told.reached, key=lambda one: -one.by_key)
        return {one.app: one.by_key for one in apps}
    from jaklet.core.keys.keyboards import KeyboardName, parse_keyboard
    from jaklet.keyboards.shipped import keyboard

    names = config.settings.keyboards
    board = keyboard(parse_keyboard(names[0]) if names else KeyboardName("us"))
    for one in told.used:
        for keys in one.line.chords[:1]:
            hand = board.hand(keys[-1]) or "neither"
            found[hand] = found.get(hand, 0) + one.times
    return found


@commands.command()
def forget(sure: Annotated[bool, typer.Option("--sure", help="Without asking.")] = False) -> None:
    """Forget all that was counted.

    Example: jaklet use forget --sure
    """
    from jaklet.config.paths import state_folder
    from jaklet.core.values.words import counted
    from jaklet.counters.use_counts import UseCounts

    counts = UseCounts(state_folder)
    if not terminal.confirm(f"Forget what {counts.file} has counted?", sure):
        terminal.say("nothing was forgotten")
        return
    terminal.say(f"{counted(counts.forget(), 'count')} forgotten")
