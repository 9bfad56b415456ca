"""Layouts drawn one below another in a terminal, with figures of how well they use their displays."""

from collections.abc import Mapping, Sequence
from fractions import Fraction
from typing import NamedTuple

from jaklet.core.actions.layouts.displays import present_for
from jaklet.core.actions.layouts.imagining import imagine_desk
from jaklet.core.actions.layouts.quality import quality
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.layouts import Layout, names_of
from jaklet.core.values.words import printable
from jaklet.drawing.desks import draw_desk, is_covered, place_of
from jaklet.drawing.ink import PLAIN, Ink


class DeskPanel(NamedTuple):
    """A desk with its title. `layout`: the one that it shows, as it is for these displays; None for the desk."""

    title: str
    desk: Desk
    layout: Layout | None = None


def panel_of(title: str, layout: Layout, displays: Sequence[Display], config: Config) -> DeskPanel:
    """Return the desk that a layout would make of these displays."""
    desk = imagine_desk(layout, displays, config)
    return DeskPanel(title, desk, present_for(layout, desk, config))


def panel_names(panel: DeskPanel, config: Config) -> Mapping[int, str]:
    """Return the labels of the windows: name and share, and the key that goes there."""
    keys = keys_to_apps(config)
    if panel.layout is None:
        return {
            window.id: printable(f"{_name(window, panel.desk, config)} {place_of(window, panel.desk, config)}")
            for window in panel.desk.windows
        }
    entries = panel.layout.entries
    names = names_of(entries)
    found = {}
    for window in panel.desk.windows:
        entry = entries[window.id - 1] if window.id <= len(entries) else None
        share = f" {entry.place.form}" if entry and entry.place else ""
        key = f" [{keys[entry.app]}]" if entry and entry.app in keys else ""
        found[window.id] = printable(f"{names[window.id - 1] if entry else window.cls}{share}{key}")
    return found


def _name(window: Window, desk: Desk, config: Config) -> str:
    return config.claims.app_of(window, desk) or window.cls or "window"


def keys_to_apps(config: Config) -> Mapping[str | None, str]:
    """Return the first key that goes to each app."""
    keys: dict[str | None, str] = {}
    for binding in config.live:
        if binding.action.verb == "go" and not binding.layer and not binding.action.named("BACKWARDS"):
            keys.setdefault(binding.action.refs[0].name, binding.written)
    return keys


def panels_text(
    panels: Sequence[DeskPanel], config: Config, columns: int, ink: Ink = PLAIN, *, figures: bool = False
) -> str:
    """Return the drawings with their titles; hidden windows and figures below each."""
    blocks = []
    for panel in panels:
        names = panel_names(panel, config)
        lines = [ink(printable(panel.title), "strong")]
        lines.append(draw_desk(panel.desk, config, columns, ink, names=names))
        hidden = hidden_told(panel, names)
        lines += [ink(hidden, "faint")] if hidden else []
        lines += figure_lines(panel, names) if figures else []
        blocks.append("\n".join(lines))
    return "\n\n".join(blocks)


def hidden_told(panel: DeskPanel, names: Mapping[int, str]) -> str:
    """Return in a line what is in the layout and not in view."""
    desk = panel.desk
    hidden = [f"{names[w.id]} (behind others)" for w in desk.windows if is_covered(w, desk)]
    hidden += [f"{names[w.id]} (minimised)" for w in desk.windows if w.minimised]
    hidden += [
        f"{names[w.id]} (workspace {w.workspace})" for w in desk.windows if not w.minimised and not desk.in_view(w)
    ]
    if panel.layout:
        drawn = {window.id for window in desk.windows}
        every = names_of(panel.layout.entries)
        hidden += [f"{name} (where it is)" for i, name in enumerate(every) if i + 1 not in drawn]
    return f"not in view: {', '.join(hidden)}" if hidden else ""


def figure_lines(panel: DeskPanel, names: Mapping[int, str]) -> list[str]:
    """Return how well the windows use the displays, in words."""
    found = quality(panel.desk)
    parts = [f"{names[wid].split(' [')[0]} {percent(share)}" for wid, share in found.seen.items() if share < 1]
    seen = ", ".join(parts) if parts else "all of every window"
    return [f"seen: {seen} · overlap {percent(found.overlap)} · empty {percent(found.wasted)}"]


def percent(share: Fraction) -> str:
    """Return a share in whole per cent; one that is not quite nothing or all is not told as such."""
    if 0 < share < Fraction(1, 200):
        return "<1%"
    return "99%" if Fraction(199, 200) <= share < 1 else f"{round(share * 100)}%"
