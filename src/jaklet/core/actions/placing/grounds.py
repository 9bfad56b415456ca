"""The ground that windows are placed on: a display's work area, and the gaps that hold there."""

from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.forms import Ground


def ground(display: Display, desk: Desk, config: Config, alone: bool = False) -> Ground:
    """Return the ground of a display. `alone`: one window is to have it for itself.

    A gap that is a share is one of the work area's shorter side.
    """
    settings = config.settings
    if not desk.gaps or (alone and settings.no_gap_alone):
        return Ground(display.work)
    gap, rim = settings.gap, settings.rim
    if config.gaps:
        own_gap, own_rim = config.gaps.get(config.role_of(display), (None, None))
        rim = own_rim or (None if own_gap else rim)
        gap = own_gap or gap
    if gap.share is None and rim is None:
        return Ground(display.work, gap.pixels, gap.pixels)
    short = min(display.work.width, display.work.height)
    between = gap.of(short)
    return Ground(display.work, between, between if rim is None else rim.of(short))


def ground_of(window: Window, display: Display, desk: Desk, config: Config) -> Ground:
    """Return the ground for one window, which may be the only one in view there."""
    alone = config.settings.no_gap_alone and not any(other.id != window.id for other in on_display(display, desk))
    return ground(display, desk, config, alone)


def no_display(name: str | None, desk: Desk, config: Config) -> tuple[str, str]:
    """Return the fault for a display that is not there, and the names of those that are."""
    there = ", ".join(config.role_of(display) for display in desk.displays)
    return f"display {name} is not there", f"displays: {there}"


def stand_in(name: str, desk: Desk, config: Config) -> Display:
    """Return the display that stands in for one that is not there: the one that its `else` names, else the primary."""
    seen = {name}
    while (name := config.elses.get(name, "")) and name not in seen:
        found = config.display(name, desk)
        if found:
            return found
        seen.add(name)
    return desk.primary


def on_display(display: Display, desk: Desk) -> tuple[Window, ...]:
    """Return the windows in view on a display, without dialogs."""
    return tuple(w for w in desk.main_windows if desk.in_view(w) and desk.display_of(w.frame) == display)
