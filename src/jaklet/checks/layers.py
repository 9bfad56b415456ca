"""The rules about layers: that they can be entered and left, and what they hide."""

from collections.abc import Iterator

from jaklet.checks.case import Case
from jaklet.config.reading import Bound
from jaklet.core.conflicts import reachable
from jaklet.core.findings import Finding, finding
from jaklet.core.keymap import ENTER, ESCAPE, LEAVE


def way_in(case: Case) -> Iterator[Finding]:
    """JK216: layers that no key enters, from the start or from a layer that can be entered."""
    doors: dict[str, set[str]] = {}
    for bound in case.live:
        if bound.binding and bound.binding.action.verb == ENTER:
            doors.setdefault(bound.layer, set()).add(bound.binding.action.refs[0].name)
    reached = reachable(doors)
    for layer in case.config.layers:
        if layer not in reached:
            yield finding("JK216", case.reading.spots["layer", layer], layer=layer)


def way_out(case: Case) -> Iterator[Finding]:
    """JK217: layers that stay, where Escape is bound to something else and nothing else leaves."""
    inside: dict[str, list[Bound]] = {}
    for bound in case.live:
        if bound.layer:
            inside.setdefault(bound.layer, []).append(bound)
    for name, layer in case.config.layers.items():
        if not layer.stays or layer.ends_after is not None or layer.passes_on:
            continue
        bounds = inside.get(name, [])
        escapes = [bound for bound in bounds if bound.keys[0] == ESCAPE]
        leaves = any(bound.binding and bound.binding.action.verb in (LEAVE, ENTER) for bound in bounds)
        if escapes and not leaves:
            problem = f"it stays, and Escape is bound to: {escapes[0].text}"
            also = ((escapes[0].spot, "Escape is bound here"),)
            yield finding("JK217", case.reading.spots["layer", name], also, layer=name, problem=problem)


def hidden(case: Case) -> Iterator[Finding]:
    """JK218: chords with modifiers that are bound both in a layer and outside, to different actions."""
    for bound in case.live:
        chord = bound.keys[0]
        if not bound.layer or not chord.modifiers or len(bound.keys) > 1:
            continue
        for other in case.first_chords.get(chord, ()):
            leaves = bound.binding and bound.binding.action.verb in (LEAVE, ENTER)
            if len(other.keys) == 1 and other.text != bound.text and not leaves:
                also = ((other.spot, "bound here outside the layer"),)
                names = {"layer": bound.layer, "chord": str(chord), "action": other.text}
                yield finding("JK218", bound.spot, also, **names)
                break
