"""What only a running desk can tell: chords that other programs hold, and shortcuts that the desktop publishes."""

from collections.abc import Iterable, Iterator, Mapping
from typing import NamedTuple

from jaklet.checks.case import Case
from jaklet.core.findings import Finding, finding
from jaklet.core.keys.chords import Chord


class Published(NamedTuple):
    """A shortcut of the desktop: what it does, and the setting that says so."""

    does: str
    setting: str


class Facts(NamedTuple):
    """What was found: chords that cannot be had now, with the reason, and the shortcuts that the desktop publishes."""

    held: Mapping[Chord, str]
    published: Mapping[Chord, Published]
    manager: str  # the window manager's name

    @property
    def honoured(self) -> bool:
        """True if the running desktop goes by the published shortcuts: it holds some of them."""
        return any(chord in self.held for chord in self.published)


def live_findings(case: Case, facts: Facts) -> Iterator[Finding]:
    """JK213 and JK214."""
    for chord, bounds in case.first_chords.items():
        shortcut = facts.published.get(chord)
        for bound in bounds:
            if chord in facts.held:
                holder = _holder(facts, shortcut)
                found = finding("JK213", bound.spot, chord=str(chord), holder=holder)
            elif shortcut and facts.honoured:
                found = finding("JK214", bound.spot, chord=str(chord), does=shortcut.does, setting=shortcut.setting)
            else:
                continue
            yield found._replace(cures=_not_held(case.cures(bound, 0), facts))


def _holder(facts: Facts, shortcut: Published | None) -> str:
    if shortcut:
        return f"{facts.manager or 'the desktop'} holds it to: {shortcut.does} ({shortcut.setting})"
    return "another program holds it, and X does not tell which"


def _not_held(cures: Iterable[str], facts: Facts) -> tuple[str, ...]:
    taken = {str(chord) for chord in (*facts.held, *facts.published)}
    return tuple(cure for cure in cures if cure.split()[0] not in taken)
