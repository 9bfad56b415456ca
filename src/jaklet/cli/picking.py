"""What `jaklet pick` does once its words are known. No Typer here: the finder's screen does not wait for it."""

import contextlib
import os
from typing import TYPE_CHECKING

from jaklet.cli import terminal
from jaklet.core.actions.pick_candidate import Candidate
from jaklet.core.values.errors import StoreError, UsageError
from jaklet.core.values.kinds import ALL, KIND_NAMES

if TYPE_CHECKING:
    from jaklet.cli.resources import OpenedConfig
    from jaklet.config.store import LayoutFolder
    from jaklet.core.actions.candidates import CandidateSources
    from jaklet.core.actions.ports.desktop import Desktop
    from jaklet.core.values.layouts import Layout


def kind_of(word: str | None) -> str:
    """Return the kind that was asked for; raises `UsageError` if there is none of that name."""
    if word in (None, ALL, *KIND_NAMES):
        return word or ALL
    from jaklet.core.values.words import did_you_mean, either

    known = (*KIND_NAMES, ALL)
    raise UsageError(f"there is no kind called {word!r}", did_you_mean(word or "", known, f"kinds are {either(known)}"))


def pick_on_screen(kind: str, typed: str, config: str | None = None, desk: str | None = None) -> bool:
    """Show the finder and do what was chosen; True unless that failed."""
    from jaklet.config.paths import state_folder
    from jaklet.counters.finder_choices import ChoiceCounts
    from jaklet.finder.state import NO_WEIGHTS, Finder, key_of
    from jaklet.finder.terminal import pick

    finder, uses = Finder(kind, typed), ChoiceCounts(state_folder)
    with contextlib.ExitStack() as stack:

        def load() -> "tuple[OpenedConfig, Desktop, list[Candidate]]":
            from jaklet.cli.desk import perform_task  # noqa: F401  # loaded behind the screen, for what comes after it
            from jaklet.cli.resources import opened_config, opened_desk
            from jaklet.core.actions.candidates import candidates

            ready = opened_config(config, desk)
            desktop = stack.enter_context(opened_desk(desk))
            return ready, desktop, candidates(candidate_sources(ready, desktop))

        came: list[tuple[OpenedConfig, Desktop]] = []

        def take(loaded: "tuple[OpenedConfig, Desktop, list[Candidate]]") -> None:
            ready, desktop, found = loaded
            came.append((ready, desktop))
            settings = ready.config.settings
            finder.load(found, settings.at_once, uses.weights() if settings.counts else NO_WEIGHTS)

        chosen = pick(finder, load, take, terminal.ink_for().coloured)
        if chosen is None:
            return True
        from jaklet.cli.desk import perform_task

        ready, desktop = came[0]
        if ready.config.settings.counts and (key := key_of(chosen)):
            uses.chose(key)
        desktop.wait(0)  # the desk may have changed while the finder was open
        return perform_task(chosen.begin, ready, desktop, dry_run=False)


class LayoutCache:
    """The layouts, read again where their files have changed."""

    def __init__(self, shelf: "LayoutFolder") -> None:
        self._shelf = shelf
        self._read: dict[str, tuple[object, Layout]] = {}

    def all(self) -> "tuple[Layout, ...]":
        """Return those that can be recalled."""
        found = {}
        for name in self._shelf.names():
            stamp = self._stamp(name)
            known = self._read.get(name)
            if known and stamp is not None and known[0] == stamp:
                found[name] = known
                continue
            try:
                layout = self._shelf.find(name)
            except StoreError:
                continue  # a layout at fault cannot be recalled, and `check` tells of it
            if layout:
                found[name] = (stamp, layout)
        self._read = found
        return tuple(layout for _, layout in found.values())

    def _stamp(self, name: str) -> object:
        try:
            told = os.stat(self._shelf.path(name))
        except (OSError, StoreError):
            return None
        return told.st_mtime_ns, told.st_size, told.st_ino


def candidate_sources(ready: "OpenedConfig", desktop: "Desktop", kind: str = ALL) -> "CandidateSources":
    """Return all that there is to be picked from; what is not of the kind may be left out."""
    from jaklet.core.actions.candidates import CandidateSources
    from jaklet.installed.hosts import ssh_hosts

    layouts = LayoutCache(ready.shelf).all() if kind in (ALL, "layouts") else ()
    hosts = ssh_hosts() if kind in (ALL, "hosts") else []
    return CandidateSources(ready.config, desktop.look().desk, layouts, tuple(hosts))


def filter_candidates(stock: "CandidateSources", kind: str, typed: str) -> list[Candidate]:
    """Return the candidates that match the typed words, in the finder's order."""
    from jaklet.core.actions.candidates import candidates
    from jaklet.finder.state import Finder

    finder = Finder(kind, typed)
    finder.load(candidates(stock))
    return finder.found
