"""Which arrangement of a layout is for the displays that are there, and where windows go whose display is not."""

from collections.abc import Iterable, Mapping
from typing import Final

from jaklet.core.actions.placing.grounds import stand_in
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.geometry import Anchor, Insets, Rect, SizeLimits, settled_frame
from jaklet.core.values.layouts import Arrangement, Layout, LayoutEntry
from jaklet.core.values.words import listed

# How well an arrangement goes with displays, from the best.
EXACT, ANY, SAME_NAMES, SUBSET, ADAPTED = 4, 3, 2, 1, 0
FITS: Final = {EXACT: "yes", ANY: "yes", SAME_NAMES: "other sizes", SUBSET: "leaves some free", ADAPTED: "adapted"}


def display_set(desk: Desk, config: Config) -> dict[str, str]:
    """Return the displays of a desk as a layout keeps them: name to whole rectangle."""
    return {config.role_of(d): "{2}x{3}+{0}+{1}".format(*d.rect) for d in desk.displays}


def display_sizes(displays: Mapping[str, str]) -> dict[str, str]:
    """Return the displays without their positions, which places do not depend on."""
    return {name: size_of(text) for name, text in displays.items()}


def size_of(text: str) -> str:
    """Return the size of a display without its position."""
    return text.partition("+")[0]


def arrangement_fit(arrangement: Arrangement, present: Mapping[str, str]) -> int:
    """Return how well an arrangement goes with the displays that are there."""
    if not arrangement.displays:
        return ANY
    own, there = display_sizes(arrangement.displays), display_sizes(present)
    if own == there:
        return EXACT
    if own.keys() == there.keys():
        return SAME_NAMES
    return SUBSET if own.items() <= there.items() else ADAPTED


def best_arrangement(layout: Layout, present: Mapping[str, str]) -> Arrangement:
    """Return the arrangement that goes best with the displays; of equal ones that with the most of them."""
    return max(
        layout.arrangements, key=lambda one: (arrangement_fit(one, present), len(one.displays.keys() & present.keys()))
    )


def present_for(layout: Layout, desk: Desk, config: Config) -> Layout:
    """Return the layout as it is for the displays of a desk."""
    return layout.as_on(best_arrangement(layout, display_set(desk, config))) if layout.variants else layout


def displays_text(displays: Mapping[str, str]) -> str:
    """Return a set of displays in words."""
    return listed(list(displays)) or "whatever displays there are"


def stood_in_for(entries: Iterable[LayoutEntry], desk: Desk, config: Config) -> list[str]:
    """Return in words which displays are not there, and where their windows stand instead."""
    absent = sorted({one.display for one in entries if one.display and config.display(one.display, desk) is None})
    homes = [config.role_of(stand_in(name, desk, config)) for name in absent]
    return [f"display {n} is not there: its windows stand on {home}" for n, home in zip(absent, homes, strict=True)]


def brought_within(frame: Rect, work: Rect, limits: SizeLimits, border: Insets) -> Rect:
    """Return a frame that is wholly within a work area, as far as its window's limits let it."""
    room = Rect(frame.x, frame.y, min(frame.width, work.width), min(frame.height, work.height))
    size = settled_frame(room, border, limits, Anchor())
    return size._replace(
        x=max(work.x, min(frame.x, work.right - size.width)), y=max(work.y, min(frame.y, work.bottom - size.height))
    )
