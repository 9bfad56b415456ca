"""The rules about layers: that they can be entered and left, and what they hide."""

from collections.abc import Iterator
from itertools import product

from jaklet.checks.inputs import CheckInputs
from jaklet.config.reading import BoundKeys
from jaklet.core.keys.conflicts import reachable
from jaklet.core.keys.keymap import ENTER, ESCAPE, LEAVE
from jaklet.core.values.findings import Finding, finding


def way_in(case: CheckInputs) -> Iterator[Finding]:
    """JK216: layers that no key enters, from the start or from a layer that can be entered."""
    doors: dict[str, set[str]] = {}
    if not case.config.layers:
        return
    for bound in case.live:
        if bound.binding and bound.binding.action.verb == ENTER:
            doors.setdefault(bound.layer, set()).add(bound.binding.action.refs[0].name)
    reached = reachable(doors)
    misspelt = [name for names in doors.values() for name in names if name not in case.config.layers]
    for layer in case.config.layers:
        if layer not in reached and not (misspelt and case.nearest(layer, misspelt)):  # the way in is told of there
            yield finding("JK216", case.reading.spots["layer", layer], layer=layer)


def way_out(case: CheckInputs) -> Iterator[Finding]:
    """JK217: layers that stay, where Escape is bound to something else and nothing else leaves."""
    escapes: dict[str, BoundKeys] = {}  # without it, every layer can be left
    for bound in case.by_chord.get(ESCAPE, ()):
        if bound.layer and bound.keys[0] == ESCAPE:
            escapes.setdefault(bound.layer, bound)
    verbs = ((one.layer, one.binding.action.verb) for one in (case.live if escapes else ()) if one.binding)
    left = {layer for layer, verb in verbs if verb in (LEAVE, ENTER)}
    for name, layer in case.config.layers.items():
        lasts = layer.stays and layer.ends_after is None and not layer.passes_on
        if lasts and name in escapes and name not in left:
            problem = f"it stays, and Escape is bound to: {escapes[name].text}"
            also = ((escapes[name].spot, "Escape is bound here"),)
            yield finding("JK217", case.reading.spots["layer", name], also, layer=name, problem=problem)


def hidden(case: CheckInputs) -> Iterator[Finding]:
    """JK218: chords with modifiers that are bound both in a layer and outside, to different actions."""
    for chord, others in case.first_chords.items() if case.config.layers else ():
        alone = [other for other in others if len(other.keys) == 1]
        inside = [bound for bound in case.by_chord[chord] if bound.layer and len(bound.keys) == 1]
        for bound, other in product(inside, alone) if chord.modifiers else ():
            if other.text == bound.text:
                continue
            if not (bound.binding and bound.binding.action.verb in (LEAVE, ENTER)):
                also = ((other.spot, "bound here outside the layer"),)
                names = {"layer": bound.layer, "chord": str(chord), "action": other.text}
                yield finding("JK218", bound.spot, also, **names)
