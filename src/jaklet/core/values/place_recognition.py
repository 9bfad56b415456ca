"""From a window's frame back to the place that it fills."""

from collections.abc import Iterator, Mapping
from fractions import Fraction
from functools import cache, lru_cache

from jaklet.core.values.forms import (
    CellPlace,
    CentrePlace,
    FullPlace,
    Grid,
    Ground,
    NamedPlace,
    PixelPlace,
    PlaceForm,
    SamePlace,
    SidePlace,
    TrackPlace,
    frame_of,
)
from jaklet.core.values.geometry import Insets, Length, Rect, SizeLimits, settled_frame
from jaklet.core.values.places import Place

_GRIDS = ((3, 2), (3, 3), (4, 2), (4, 3), (6, 4))


@cache
def _simple_forms() -> tuple[PlaceForm, ...]:
    """Return the forms that a saved window is compared with, simplest first."""
    shares = [
        Length(Fraction(n, d)) for n, d in ((1, 2), (1, 3), (2, 3), (1, 4), (3, 4), (1, 5), (2, 5), (3, 5), (4, 5))
    ]

    def one_axis(words: tuple[str, str]) -> list[tuple[str, Length]]:
        return [(word, share) for share in shares for word in words]

    def tracks() -> Iterator[TrackPlace]:
        for count in range(3, 7):
            yield from of(count)

    def of(count: int) -> Iterator[TrackPlace]:
        yield from (TrackPlace(i, i, count) for i in range(1, count + 1))
        yield from (TrackPlace(i, j, count) for i in range(1, count) for j in range(i + 1, count + 1))

    steps = [Length(Fraction(n, 20)) for n in range(4, 21)]  # every 5 % from 20 %
    across, down = one_axis(("left", "right")), one_axis(("top", "bottom"))
    return (
        FullPlace(),
        *(SidePlace(across=axis) for axis in across),
        *(SidePlace(down=axis) for axis in down),
        *(Grid(columns=track) for track in tracks()),
        *(Grid(rows=track) for track in tracks()),
        *(SidePlace(a, d) for a in across for d in down),
        *(CellPlace(column, row) for columns, rows in _GRIDS for column in of(columns) for row in of(rows)),
        *(CentrePlace(width, height) for width in steps for height in steps),
    )


@lru_cache(maxsize=64)
def _by_frame(ground: Ground) -> Mapping[Rect, PlaceForm]:
    """Return the simple forms by the frames that they have on this ground; of several with one frame the simplest."""
    frames: dict[Rect, PlaceForm] = {}
    for form in _simple_forms():
        frames.setdefault(form.frame(ground), form)
    return frames


def recognise_place(
    frame: Rect, ground: Ground, border: Insets, limits: SizeLimits, names: Mapping[str, Place], display: str
) -> PlaceForm:
    """Return the form that a window fills exactly; pixels where no simple one fits.

    A window that takes only some sizes (a terminal in whole characters) fills a form when it is less than one step
    smaller. One that is kept from a form by its minimum or maximum does not: which form was meant cannot be known.
    """

    def nearly_fills(whole: Rect, form: PlaceForm) -> bool:
        near = (
            0 <= whole.width - frame.width < limits.step_width and 0 <= whole.height - frame.height < limits.step_height
        )
        return near and settled_frame(whole, border, limits, form.anchor) == frame

    for name, place in names.items():
        form = place.form
        if (
            display not in dict(place.varied)
            and place.display in (None, display)
            and not isinstance(form, NamedPlace | SamePlace)
        ):
            whole = frame_of(form, ground)
            if whole == frame or nearly_fills(whole, form):
                return NamedPlace(name)
    simple = _by_frame(ground)
    if (found := simple.get(frame)) is not None:  # `FullPlace()` is an empty tuple
        return found
    if limits.step_width > 1 or limits.step_height > 1:
        for whole, form in simple.items():
            if nearly_fills(whole, form):
                return form
    return PixelPlace(frame.x - ground.area.x, frame.y - ground.area.y, frame.width, frame.height)
