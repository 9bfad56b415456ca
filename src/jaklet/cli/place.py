"""jaklet place draw"""

import re
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Final

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, FormatOption, OutputFormat
from jaklet.core.values.errors import DeskError, SentenceError, UsageError
from jaklet.core.values.regexes import regex

if TYPE_CHECKING:
    from collections.abc import Mapping

    from jaklet.core.values.config import Config
    from jaklet.core.values.desk import Desk, Display
    from jaklet.core.values.places import Place
    from jaklet.drawing.desks import ScreenLabel

commands = typer.Typer(no_args_is_help=True, help="Try places out before they are used.", rich_markup_mode=None)
_GRID: Final = regex(r"([1-9]\d?)x([1-9]\d?)")
_SIZE: Final = regex(r"([1-9]\d{2,4})x([1-9]\d{2,4})")
USUAL: Final = "1920x1080"  # where there is no desk to look at


@commands.callback()
def _group() -> None:
    """Try places out before they are used."""


@commands.command()
def draw(
    place: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="[PLACE]...", help="Places in quotes; without any, those of the config.", show_default=False
        ),
    ] = None,
    grid: Annotated[
        str | None,
        typer.Option(
            "--grid", metavar="6x4", help="Show the cells of a grid with their addresses.", show_default=False
        ),
    ] = None,
    on: Annotated[
        str | None,
        typer.Option(
            "--on", metavar="DISPLAY", help="The display to draw; the primary one if not said.", show_default=False
        ),
    ] = None,
    size: Annotated[
        str | None,
        typer.Option("--size", metavar="1920x1080", help="Draw a display of this size instead.", show_default=False),
    ] = None,
    picture: Annotated[
        str | None, typer.Option("--picture", metavar="FILE", help="Write a picture, too.", show_default=False)
    ] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Draw places on a display, with the frames of windows there.

    Example: jaklet place draw "left 2/3" "right 1/3"

    Example: jaklet place draw --grid 6x4 "cells B2:D3 of 6x4"
    """
    from jaklet.cli.resources import opened_or_bare
    from jaklet.drawing.place_drawings import (
        drawn_places,
        grid_marks,
        places_data,
        places_desk,
        places_names,
        places_text,
    )

    known = opened_or_bare(config, desk)
    display = _display(on, size, desk, known)
    wanted = _wanted(place or [], known)
    if not place and not grid:
        wanted = list(known.places.items())
        if not wanted:
            raise UsageError("the config has no places", 'name one: jaklet place draw "left 2/3"')
    found = drawn_places(wanted, display, known)
    marks = grid_marks(*_pair(_GRID, grid, "grid", "6x4"), display, known) if grid else []
    if form is OutputFormat.json:
        terminal.say_json(places_data(found, display, known, marks))
    else:
        terminal.say(places_text(found, display, known, marks, terminal.columns(), terminal.ink_for()))
    if picture:
        write_picture(places_desk(found, display), known, picture, marks, places_names(found))


def write_picture(
    desk: "Desk",
    config: "Config",
    path: str,
    marks: "list[ScreenLabel] | None" = None,
    names: "Mapping[int, str] | None" = None,
) -> None:
    """Write a picture of a desk, and say where it is."""
    from jaklet.drawing.desk_pictures import draw_picture

    draw_picture(desk, config, Path(path), marks or (), names)
    terminal.warn(f"the picture is in {path}")


def _wanted(texts: list[str], config: "Config") -> "list[tuple[str, Place]]":
    """Return the places that were typed, with the names that they go by."""
    from jaklet.core.language.place_grammar import parse_place, unknown_place
    from jaklet.core.values.forms import NamedPlace, SamePlace

    found = []
    for text in texts:
        try:
            place = parse_place(text)
        except SentenceError as fault:
            raise UsageError(fault.message, fault.pointed_at(text)) from fault
        for one in place.alternatives:
            if isinstance(one.form, NamedPlace) and one.form.name not in config.places:
                raise UsageError(f"no place is called {one.form.name!r}", unknown_place(one.form.name, config.places))
            if isinstance(one.form, SamePlace):
                raise UsageError("the same place is another one for each window", "name a place, such as left 2/3")
        found.append((place.form.name if isinstance(place.form, NamedPlace) else "", place))
    return found


def _pair(pattern: re.Pattern[str], text: str, what: str, example: str) -> tuple[int, int]:
    match = pattern.fullmatch(text.strip().lower())
    if not match:
        raise UsageError(f"{text!r} is no {what}", f"write it like {example}")
    return int(match[1]), int(match[2])


def _display(on: str | None, size: str | None, desk: str | None, config: "Config") -> "Display":
    """Return the display to draw: of a size that was given, or of the desk; a usual one where there is no desk."""
    from jaklet.cli.resources import opened_desk
    from jaklet.core.values.desk import Display
    from jaklet.core.values.geometry import Rect
    from jaklet.core.values.words import either

    if size is None:
        try:
            with opened_desk(desk) as desktop:
                now = desktop.look().desk
        except DeskError:
            size = USUAL
            terminal.warn(f"there is no desk to look at; this is a display of {USUAL}")
        else:
            found = config.display(on, now) if on else now.primary
            if found is None:
                names = [config.role_of(display) for display in now.displays]
                raise UsageError(f"display {on} is not there", f"displays are {either(names)}")
            return found
    width, height = _pair(_SIZE, size, "size", USUAL)
    rect = Rect(0, 0, width, height)
    return Display(config.displays.get(on, on) if on else "display", rect, rect, primary=True)
