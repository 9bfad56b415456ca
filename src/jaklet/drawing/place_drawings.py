"""Places drawn before they are used: each as a window on a desk of one display, and a grid to find cells by."""

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from jaklet.core.actions.placing.grounds import ground
from jaklet.core.actions.placing.window_stands import stand_of
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.forms import CellPlace, TrackPlace, frame_of
from jaklet.core.values.geometry import Rect
from jaklet.core.values.places import Place, resolve_place
from jaklet.core.values.words import counted
from jaklet.drawing.desks import ScreenLabel, draw_desk
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.tables import table_text


class DrawnPlace(NamedTuple):
    """A place on a display: what it is called, the frame that it has there, its note."""

    name: str
    place: str
    frame: Rect
    note: str


def drawn_places(places: Sequence[tuple[str, Place]], display: Display, config: Config) -> list[DrawnPlace]:
    """Return the frames that places have on a display, each alternative by itself."""
    desk = Desk((display,))
    found = []
    for name, place in places:
        for one in resolve_place(place, config.places).alternatives:
            stand = stand_of(one._replace(display=None), None, desk, config)
            if stand:
                found.append(DrawnPlace(name, str(stand.form), stand.whole, one.note or place.note))
    return found


def places_desk(found: Sequence[DrawnPlace], display: Display) -> Desk:
    """Return a desk with a window at each place, the small ones over the large."""
    windows = tuple(Window(i, title=one.place if one.name else "", frame=one.frame) for i, one in enumerate(found, 1))
    order = sorted(windows, key=lambda window: -window.frame.width * window.frame.height)
    return Desk((display,), windows, tuple(window.id for window in order), tuple(window.id for window in windows))


def places_names(found: Sequence[DrawnPlace]) -> Mapping[int, str]:
    """Return the labels of the windows on such a desk."""
    return {i: f"{i} {one.name or one.place}" for i, one in enumerate(found, 1)}


def grid_marks(columns: int, rows: int, display: Display, config: Config) -> list[ScreenLabel]:
    """Return the cells of a grid with their addresses."""
    ground_ = ground(display, Desk((display,)), config)
    addresses = ((column, row) for row in range(1, rows + 1) for column in range(1, columns + 1))
    cells = [CellPlace(TrackPlace(column, column, columns), TrackPlace(row, row, rows)) for column, row in addresses]
    return [ScreenLabel(frame_of(cell, ground_), str(cell).split()[1]) for cell in cells]


def places_text(
    found: Sequence[DrawnPlace],
    display: Display,
    config: Config,
    marks: Sequence[ScreenLabel],
    columns: int,
    ink: Ink = PLAIN,
) -> str:
    """Return the drawing, and a table of the frames."""
    parts = [
        draw_desk(
            places_desk(found, display), Config(displays=config.displays), columns, ink, marks, places_names(found)
        )
    ]
    work = display.work
    rows = [
        (
            str(i),
            one.name,
            one.place,
            f"{one.frame.width}x{one.frame.height}",
            f"{one.frame.x},{one.frame.y}",
            f"{100 * one.frame.width * one.frame.height / (work.width * work.height):.0f}%",
            one.note,
        )
        for i, one in enumerate(found, 1)
    ]
    if rows:
        heads = ("#", "name", "place", "size", "at", "of the work area", "note")
        parts.append(table_text(heads, rows, columns if ink.coloured else None, ink))
    elif marks:
        parts.append(f"{counted(len(marks), 'cell')}; a block of them is a place, such as: cells {_example(marks)}")
    return "\n".join(parts)


def _example(marks: Sequence[ScreenLabel]) -> str:
    first, last = marks[0].text, marks[-1].text
    letters = sorted({mark.text.rstrip("0123456789") for mark in marks}, key=lambda name: (len(name), name))
    rows = last.lstrip("ABCDEFGHIJKLMNOPQRSTUVWXYZ")
    return f"{first}:{letters[len(letters) // 2]}{rows} of {len(letters)}x{rows}"


def places_data(
    found: Sequence[DrawnPlace], display: Display, config: Config, marks: Sequence[ScreenLabel]
) -> Mapping[str, Any]:
    """Return the same as plain data; frames in pixels."""
    return {
        "display": config.role_of(display),
        "work": display.work._asdict(),
        "places": [one._asdict() | {"frame": one.frame._asdict()} for one in found],
        "cells": {mark.text: mark.frame._asdict() for mark in marks},
    }
