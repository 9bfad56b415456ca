"""What only a running desk can tell: chords that other programs hold, and shortcuts that the desktop publishes."""

from collections.abc import Iterable, Iterator, Mapping
from types import MappingProxyType
from typing import NamedTuple

from jaklet.checks.inputs import CheckInputs
from jaklet.core.values.chords import MODIFIERS, Chord, parse_chord
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.geometry import Insets
from jaklet.core.values.words import counted, listed, printable


class PublishedShortcut(NamedTuple):
    """A shortcut of the desktop: what it does, and the setting that says so."""

    does: str
    setting: str


class LiveShortcuts(NamedTuple):
    """What was found: chords that others hold, and the shortcuts that the running desktop publishes.

    `held`: with the owner, empty where the desktop does not tell. `unheard`: the modifiers whose own keys somebody
    holds, with the reason; `ways_out`: the settings of the desktop that say so, as far as they are known.
    `hands_over`: the desktop lends its chords to who asks for them by name.
    """

    held: Mapping[Chord, str]
    published: Mapping[Chord, PublishedShortcut]
    manager: str  # the window manager's name
    desk: Desk | None = None  # the displays and windows that are there
    unheard: Mapping[str, str] = MappingProxyType({})
    ways_out: Mapping[str, str] = MappingProxyType({})
    hands_over: bool = False

    def claims(self, chord: Chord) -> bool:
        """True if a chord is somebody else's, by itself or with its modifier: held now, or one of the desktop's."""
        return chord in self.held or chord in self.published or self.modifier_of(chord) != ""

    def modifier_of(self, chord: Chord) -> str:
        """Return the modifier for which a chord is not heard; empty if there is none."""
        return next((word for word in self.unheard if chord.modifiers & MODIFIERS[word]), "")


def live_findings(case: CheckInputs, facts: LiveShortcuts) -> Iterator[Finding]:
    """JK213, JK214, JK223, JK316, JK317 and JK407."""
    if facts.desk:
        yield from _displays(case, facts.desk)
        yield from _windows(case, facts.desk)
        yield from _kept_free(case, facts.desk)
    yield from _modifiers(case, facts)
    for chord, bounds in case.first_chords.items():
        shortcut = facts.published.get(chord)
        for bound in bounds if not facts.modifier_of(chord) else ():
            if chord in facts.held:
                holder = _holder(facts, shortcut, facts.held[chord])
                found = finding("JK213", bound.spot, chord=str(chord), holder=holder)
                if facts.hands_over:
                    remedy = (
                        f"{found.remedy}; or let it be lent while Jaklet listens: settings: {{take over: [{chord}]}}"
                    )
                    found = found._replace(remedy=remedy)
            elif shortcut:
                found = finding("JK214", bound.spot, chord=str(chord), does=shortcut.does, setting=shortcut.setting)
            else:
                continue
            yield found._replace(cures=_not_held(case.cures(bound, 0), facts))


def _modifiers(case: CheckInputs, facts: LiveShortcuts) -> Iterator[Finding]:
    for modifier, reason in facts.unheard.items():
        bounds = [each for chord, each in case.first_chords.items() if facts.modifier_of(chord) == modifier]
        if bounds:
            ways = [facts.ways_out[modifier]] if modifier in facts.ways_out else []
            ways.append("move them all with: jaklet check --fix --base ctrl+alt")
            number = counted(sum(len(each) for each in bounds), "binding")
            yield finding("JK223", bounds[0][0].spot, number=number, reason=reason, remedy=", or ".join(ways))


def _kept_free(case: CheckInputs, desk: Desk) -> Iterator[Finding]:
    """Compare the edges that a config keeps free with what the desktop keeps free by itself."""
    for role, edges in case.config.reserved.items():
        display, spot = case.config.display(role, desk), case.reading.spots.get(("display", role))
        if display is None or spot is None:
            continue
        rect, work = display.rect, display.work
        own = Insets(work.x - rect.x, rect.right - work.right, work.y - rect.y, rect.bottom - work.bottom)
        for side, wished, has in zip(Insets._fields, edges, own, strict=True):
            if wished and has >= wished:
                yield finding("JK317", spot, role=role, side=side, has=f"{has} px", wished=f"{wished} px")


def _displays(case: CheckInputs, desk: Desk) -> Iterator[Finding]:
    there = {display.name for display in desk.displays}
    for role, name in case.config.displays.items():
        spot = case.reading.spots.get(("display", role))
        if name not in there and spot:
            yield finding("JK316", spot, role=role, name=name, remedy=f"there are {listed(sorted(there))}")


def _windows(case: CheckInputs, desk: Desk) -> Iterator[Finding]:
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


def _holder(facts: LiveShortcuts, shortcut: PublishedShortcut | None, owner: str) -> str:
    if shortcut:
        return f"{facts.manager or 'the desktop'} holds it to: {shortcut.does} ({shortcut.setting})"
    return f"{owner} holds it" if owner else "another program holds it, and the desktop does not tell which"


def _not_held(cures: Iterable[str], facts: LiveShortcuts) -> tuple[str, ...]:
    return tuple(cure for cure in cures if not facts.claims(parse_chord(cure.split()[0])))
