"""What only a running desk can tell: chords that other programs hold, and shortcuts that the desktop publishes."""

from collections.abc import Iterable, Iterator, Mapping
from typing import NamedTuple

from jaklet.checks.case import Case
from jaklet.core.values.chords import Chord
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.words import listed, printable


class Published(NamedTuple):
    """A shortcut of the desktop: what it does, and the setting that says so."""

    does: str
    setting: str


class Facts(NamedTuple):
    """What was found: chords that others hold, and the shortcuts that the desktop publishes.

    `held`: with the owner, empty where the desktop does not tell.
    """

    held: Mapping[Chord, str]
    published: Mapping[Chord, Published]
    manager: str  # the window manager's name
    desk: Desk | None = None  # the displays and windows that are there

    def claims(self, chord: Chord) -> bool:
        """True if a chord is somebody else's: held now, or a shortcut of a desktop that goes by them."""
        return chord in self.held or (self.honoured and chord in self.published)

    @property
    def honoured(self) -> bool:
        """True if the running desktop goes by the published shortcuts: it holds some of them."""
        return any(chord in self.held for chord in self.published)


def live_findings(case: Case, facts: Facts) -> Iterator[Finding]:
    """JK213, JK214, JK316 and JK407."""
    if facts.desk:
        yield from _displays(case, facts.desk)
        yield from _windows(case, facts.desk)
    for chord, bounds in case.first_chords.items():
        shortcut = facts.published.get(chord)
        for bound in bounds:
            if chord in facts.held:
                holder = _holder(facts, shortcut, facts.held[chord])
                found = finding("JK213", bound.spot, chord=str(chord), holder=holder)
            elif shortcut and facts.honoured:
                found = finding("JK214", bound.spot, chord=str(chord), does=shortcut.does, setting=shortcut.setting)
            else:
                continue
            yield found._replace(cures=_not_held(case.cures(bound, 0), facts))


def _displays(case: Case, desk: Desk) -> Iterator[Finding]:
    there = {display.name for display in desk.displays}
    for role, name in case.config.displays.items():
        spot = case.reading.spots.get(("display", role))
        if name not in there and spot:
            yield finding("JK316", spot, role=role, name=name, remedy=f"there are {listed(sorted(there))}")


def _windows(case: Case, desk: Desk) -> Iterator[Finding]:
    """Yield apps without a window for which one is open that differs in letters alone, or is of their program."""
    claims = case.config.claims
    free = [window for window in desk.main_windows if claims.app_of(window, desk) is None]
    for app in case.config.apps.values():
        spot = case.reading.spots.get(("app", app.name))
        if spot is None or claims.windows_of(app.name, desk):
            continue
        program = app.command[0].rpartition("/")[2] if app.command else ""
        for window in free:
            rule = next((one for one in app.rules if _alike(dict(one.parts), window)), None)
            if rule is None and not (program and window.process == program and app.rules):
                continue
            cure = f"window: {{class: {printable(window.cls)}}}"
            told = f"class {printable(window.cls)}, instance {printable(window.instance)}"
            yield finding("JK407", spot, app=app.name, rule=rule or app.rules[0], window=told, cure=cure)
            break


def _alike(parts: Mapping[str, str], window: Window) -> bool:
    """True if a window has what a rule wants, but for small and capital letters."""
    has = {"class": window.cls, "instance": window.instance}
    return (
        bool(parts)
        and parts.keys() <= has.keys()
        and all(wanted.casefold() == has[part].casefold() for part, wanted in parts.items())
    )


def _holder(facts: Facts, shortcut: Published | None, owner: str) -> str:
    if shortcut:
        return f"{facts.manager or 'the desktop'} holds it to: {shortcut.does} ({shortcut.setting})"
    return f"{owner} holds it" if owner else "another program holds it, and the desktop does not tell which"


def _not_held(cures: Iterable[str], facts: Facts) -> tuple[str, ...]:
    taken = {str(chord) for chord in (*facts.held, *facts.published)}
    return tuple(cure for cure in cures if cure.split()[0] not in taken)
