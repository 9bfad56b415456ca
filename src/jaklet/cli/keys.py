"""jaklet keys, keys free, keys why"""

from collections.abc import Callable
from enum import StrEnum
from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, FormatOption, KeyboardOption, OutputFormat, first_is
from jaklet.core.values.errors import JakletError, SentenceError, UsageError

if TYPE_CHECKING:
    from jaklet.core.keys.keycaps import Keycap
    from jaklet.core.keys.sheet import SheetLine
    from jaklet.core.values.chords import Chord
    from jaklet.core.values.config import Config

SHEET = "sheet"
TITLE = "Keys"


class Paper(StrEnum):
    """What a sheet is printed on."""

    a4 = "a4"
    letter = "letter"


WithOption = Annotated[
    str | None,
    typer.Option("--with", metavar="MODIFIERS", help="Only chords with exactly these: ctrl+alt.", show_default=False),
]


HELP = """Show all keys; find free ones; tell why a chord is what it is.

\b
jaklet keys [WORD...]       the sheet, or the lines with all of these words
jaklet keys for WHAT        the keys of an action, or of what is named
jaklet keys draw            the keyboard, and what is on it
jaklet keys suggest         better keys for what is pressed often
jaklet keys free            chords that nothing uses
jaklet keys why CHORD       all that is known about a chord

Example: jaklet keys radio
"""  # a backspace tells Typer to leave the table's lines as they are
commands = typer.Typer(cls=first_is(SHEET), help=HELP, rich_markup_mode=None)


