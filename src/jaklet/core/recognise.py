"""From a window's frame back to the place that it fills."""

from collections.abc import Iterator, Mapping
from fractions import Fraction
from functools import cache

from jaklet.core.forms import At, Form, Full, Grid, Named, Sides, Tracks, frame_of
from jaklet.core.geometry import Insets, Length, Rect, SizeLimits, settled
from jaklet.core.places import Place


@cache
def _simple_forms() -> tuple[Form, ...]:
    """Return the forms that a saved window is compared with, simplest first."""
    shares = [
        Length(Fraction(n, d)) for n, d in ((1, 2), (1, 3), (2, 3), (1, 4), (3, 4), (1, 5), (2, 5), (3, 5), (4, 5))
    ]

    def one_axis(words: tuple[str, str]) -> list[tuple[str, Length]]:
        return [(word, share) for share in shares for word in words]

    def tracks() -> Iterator[Tracks]:
        for count in range(3, 7):
            yield from (Tracks(i, i, count) for i in range(1, count + 1))
            yield from (Tracks(i, j, count) for i in range(1, count) for j in range(i + 1, count + 1))

    across, down = one_axis(("left", "right")), one_axis(("top", "bottom"))
    return (
        Full(),
        *(Sides(across=axis) for axis in across),
        *(Sides(down=axis) for axis in down),
        *(Grid(columns=track) for track in tracks()),
        *(Grid(rows=track) for track in tracks()),
        *(Sides(a, d) for a in across for d in down),
    )


def recognised(
    frame: Rect, area: Rect, gap: int, border: Insets, limits: SizeLimits, names: Mapping[str, Place], display: str
) -> Form:
    """Return the form that a window fills exactly; pixels where no simple one fits.

    A window that takes only some sizes (a terminal in whole characters) fills a form when it is less than one step
    smaller. One that is kept from a form by its minimum or maximum does not: which form was meant cannot be known.
    """

    def fills(form: Form) -> bool:
        whole = frame_of(form, area, gap)
        if whole == frame:
            return True
        near = (
            0 <= whole.width - frame.width < limits.step_width and 0 <= whole.height - frame.height < limits.step_height
        )
        return near and settled(whole, border, limits, form.anchor) == frame

    for name, place in names.items():
        if place.display in (None, display) and fills(place.form):
            return Named(name)
    for form in _simple_forms():
        if fills(form):
            return form
    return At(frame.x - area.x, frame.y - area.y, frame.width, frame.height)
