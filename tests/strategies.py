"""Generated inputs that several tests share."""

from fractions import Fraction

from hypothesis import strategies as st

from jaklet.core.values.forms import (
    CellPlace,
    CentrePlace,
    FullPlace,
    Grid,
    PixelPlace,
    PlaceForm,
    SidePlace,
    TrackPlace,
)
from jaklet.core.values.geometry import Length, Rect, SizeLimits

areas = st.builds(
    Rect, st.integers(-4000, 4000), st.integers(-4000, 4000), st.integers(300, 8000), st.integers(300, 8000)
)
gaps = st.integers(0, 24)
shares = st.integers(2, 16).flatmap(lambda low: st.builds(Fraction, st.integers(1, low - 1), st.just(low)))
lengths = st.one_of(st.builds(Length, shares, st.just(0)), st.builds(Length, st.none(), st.integers(1, 4000)))


def _tracks(count: int) -> st.SearchStrategy[TrackPlace]:
    return st.integers(1, count).flatmap(
        lambda first: st.builds(TrackPlace, st.just(first), st.integers(first, count), st.just(count))
    )


tracks = st.integers(1, 9).flatmap(_tracks)
across = st.tuples(st.sampled_from(["left", "right"]), lengths)
down = st.tuples(st.sampled_from(["top", "bottom"]), lengths)
forms: st.SearchStrategy[PlaceForm] = st.one_of(
    st.just(FullPlace()),
    st.builds(SidePlace, across, st.none()),
    st.builds(SidePlace, st.none(), down),
    st.builds(SidePlace, across, down),
    st.builds(Grid, tracks, st.none()),
    st.builds(Grid, st.none(), tracks),
    st.builds(Grid, tracks, tracks),
    st.builds(CellPlace, tracks, tracks),
    st.builds(CentrePlace, lengths, lengths),
    st.builds(PixelPlace, st.integers(-999, 999), st.integers(-999, 999), st.integers(1, 9999), st.integers(1, 9999)),
)
limits = st.builds(
    SizeLimits,
    min_width=st.integers(1, 400),
    min_height=st.integers(1, 300),
    max_width=st.integers(500, 3000),
    max_height=st.integers(400, 3000),
    base_width=st.integers(0, 30),
    base_height=st.integers(0, 30),
    step_width=st.integers(1, 20),
    step_height=st.integers(1, 20),
    min_aspect=st.none() | st.fractions(Fraction(1, 4), 1),
    max_aspect=st.none() | st.fractions(1, 4),
)
