"""jaklet rehearse"""

from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption
from jaklet.core.values.errors import UsageError

if TYPE_CHECKING:
    from jaklet.core.values.config import Config
    from jaklet.rehearsal.stage import PressResult

FromOption = Annotated[
    str | None,
    typer.Option(
        "--from",
        metavar="now|FILE",
        help="Begin with a copy of the desk as it is now, or with a tabletop file.",
        show_default=False,
    ),
]


def rehearse(
    chords: Annotated[
        list[str] | None,
        typer.Argument(metavar="[CHORD...]", help='Chords, one after another; "wait 5s" lets time pass.'),
    ] = None,
    source: FromOption = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    picture: Annotated[
        str | None, typer.Option("--picture", metavar="FILE", help="Write a strip of numbered frames: PNG or SVG.")
    ] = None,
    trace: Annotated[
        str | None,
        typer.Option("--trace", metavar="FILE", help="Write what happened as JSON lines; - for standard output."),
    ] = None,
    interactive: Annotated[
        bool, typer.Option("--interactive", "-i", help="Press keys in the terminal, and watch the desk.")
    ] = False,
) -> None:
    """Press chords on a tabletop, and see what they would do.

    Nothing real is touched: no window moves, no program is launched, no command is run, no file is written,
    and no time passes. Without --from and a tabletop as --desk, the tabletop is made from the config.

    Example: jaklet rehearse super+b super+left super+1
    """
    from jaklet.cli.rehearsing import play, room_from, stage_for
    from jaklet.cli.resources import opened_config

    if interactive and (chords or picture or trace):
        raise UsageError("--interactive stands alone", "press the chords in it")
    if not chords and not interactive:
        raise UsageError("no chord is given", "write some, such as: jaklet rehearse super+b; or add --interactive")
    ready = opened_config(config, desk)
    stage = stage_for(ready, room_from(source, desk, ready.config))
    if interactive:
        from jaklet.cli.playing import play_by_hand

        play_by_hand(stage)
        return
    acts = play(stage, chords or [])
    if trace:
        _write_trace(trace, acts, ready.config)
    if trace != "-":
        _show(acts, ready.config, [line.text for line in stage.opening])
    if picture:
        _write_strip(picture, acts, ready.config)
    raise typer.Exit(1 if any(act.failed for act in acts) else 0)


def _show(acts: "list[PressResult]", config: "Config", opening: list[str]) -> None:
    from jaklet.core.values.words import printable
    from jaklet.drawing.rehearsals import act_lines, strip_text

    ink, columns = terminal.ink_for(), terminal.wide_columns()
    for text in opening:
        terminal.say(f"at the start: {printable(text)}")
    for act in acts:
        terminal.say("\n".join(act_lines(act, config, ink, columns)))
    terminal.say("\n" + strip_text(acts, config, columns, ink))


def _write_trace(out: str, acts: "list[PressResult]", config: "Config") -> None:
    import json
    from pathlib import Path

    from jaklet.core.values.errors import JakletError
    from jaklet.drawing.rehearsals import act_data
    from jaklet.files import write_whole

    text = "".join(json.dumps(act_data(act, config)) + "\n" for act in acts)
    if out == "-":
        terminal.say(text.rstrip("\n"))
        return
    try:
        write_whole(Path(out), text)
    except OSError as fault:
        raise JakletError(f"{out} cannot be written: {fault.strerror}", "choose another file") from fault
    terminal.warn(f"the trace is in {out}")


def _write_strip(out: str, acts: "list[PressResult]", config: "Config") -> None:
    from jaklet.drawing.figures import draw_panels
    from jaklet.drawing.panels import DeskPanel
    from jaklet.drawing.rehearsals import frames_of

    draw_panels([DeskPanel(title, desk) for title, desk in frames_of(acts)], config, out)
    terminal.warn(f"the picture is in {out}")
