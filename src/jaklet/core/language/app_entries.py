"""Ready entries of `apps:` for windows that no app claims."""

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import NamedTuple

from jaklet.core.language.slots import RESERVED
from jaklet.core.values.apps import exactly
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Window
from jaklet.core.values.desktop_entries import DesktopEntry


class SuggestedApp(NamedTuple):
    """An entry: its name, its keys and values as they are written, and a remark on what is left to the user."""

    name: str
    keys: dict[str, object]
    remark: str = ""


def suggestions(
    windows: Sequence[Window], config: Config, entries: Iterable[DesktopEntry], has: Callable[[str], bool]
) -> Iterator[SuggestedApp]:
    """Yield an entry for each kind of window, told from the others by no more than it takes.

    `has`: whether there is a program of a name.
    """
    entries = tuple(entries)
    taken = {*config.apps}
    kinds = {(window.cls, window.instance): window for window in reversed(windows)}
    classes = Counter(cls for cls, _ in kinds)
    for (cls, instance), window in reversed(kinds.items()):
        name = _free_name(cls or instance, taken)
        taken.add(name)
        rule = exactly(cls=cls)
        if not cls or classes[cls] > 1 or any(rule.rivals(own) for app in config.apps.values() for own in app.rules):
            rule = exactly(cls=cls, instance=instance)
        launch = _launch(window, entries, has)
        remark = "" if launch else "how it is launched could not be told; add launch: PROGRAM"
        yield SuggestedApp(name, launch | {"window": dict(rule.parts)}, remark)


def _free_name(text: str, taken: set[str]) -> str:
    """Return a name for an app: `pilot-notes` for the class org.ellery.PilotNotes."""
    words = re.sub(r"(?<=[a-z])(?=[A-Z])", "-", text.rpartition(".")[2])
    base = re.sub(r"[^a-z0-9]+", "-", words.lower()).strip("-")
    base = base if base and base[0].isalpha() and base not in RESERVED else f"app-{base}".rstrip("-")
    number = 1
    while (name := base if number == 1 else f"{base}-{number}") in taken:
        number += 1
    return name


def _launch(window: Window, entries: Sequence[DesktopEntry], has: Callable[[str], bool]) -> dict[str, object]:
    """Return how the program is launched: by its desktop entry, else by its name; empty where neither is found."""
    names, programs = {window.cls, window.instance} - {""}, {window.process, window.instance} - {""}
    for entry in entries:
        if not entry.command or not entry.shown or entry.in_terminal:
            continue
        if {entry.wm_class, entry.id} & names or entry.command[0].rpartition("/")[2] in programs:
            return {"entry": entry.id}
    found = next((word for word in (window.instance, window.process, window.cls.lower()) if word and has(word)), "")
    return {"launch": found} if found else {}
