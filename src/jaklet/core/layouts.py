"""Layouts: a saved, named arrangement of windows, and how one is taken from a desk."""

from collections import Counter
from collections.abc import Iterable, Mapping
from types import MappingProxyType
from typing import Final, NamedTuple

from jaklet.core.config import Config
from jaklet.core.desk import Desk, Shape, Window
from jaklet.core.places.forms import Full
from jaklet.core.places.places import Place
from jaklet.core.places.recognise import recognised
from jaklet.core.placing.grounds import ground_of
from jaklet.core.words import counted, did_you_mean, listed

MAX_NAME: Final = 60
PLAIN: Final = (Shape.NORMAL, Shape.TILED)  # a tiled window is kept as the place that it fills


class Entry(NamedTuple):
    """One window of a layout. It is known by its app, or by its class where no app claims it.

    `title` tells windows of one app apart; `place` carries its display. `workspace` None: on all of them.
    """

    app: str | None
    cls: str | None
    title: str | None
    place: Place
    workspace: int | None = 1
    shape: Shape = Shape.NORMAL
    minimised: bool = False

    @property
    def label(self) -> str:
        """What the entry is called in messages and in `focus`."""
        return self.app or self.cls or "?"


class Layout(NamedTuple):
    """Windows from front to back; `focus` is an index into them, None where nothing had it.

    `displays` is the set it was saved on: name to whole rectangle as text, such as `1920x1080+0+0`.
    """

    name: str
    number: int | None = None
    note: str = ""
    workspace: int = 1
    focus: int | None = None
    displays: Mapping[str, str] = MappingProxyType({})
    entries: tuple[Entry, ...] = ()


def name_fault(name: str) -> str | None:
    """Return what is wrong with a layout's name, which is also its file's; None if nothing is."""
    if not name:
        return "the name is missing"
    if len(name) > MAX_NAME:
        return f"the name is longer than {MAX_NAME} characters"
    if name.isdigit():
        return "a number alone is not a name, as digits recall by number"
    if name == "last" or name != " ".join(name.split()):
        return "that name is taken for something else" if name == "last" else "the name has space at an end"
    wrong = sorted({c for c in name if not (c.isalnum() or c in " -_.")})
    if wrong:
        return f"a name is made of letters, digits, spaces, - _ and ., not {listed([repr(c) for c in wrong])}"
    return "the name begins with a dot" if name.startswith(".") else None


def no_such_layout(word: str, names: Iterable[str]) -> tuple[str, str]:
    """Return what to say of a name or number that no layout has: the fault, and the remedy."""
    if word.isdigit():
        return f"no layout has number {word}", f"save one with: jaklet layout save NAME --number {word}"
    typed = f'"{word}"' if " " in word else word
    return f"no layout is called {word!r}", did_you_mean(word, names, f"save one with: jaklet layout save {typed}")


def captured(desk: Desk, config: Config, *, name: str, number: int | None, note: str) -> Layout:
    """Return the desk as a layout. Places are recognised; exact pixels stand only where no simple place fits."""
    rank = {wid: place for place, wid in enumerate(desk.stacking)}
    # Dialogs come and go with the windows they belong to, and are not waited for in a recall.
    windows = sorted(desk.main_windows, key=lambda w: -rank.get(w.id, -1))
    apps = {window.id: config.claims.app_of(window, desk) for window in windows}
    several = Counter(apps[w.id] or w.cls for w in windows)
    entries = []
    for window in windows:
        app = apps[window.id]
        twins = several[app or window.cls] > 1
        entries.append(
            Entry(
                app=app,
                cls=None if app else window.cls,
                title=window.title if twins or not app else None,
                place=_place_of(window, desk, config),
                workspace=window.workspace,
                shape=Shape.NORMAL if window.shape in PLAIN else window.shape,
                minimised=window.minimised,
            )
        )
    front = desk.by_id.get(desk.active) if desk.active is not None else None
    active = windows.index(desk.family(front)) if front else None
    return Layout(
        name=name,
        number=number,
        note=note,
        workspace=desk.workspace,
        focus=active,
        displays={config.role_of(d): "{2}x{3}+{0}+{1}".format(*d.rect) for d in desk.displays},
        entries=tuple(entries),
    )


def _place_of(window: Window, desk: Desk, config: Config) -> Place:
    display = desk.display_of(window.frame)
    role = config.role_of(display)
    if window.shape not in PLAIN:
        return Place(Full(), role)  # where it would stand otherwise is the window manager's own memory
    ground = ground_of(window, display, desk, config)
    form = recognised(window.frame, ground, window.border, window.limits, config.places, role)
    return Place(form, role)


def caught(layout: Layout) -> str:
    """Return in words what a layout holds, and what it does not."""
    displays = {entry.place.display for entry in layout.entries}
    hidden = sum(entry.minimised for entry in layout.entries)
    unclaimed = sum(entry.app is None for entry in layout.entries)
    parts = [f"{counted(len(layout.entries), 'window')} on {counted(len(displays), 'display')}"]
    if hidden:
        parts.append(f"{hidden} minimised")
    if unclaimed:
        parts.append(f"{unclaimed} of no app (cannot be launched)")
    focus = "none" if layout.focus is None else layout.entries[layout.focus].label
    return f"{', '.join(parts)}; focus: {focus}"
