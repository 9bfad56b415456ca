"""What only a running desk can tell of a config."""

import os
from typing import TYPE_CHECKING

from jaklet.core.values.findings import Finding

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from jaklet.checks.live import LiveShortcuts
    from jaklet.checks.run import CheckedConfig
    from jaklet.core.actions.ports.desktop import Desktop
    from jaklet.core.keys.free_chords import UnheardChords
    from jaklet.core.values.chords import Chord


def facts_of(
    desktop: "Desktop", chords: "Iterable[Chord]", mine: "Iterable[str]" = (), over: "Iterable[Chord]" = ()
) -> "LiveShortcuts":
    """Return the chords that others hold on a running desk, the shortcuts in its settings, and the desk itself.

    `mine`: the chords that Jaklet's own listener holds; `over`: those that it is to take over where that is possible.
    """
    from jaklet.checks.live import LiveShortcuts, PublishedShortcut
    from jaklet.core.actions.ports.chord_source import HELD
    from jaklet.core.values.desk_abilities import Ability
    from jaklet.installed.shortcuts import published

    settings = published(os.environ.get("XDG_CURRENT_DESKTOP", ""), desktop.manager_name())
    shortcuts = {one.chord: PublishedShortcut(one.does, one.setting) for one in settings.shortcuts}
    refusals = desktop.chords.probe({*chords, *shortcuts}) if desktop.chords else []
    hands_over = Ability.HAND_OVER in desktop.abilities
    own = {*mine, *(map(str, over) if hands_over else ())}
    held = {
        one.chord: one.owner
        for one in refusals
        if one.chord and not one.modifier and (one.owner or one.reason == HELD) and str(one.chord) not in own
    }
    unheard = {refusal.modifier: refusal.reason for refusal in refusals if refusal.modifier}
    return LiveShortcuts(
        held, shortcuts, desktop.manager_name(), desktop.look().desk, unheard, settings.modifiers, hands_over
    )


class UnofferedChords:
    """Which chords are not to be offered: a running desk, if there is one, is asked once what it lets us hear."""

    def __init__(self, desk: str | None) -> None:
        self._desk = desk
        self._unheard: UnheardChords | None = None

    def among(self, chords: "Iterable[Chord]") -> "UnheardChords":
        """Return which of these chords others have, and the modifiers that are not heard; none without a desk."""
        from jaklet.cli.listener_calls import listener_status
        from jaklet.cli.resources import opened_desk
        from jaklet.core.keys.free_chords import ALL_HEARD, UnheardChords
        from jaklet.core.values.chords import MODIFIERS
        from jaklet.core.values.errors import DeskError

        mine = (listener_status(self._desk) or {}).get("chords", ())
        try:
            with opened_desk(self._desk) as desktop:
                facts = facts_of(desktop, chords, mine)
        except DeskError:
            return ALL_HEARD
        return UnheardChords(
            frozenset({*facts.held, *facts.published}), sum(int(MODIFIERS[word]) for word in facts.unheard)
        )

    def of(self, result: "CheckedConfig") -> "UnheardChords":
        """Return the same of all chords that could be offered for a config's keyboards."""
        from jaklet.core.keys.free_chords import FAMILIES

        if self._unheard is None:
            offered = (one.chord for one in result.case.free.candidates(FAMILIES))
            self._unheard = self.among({*offered, *result.case.first_chords})
        return self._unheard


def checked_here(config: str | None, desk: str | None, keyboards: "Sequence[str]" = ()) -> "CheckedConfig":
    """Return a checked config, of which no chord is free that a running desk, if there is one, does not let us hear."""
    from jaklet.cli.resources import checked_config

    result = checked_config(config, desk, keyboards)
    return checked_config(config, desk, keyboards, UnofferedChords(desk).of(result))


def live_found(result: "CheckedConfig", desk: str | None) -> list[Finding]:
    """Return the findings that only a running desk can give."""
    from jaklet.checks.live import live_findings
    from jaklet.checks.rules import beyond_workspaces
    from jaklet.cli.listener_calls import listener_status
    from jaklet.cli.resources import opened_desk

    mine = (listener_status(desk) or {}).get("chords", ())
    with opened_desk(desk) as desktop:
        facts = facts_of(desktop, result.case.first_chords, mine, result.config.settings.take_over)
    found = list(live_findings(result.case, facts))
    if facts.desk and result.config.settings.workspaces is None and result.reading.here.workspaces is None:
        found += beyond_workspaces(result.case, facts.desk.workspaces)
    return found
