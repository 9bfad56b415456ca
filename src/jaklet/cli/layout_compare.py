"""jaklet layout diff, draw"""

from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.layout import commands, present, sound_layout
from jaklet.cli.options import ConfigOption, DeskOption, FormatOption, OnOption, OutputFormat, WordArgument
from jaklet.core.values.errors import DeskError

if TYPE_CHECKING:
    from jaklet.core.values.desk import Desk
    from jaklet.core.values.layouts import Layout


@commands.command()
def diff(
    name: WordArgument,
    other: Annotated[
        str | None, typer.Argument(metavar="[OTHER]", help="Another layout; else the desk.", show_default=False)
    ] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Show what a recall would change, or how two layouts differ.

    Exits with 1 where something differs.

    Example: jaklet layout diff departures@3 departures
    """
    from jaklet.cli.resources import opened_config
    from jaklet.core.actions.layouts.comparing import compare_layouts, layout_drift
    from jaklet.drawing.diffs import difference_data, difference_text, drift_data, drift_text

    ready = opened_config(config, desk)
    layout = sound_layout(name, ready)
    columns, ink = terminal.columns(), terminal.ink_for()
    if other is None:
        standing = _desk(desk)
        drift = layout_drift(layout, standing, ready.config)
        differs = bool(drift)
        if form is OutputFormat.json:
            terminal.say_json(drift_data(drift, standing, ready.config))
        else:
            terminal.say(drift_text(drift, standing, ready.config, columns, ink))
    else:
        difference = compare_layouts(layout, sound_layout(other, ready))
        differs = bool(difference)
        if form is OutputFormat.json:
            terminal.say_json(difference_data(difference, ready.config))
        else:
            now = present(desk)
            there = now.displays if now else ()
            terminal.say(difference_text(difference, (name, other), ready.config, columns, ink, there))
    raise typer.Exit(1 if differs else 0)


def _desk(desk: str | None) -> "Desk":
    now = present(desk)
    if now is None:
        raise DeskError("there is no desk here to compare with", "name a second layout, or set DISPLAY")
    return now


@commands.command()
def draw(
    names: Annotated[
        list[str], typer.Argument(metavar="NAME...", help="Layouts or versions of them.", show_default=False)
    ],
    out: Annotated[
        str | None, typer.Option("--out", metavar="FILE", help="A file: .png, .svg or .pdf.", show_default=False)
    ] = None,
    on: OnOption = None,
    before_after: Annotated[bool, typer.Option("--before-after", help="Beside it the desk as it is now.")] = False,
    figures: Annotated[bool, typer.Option("--figures", help="Add what is seen, what overlaps, what is empty.")] = False,
    config: ConfigOption = None,
    desk: DeskOption = None,
) -> None:
    """Draw layouts; several make a sheet.

    Displays to scale, windows over one another, the focus marked.

    In the terminal, or with --out as a picture (which needs the extra `pictures`).

    Example: jaklet layout draw departures arrivals --out sheet.png
    """
    from jaklet.cli.resources import opened_config
    from jaklet.core.actions.layouts.imagining import parse_displays, saved_displays
    from jaklet.drawing.panels import DeskPanel, panel_of, panels_text

    ready = opened_config(config, desk)
    now = _desk(desk) if before_after else present(desk)
    panels = [DeskPanel("the desk now", now)] if before_after and now else []
    for name in names:
        layout = sound_layout(name, ready)
        if on:
            displays = parse_displays(on, ready.config)
        else:
            displays = saved_displays(layout, ready.config, now.displays if now else ())
        panels.append(panel_of(_title(name, layout), layout, displays, ready.config))
    if out:
        from jaklet.drawing.figures import draw_panels

        draw_panels(panels, ready.config, out, figures=figures)
        terminal.say(f"drawn to {out}")
    else:
        terminal.say(panels_text(panels, ready.config, terminal.columns(), terminal.ink_for(), figures=figures))


def _title(name: str, layout: "Layout") -> str:
    number = f"{layout.number} · " if layout.number is not None and "@" not in name else ""
    return f"{number}{name if '@' in name else layout.name}"
