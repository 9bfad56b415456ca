"""From a place to a frame, and back: where a window is to stand, and by which place. Nobody else works it out.

Windows that share a display get their frames together (`sharing.py`); all others, one by one, here.
"""

from collections.abc import Mapping
from typing import Final, NamedTuple

from jaklet.core.actions.placing.grounds import ground, ground_of, stand_in
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.forms import FullPlace, PixelPlace, PlaceForm, SamePlace, frame_of
from jaklet.core.values.geometry import Rect, SizeLimits, settled_frame
from jaklet.core.values.place_recognition import recognise_place
from jaklet.core.values.places import Place, resolve_place

FILLING: Final = (WindowShape.MAXIMISED, WindowShape.FULLSCREEN)
NO_NAMES: Final[Mapping[str, Place]] = {}


class WindowStand(NamedTuple):
    """Where a window is to stand, and why: it is to fill `whole` of a display, as `place` says, whose form that is."""

    place: Place
    display: Display
    form: PlaceForm
    whole: Rect

    def frame(self, window: Window, limits: SizeLimits | None = None, whole: Rect | None = None) -> Rect:
        """Return the frame that a window takes of it. `limits`: instead of its own; `whole`: if it can have no more."""
        return settled_frame(whole or self.whole, window.border, limits or window.limits, self.form.anchor)


def stand_of(
    place: Place, window: Window | None, desk: Desk, config: Config, *, of_layout: bool = False
) -> WindowStand | None:
    """Return where a place lets a window stand; None if its display is not there. Of alternatives the first.

    Without a window: about where, for any. `of_layout`: another display stands in for one that is not there, and `same`
    is where the window stands, not its share of another display.
    """
    place = resolve_place(place, config.places)
    if place.display:
        display = config.display(place.display, desk)
        if display is None and of_layout:
            display = stand_in(place.display, desk, config)
    else:
        display = desk.display_of(desk.frame_of(window)) if window else desk.primary
    if display is None:
        return None
    form = place.form_on(config.role_of(display)) if place.varied else place.form
    if window is None:
        return WindowStand(place, display, form, frame_of(form, ground(display, desk, config)))
    if isinstance(form, SamePlace):
        if of_layout:
            return WindowStand(place, display, form, window.frame)
        form = form_elsewhere(window, display, desk, config)
    return filling(form, window, display, desk, config, place)


def filling(
    form: PlaceForm, window: Window, display: Display, desk: Desk, config: Config, place: Place | None = None
) -> WindowStand:
    """Return where a window stands that fills a form on a display. `place`: which says so."""
    return WindowStand(place or Place(form), display, form, frame_of(form, ground_of(window, display, desk, config)))


def form_of(window: Window, desk: Desk, config: Config) -> PlaceForm:
    """Return the form that a window fills, without the names of the config.

    One that is maximised or fullscreen fills all of the work area as far as others are concerned.
    """
    return (
        FullPlace() if window.shape in FILLING else form_filled(window, desk.frame_of(window), desk, config, NO_NAMES)
    )


def form_filled(
    window: Window, frame: Rect, desk: Desk, config: Config, names: Mapping[str, Place] | None = None
) -> PlaceForm:
    """Return the form that a frame of a window fills, by the names of the config, or by these."""
    display = desk.display_of(frame)
    role = config.role_of(display)
    known = config.places if names is None else names
    return recognise_place(frame, ground_of(window, display, desk, config), window.border, window.limits, known, role)


def form_elsewhere(window: Window, display: Display, desk: Desk, config: Config) -> PlaceForm:
    """Return the form for a window on another display: the same share; of the same size where it fills no share."""
    form = form_of(window, desk, config)
    if not isinstance(form, PixelPlace):
        return form
    work = display.work
    width, height = min(form.width, work.width), min(form.height, work.height)
    return PixelPlace(min(max(form.x, 0), work.width - width), min(max(form.y, 0), work.height - height), width, height)
