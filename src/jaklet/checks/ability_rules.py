"""What a config needs and the desk here cannot do."""

from collections.abc import Iterator

from jaklet.checks.inputs import CheckInputs
from jaklet.core.language.ability_needs import NEEDED, needs_of, needs_of_event, needs_of_keys
from jaklet.core.values.config import NEVER, Overlay
from jaklet.core.values.desk_abilities import Ability, is_lacking
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import listed

MOST_NAMED = 5
RESULTS = {
    Ability.REPEAT: "the key is done once",
    Ability.HOLD: "it is not shown",
    Ability.ROLE: "a window that tells none does not fit",
    Ability.HAND_OVER: "they stay the desktop's",
}
KEEPING = (Ability.SEE, Ability.MOVE)  # what it takes to keep windows arranged


def beyond_the_desk(case: CheckInputs) -> Iterator[Finding]:
    """JK701: one finding for each ability that is needed and not there, where it is needed first."""
    abilities = case.reading.here.abilities
    needed: dict[Ability, dict[Spot, str]] = {}
    if abilities is None or abilities >= NEEDED:
        return
    for ability, spot, text in _needs(case):
        if is_lacking(ability, abilities):
            needed.setdefault(ability, {}).setdefault(spot, text)
    for ability, spots in needed.items():
        first = min(spots)
        texts = list(dict.fromkeys(spots[spot] for spot in sorted(spots)))
        more = f" and {len(texts) - MOST_NAMED} more" if len(texts) > MOST_NAMED else ""
        for_what = f"{', '.join(texts[:MOST_NAMED])}{more}" if more else listed(texts)
        result = RESULTS.get(ability, "it is refused here")
        yield finding("JK701", first, lacking=ability.lacking, for_what=for_what, result=result)


def _needs(case: CheckInputs) -> Iterator[tuple[Ability, Spot, str]]:
    for bound in case.live:
        if bound.binding:
            yield from ((one, bound.spot, bound.binding.written) for one in needs_of_keys(bound.binding))
    for deed in case.reading.deeds:
        for action in deed.action.every() if not deed.off else ():
            yield from ((one, deed.value.spot, str(action)) for one in needs_of(action))
    arranged = [(("arranged", str(number)), form) for number, form in case.config.arranged.items()]
    arranged += [(("display", role), form) for role, form in case.config.arranged_displays.items()]
    for what, form in arranged:
        if what in case.reading.spots:
            yield from ((one, case.reading.spots[what], f"arranged: {form}") for one in KEEPING)
    wanted = case.config.settings.take_over
    if wanted and ("setting", "take over") in case.reading.spots:
        texts = listed([str(chord) for chord in wanted])
        yield Ability.HAND_OVER, case.reading.spots["setting", "take over"], f"to take over {texts}"
    held = case.config.settings.overlay.held
    if held not in (NEVER, Overlay().held) and ("setting", "overlay") in case.reading.spots:
        yield Ability.HOLD, case.reading.spots["setting", "overlay"], "what is shown while a modifier is held"
    for app in case.config.apps.values():
        spot = case.reading.spots.get(("app", app.name))
        if spot and any(part == "role" for rule in app.rules for part, _ in rule.parts):
            yield Ability.ROLE, spot, f"the rule of {app.name}"
    for on in case.config.events:
        yield from ((one, on.spot, on.text) for one in needs_of_event(on))
