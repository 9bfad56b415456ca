"""A desk as a layout would make it, on displays that need not be there."""

from collections.abc import Mapping, Sequence
from typing import Final

from jaklet.core.actions.layouts.displays import present_for
from jaklet.core.actions.layouts.plans import RecallPlan
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.errors import UsageError
from jaklet.core.values.geometry import NO_LIMITS, Rect
from jaklet.core.values.layouts import Layout
from jaklet.core.values.regexes import regex

_DISPLAY: Final = regex(r"\s*(?:display\s+)?(\S+)\s+(\d{2,5})x(\d{2,5})(?:\+(-?\d{1,5})\+(-?\d{1,5}))?\s*")
_SAVED: Final = regex(r"(\d{1,5})x(\d{1,5})\+(-?\d{1,5})\+(-?\d{1,5})")
FALLBACK: Final = Rect(0, 0, 1920, 1080)  # where nothing says how large a display is


def parse_displays(text: str, config: Config) -> tuple[Display, ...]:
    """Return the displays of `main 1920x1080, quay 1280x1024+1920+0`, side by side where no position is given.

    Raises `UsageError`.
    """
    displays: list[Display] = []
    for part in text.split(","):
        found = _DISPLAY.fullmatch(part)
        if not found:
            raise UsageError(f"{part.strip()!r} is no display", 'write name and size: "main 1920x1080, quay 1280x1024"')
        name, wide, high, x, y = found.groups()
        if any(display.name == config.displays.get(name, name) for display in displays):
            raise UsageError(f"display {name} is named twice", "keep one of the two")
        right = max((display.rect.right for display in displays), default=0)
        rect = Rect(right if x is None else int(x), 0 if y is None else int(y), int(wide), int(high))
        displays.append(Display(config.displays.get(name, name), rect, rect, not displays))
    return tuple(displays)


def saved_displays(layout: Layout, config: Config, present: Sequence[Display] = ()) -> tuple[Display, ...]:
    """Return the displays that a layout was saved on. Those that are there have their bars; of others none is known."""
    there = {display.name: display for display in present}
    displays: list[Display] = []
    for name, text in layout.displays.items():
        found = _SAVED.fullmatch(text)
        rect = Rect(int(found[3]), int(found[4]), int(found[1]), int(found[2])) if found else FALLBACK
        connector = config.displays.get(name, name)
        known = there.get(connector)
        same = known is not None and known.rect == rect
        displays.append(known if known and same else Display(connector, rect, rect, not displays))
    if displays:
        return tuple(displays)
    return tuple(present) or _named_displays(layout, config)


def _named_displays(layout: Layout, config: Config) -> tuple[Display, ...]:
    """Return a display for each that the windows name, side by side."""
    names = list(dict.fromkeys(entry.display for entry in layout.entries if entry.display)) or ["main"]
    return tuple(
        Display(config.displays.get(name, name), rect, rect, i == 0)
        for i, name in enumerate(names)
        for rect in (FALLBACK._replace(x=i * FALLBACK.width),)
    )


def imagine_desk(layout: Layout, displays: Sequence[Display], config: Config) -> Desk:
    """Return the desk that a layout would make of these displays. Windows without a place are left out.

    A window's id is its index in the layout, counted from 1.
    """
    layout = present_for(layout, Desk(tuple(displays)), config)
    number = config.workspace_number
    shown = number(layout.workspace) or 1
    workspaces = max([shown, *(number(entry.workspace or 1) for entry in layout.entries)])
    empty = Desk(tuple(displays), workspace=shown, workspaces=workspaces)
    plan = RecallPlan(layout, config, {})
    windows = []
    for i, entry in enumerate(layout.entries):
        if entry.place is None:
            continue
        app = config.apps.get(entry.app or "")
        limits = NO_LIMITS._replace(min_width=app.least[0], min_height=app.least[1]) if app and app.least else NO_LIMITS
        window = Window(
            i + 1,
            cls=entry.cls or entry.label,
            title=entry.title or "",
            limits=limits,
            launched_for=entry.app or "",
            workspace=None if entry.workspace is None else number(entry.workspace),
            shape=entry.shape,
            minimised=entry.minimised,
            above=entry.above,
        )
        frame = plan.frame(entry, window, empty)
        display = empty.display_of(frame)
        filling = {WindowShape.MAXIMISED: display.work, WindowShape.FULLSCREEN: display.rect}
        windows.append(window._replace(frame=filling.get(entry.shape, frame)))
    order = [window.id for window in reversed(windows)]
    order.sort(key=lambda wid: layout.entries[wid - 1].above)
    active = None if layout.focus is None else layout.focus + 1
    return Desk(
        tuple(displays),
        tuple(windows),
        tuple(order),
        active=active if active in order else None,
        workspace=shown,
        workspaces=workspaces,
    )


def frames_of(layout: Layout, config: Config) -> Mapping[int, Rect]:
    """Return the frames of a layout's windows by their indices, on the displays that it was saved on."""
    desk = imagine_desk(layout._replace(variants=()), saved_displays(layout, config), config)
    return {window.id - 1: window.frame for window in desk.windows}
