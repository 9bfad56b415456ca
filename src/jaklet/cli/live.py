"""What only a running desk can tell of a config."""

from typing import TYPE_CHECKING

from jaklet.core.findings import Finding

if TYPE_CHECKING:
    from jaklet.checks.run import Checked


def live_found(result: "Checked", desk: str | None) -> list[Finding]:
    """Return what only the running desk can tell."""
    from jaklet.checks.live import Facts, Published, live_findings
    from jaklet.cli.active import listener_status
    from jaklet.cli.opening import opened_desk
    from jaklet.core.keys.keymap import NOTHING, Hearing
    from jaklet.core.ports import HELD
    from jaklet.installed.shortcuts import published

    case = result.case
    shortcuts = {one.chord: Published(one.does, one.setting) for one in published()}
    mine = set((listener_status(desk) or {}).get("chords", ()))
    with opened_desk(desk) as desktop:
        # A chord can be grabbed only while nobody else holds it; they are all let go of at once.
        refusals = desktop.grab(Hearing(frozenset({*case.first_chords, *shortcuts})))
        desktop.grab(NOTHING)
        manager = desktop.manager_name()
    held = {
        refusal.chord: refusal.reason
        for refusal in refusals
        if refusal.chord is not None and refusal.reason == HELD and str(refusal.chord) not in mine
    }
    return list(live_findings(case, Facts(held, shortcuts, manager)))