@commands.command(SHEET)
def sheet(
    words: Annotated[
        list[str] | None,
        typer.Argument(metavar="[WORD]...", help="Only lines with all of these words.", show_default=False),
    ] = None,
    app: Annotated[str | None, typer.Option("--app", help="Only what is about this app.", show_default=False)] = None,
    layer: Annotated[
        str | None,
        typer.Option("--layer", help="Only the keys of this layer, and those that enter it.", show_default=False),
    ] = None,
    modifiers: WithOption = None,
    out: Annotated[
        str | None,
        typer.Option(
            "--out",
            metavar="FILE",
            help="Write it into a file: .html, .pdf, .png, .svg, .md, .csv.",
            show_default=False,
        ),
    ] = None,
    to_learn: Annotated[bool, typer.Option("--to-learn", help="Only what is to be learned yet.")] = False,
    paper: Annotated[Paper, typer.Option("--paper", help="What it is printed on.")] = Paper.a4,
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Show the sheet of all keys and typed words, under their headings.

    A word can be part of a key, an action, a note or a heading: `super`, `recall`, `radio`. Shares are found by their
    names, too (`half`), and apps by what their desktop entries say of them (`browser`).

    Example: jaklet keys radio

    Example: jaklet keys --out keys.html

    Example: jaklet keys --to-learn
    """
    from jaklet.cli.practise import still_to_learn
    from jaklet.cli.resources import checked_config, installed_programs, usable_config
    from jaklet.core.keys.keycaps import boards
    from jaklet.core.keys.lookup import other_words
    from jaklet.core.keys.sheet import filter_lines, sheet_lines
    from jaklet.core.values.words import did_you_mean
    from jaklet.drawing.sheets import sheet_data, sheet_text

    result = checked_config(config, desk)
    known, case = usable_config(result), result.case
    if app is not None and app not in known.apps:
        raise UsageError(f"no app is called {app!r}", did_you_mean(app, known.apps, "`jaklet apps` lists them"))
    known_layer(known, layer)
    held = modifiers_of(modifiers) if modifiers is not None else None
    more = other_words(known, installed_programs(desk).entries()) if words or out else None
    lines = filter_lines(sheet_lines(known), words or (), app, layer, held, more)
    if to_learn:
        left = [lesson.line for lesson in still_to_learn(known)]
        lines = [line for line in lines if line in left]
    if out and lines and more:
        drawn = [layer] if layer else ["", *known.layers]
        _write(
            lines, out, paper, more,
            lambda: [one for its in drawn for one in boards(case.keyboards[0], known.live, case.reserved, held, its)],
        )  # fmt: skip
    elif form is OutputFormat.json:
        terminal.say_json(sheet_data(lines))
    elif lines:
        terminal.say(sheet_text(lines, terminal.table_columns(), terminal.ink_for()))
    elif to_learn:
        terminal.warn("nothing is left to learn")
    else:
        asked = words or app or layer or modifiers
        near = _nearest_command(words[0]) if words and len(words) == 1 else ""
        meant = f"; did you mean jaklet keys {near}?" if near else ""
        terminal.warn(f"no key or word fits{meant}" if asked else "there is no binding yet; add some under `bindings`")
    raise typer.Exit(0 if lines else 1)


def _nearest_command(word: str) -> str:
    """Return the command of this group that a word may be a slip of; empty for none."""
    from jaklet.core.values.words import nearest

    names = [str(one.name or (one.callback and one.callback.__name__)) for one in commands.registered_commands]
    return next(iter(nearest(word, [*names, "--to-learn"], likeness=0.7)), "")


def _write(
    lines: "list[SheetLine]",
    out: str,
    paper: Paper,
    more: "Callable[[SheetLine], str]",
    drawings: "Callable[[], list[tuple[str, list[Keycap]]]]",
) -> None:
    """Write the sheet in the format that a file's name ends in, and say what was written."""
    from pathlib import Path

    from jaklet.core.values.words import counted, either
    from jaklet.drawing.figure_files import FORMATS
    from jaklet.drawing.pages import sheet_page
    from jaklet.drawing.posters import draw_poster
    from jaklet.drawing.sheets import sheet_csv, sheet_markdown
    from jaklet.files import write_whole

    suffix, sheets = Path(out).suffix.lower(), 0
    texts: dict[str, Callable[[], str]] = {
        ".html": lambda: sheet_page(lines, TITLE, more, paper.value, drawings()),
        ".md": lambda: sheet_markdown(lines, TITLE),
        ".csv": lambda: sheet_csv(lines),
    }
    if suffix in FORMATS:
        sheets = draw_poster(lines, TITLE, out, paper.value)
    elif suffix in texts:
        try:
            write_whole(Path(out), texts[suffix]())
        except OSError as fault:
            raise JakletError(f"{out} cannot be written: {fault.strerror}", "choose another file") from fault
    else:
        raise UsageError(f"{out} names no format", f"let the name end in {either([*texts, *FORMATS])}")
    on_paper = f" on {counted(sheets, 'sheet')}" if sheets else ""
    terminal.say(f"wrote {out}: {counted(len(lines), 'line')}{on_paper}")


@commands.command("for")
def for_(
    what: Annotated[
        list[str],
        typer.Argument(
            metavar="WHAT...", help="An action, or a kind and a name: app radio, layout 1.", show_default=False
        ),
    ],
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Tell the keys of an action, or of a thing by its name.

    Of an app, layout, layer, macro, place or display.

    Example: jaklet keys for "recall departures"
    """
    from jaklet.cli.picking import LayoutCache
    from jaklet.cli.resources import opened_config
    from jaklet.core.keys.lookup import KINDS, lines_about, lines_doing
    from jaklet.core.keys.sheet import sheet_lines
    from jaklet.core.language.actions import parse_action
    from jaklet.core.values.words import either
    from jaklet.drawing.sheets import sheet_data, sheet_text

    known = opened_config(config, desk)
    numbers = {str(one.number): one.name for one in LayoutCache(known.shelf).all() if one.number is not None}
    words = " ".join(what).split()
    sheet = sheet_lines(known.config)
    if len(words) > 1 and words[0] in KINDS:
        lines = lines_about(sheet, words[0], " ".join(words[1:]), numbers)
    else:
        try:
            lines = lines_doing(sheet, parse_action(" ".join(words)), numbers)
        except SentenceError as fault:
            near = f"{fault.remedy} " if fault.remedy.startswith("did you mean") else ""
            remedy = f"{near}write an action, or a name with its kind: {either(KINDS)}"
            raise UsageError(fault.message, remedy) from fault
    if form is OutputFormat.json:
        terminal.say_json(sheet_data(lines))
    elif lines:
        terminal.say(sheet_text(lines, terminal.table_columns(), terminal.ink_for()))
    else:
        terminal.warn("no key does that; `jaklet keys free` shows which are free")
    raise typer.Exit(0 if lines else 1)


@commands.command()
def free(
    modifiers: WithOption = None,
    hand: Annotated[
        str | None, typer.Option("--hand", help="Only keys of this hand: left or right.", show_default=False)
    ] = None,
    near: Annotated[
        str | None,
        typer.Option("--near", metavar="KEY", help="Only keys around this one, the nearest first.", show_default=False),
    ] = None,
    layer: Annotated[str, typer.Option("--layer", help="Free in this layer.", show_default=False)] = "",
    config: ConfigOption = None,
    desk: DeskOption = None,
    keyboard: KeyboardOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Show chords that are free and easy to press.

    Bound to nothing, nobody else's, and easy enough on all keyboards of the config.

    The easiest come first.

    Example: jaklet keys free --with super --hand left
    """
    from jaklet.cli.live import checked_here
    from jaklet.core.keys.keyboards import near_to
    from jaklet.core.values.chords import parse_chord
    from jaklet.core.values.hands import HAND_SIDES
    from jaklet.core.values.words import either
    from jaklet.drawing.whys import free_data, free_text

    result = checked_here(config, desk, keyboard or ())
    if hand is not None and hand not in HAND_SIDES:
        raise UsageError(f"no hand is called {hand!r}", f"write {either(HAND_SIDES)}")
    known_layer(result.config, layer)
    families = (modifiers_of(modifiers),) if modifiers is not None else ()
    found = result.case.free.chords(layer, (), families)
    if hand:
        found = [one for one in found if one.hand == hand]
    if near:
        try:
            found = near_to(result.case.keyboards[0], parse_chord(near), found)
        except SentenceError as fault:
            raise UsageError(f"{near}: {fault.message}", fault.remedy) from fault
    if form is OutputFormat.json:
        terminal.say_json(free_data(found))
    elif found:
        terminal.say(free_text(found, terminal.table_columns(), terminal.ink_for()))
    else:
        terminal.warn("no such chord is free")
    raise typer.Exit(0 if found else 1)


@commands.command()
def why(
    chords: Annotated[
        list[str], typer.Argument(metavar="CHORD...", help="A chord, or those of a sequence.", show_default=False)
    ],
    config: ConfigOption = None,
    desk: DeskOption = None,
    keyboard: KeyboardOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Tell all about a chord.

    What it is bound to, where, who else owns it, which key it is, and how hard to press.

    Example: jaklet keys why super+shift+1 --keyboard fr
    """
    from jaklet.checks.chord_explanations import explain_chord
    from jaklet.cli.live import checked_here
    from jaklet.core.values.chords import parse_keys
    from jaklet.drawing.whys import why_data, why_text

    text = " ".join(chords)
    try:
        typed = parse_keys(text)
    except SentenceError as fault:
        raise UsageError(fault.message, fault.pointed_at(text)) from fault
    known = explain_chord(checked_here(config, desk, keyboard or ()), typed)._replace(now=_now(typed[0], desk))
    if form is OutputFormat.json:
        terminal.say_json(why_data(known))
    else:
        terminal.say(why_text(known, terminal.ink_for()))


def _now(chord: "Chord", desk: str | None) -> str:
    """Return why a chord cannot be heard on the desk that is here; empty if it can, or there is none."""
    from jaklet.cli.listener_calls import listener_status
    from jaklet.cli.live import facts_of
    from jaklet.cli.resources import opened_desk

    try:
        mine = (listener_status(desk) or {}).get("chords", ())
        with opened_desk(desk) as desktop:
            facts = facts_of(desktop, [chord], mine)
    except JakletError:
        return ""
    modifier = facts.modifier_of(chord)
    if modifier:
        return facts.unheard[modifier]
    return f"{facts.held[chord] or 'another program'} holds it" if chord in facts.held else ""


def known_layer(config: "Config", layer: str | None) -> None:
    """Raise `UsageError` for a layer that is not there; empty or None is none."""
    from jaklet.core.values.words import did_you_mean

    if layer and layer not in config.layers:
        raise UsageError(f"no layer is called {layer!r}", did_you_mean(layer, config.layers, "the config has none"))


def modifiers_of(text: str) -> int:
    """Return the modifiers of `super+shift`; `plain` is none."""
    from jaklet.core.values.chords import MODIFIERS
    from jaklet.core.values.words import did_you_mean

    held = 0
    for name in text.lower().replace("plain", "").split("+"):
        if name and name not in MODIFIERS:
            raise UsageError(f"{name!r} is no modifier", did_you_mean(name, MODIFIERS, "write them as super+shift"))
        held |= MODIFIERS[name] if name else 0
    return int(held)
