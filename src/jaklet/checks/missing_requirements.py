"""What a config and its layouts need that this machine does not have, in one list."""

from collections.abc import Callable, Iterable, Sequence
from typing import Final

from jaklet.checks.run import CheckedConfig
from jaklet.core.actions.layouts.displays import ADAPTED, arrangement_fit, best_arrangement, display_set
from jaklet.core.actions.placing.grounds import stand_in
from jaklet.core.values.desk import Desk
from jaklet.core.values.findings import ERROR, Finding, MissingRequirement
from jaklet.core.values.words import counted, listed

KINDS: Final = ("files", "programs", "displays", "layouts", "keyboard", "keys")
# Which findings are about this machine, and what they are about.
ABOUT: Final = {
    "JK109": "files", "JK401": "programs", "JK403": "programs", "JK404": "programs", "JK406": "programs",
    "JK407": "programs",
    "JK205": "keys", "JK206": "keys", "JK209": "keys", "JK213": "keys", "JK223": "keys",
}  # fmt: skip


def missing_requirements(
    result: CheckedConfig,
    live: Iterable[Finding],
    desk: Desk | None,
    keyboard: str,
    cannot_run: Callable[[str], bool] = lambda _program: False,
) -> list[MissingRequirement]:
    """Return all that is missing. `keyboard`: the one of this machine, empty where that is not known.

    `cannot_run`: whether a program is there, and cannot show a window on this kind of desk.
    """
    found = [
        MissingRequirement(ABOUT[one.code], one.cause, str(one.spot), _cured(one))
        for one in (*result.findings, *live)
        if one.code in ABOUT
    ]
    found += _unfit(result, cannot_run)
    rest = [one for one in result.findings if one.severity == ERROR and one.code not in ABOUT]
    if rest:
        found.append(
            MissingRequirement(
                "files", f"{counted(len(rest), 'error')}: {rest[0].cause}", str(rest[0].spot), "jaklet check"
            )
        )
    found += _displays(result, desk) if desk else []
    names = [name.split()[0].rstrip(",") for name in result.config.settings.keyboards]
    if keyboard and names and keyboard not in names:
        spot = result.reading.spots.get(("setting", "keyboard"))
        what = f"this machine's keyboard is {keyboard}, and the config is for {listed(names)}"
        found.append(MissingRequirement("keyboard", what, str(spot or ""), f"jaklet check --keyboard {keyboard}"))
    return sorted(found, key=lambda one: KINDS.index(one.kind))


def _unfit(result: CheckedConfig, cannot_run: Callable[[str], bool]) -> list[MissingRequirement]:
    """Return the apps whose programs cannot show a window here."""
    found = []
    for app in result.config.apps.values():
        if app.command and cannot_run(app.command[0]):
            spot = result.reading.spots.get(("app", app.name))
            what = f"{app.name}: {app.command[0]!r} shows its windows on Wayland alone, and this is an X server"
            found.append(MissingRequirement("programs", what, str(spot or ""), "choose another program for it"))
    return found


def _cured(one: Finding) -> str:
    return f"{one.remedy}; free: {', '.join(one.cures)}" if one.cures else one.remedy


def _displays(result: CheckedConfig, desk: Desk) -> list[MissingRequirement]:
    """Return the displays that have a name and are not there, and the layouts that suffer from it."""
    config, found = result.config, []
    there = {display.name for display in desk.displays}
    nameless = [display.name for display in desk.displays if display.name not in config.displays.values()]
    for role, name in config.displays.items():
        if name in there:
            continue
        spot = result.reading.spots.get(("display", role))
        instead = config.role_of(stand_in(role, desk, config))
        remedy = f"its windows go to {instead}"
        if nameless:
            remedy = f"write its connector here: {listed(nameless, 'or')}; else {remedy}"
        found.append(
            MissingRequirement("displays", f"display {role} ({name}) is not connected", str(spot or ""), remedy)
        )
    present = display_set(desk, config)
    adapted = [
        laid.layout.name
        for laid in result.reading.laid
        if arrangement_fit(best_arrangement(laid.layout, present), present) == ADAPTED
    ]
    if adapted:
        remedy = "recall one, arrange it, and save it: it gets an arrangement for these displays"
        found.append(MissingRequirement("layouts", f"saved on other displays: {listed(_few(adapted))}", "", remedy))
    return found


def _few(names: Sequence[str]) -> list[str]:
    return [*names] if len(names) <= 6 else [*names[:6], f"{len(names) - 6} more"]
