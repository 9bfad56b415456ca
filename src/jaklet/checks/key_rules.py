"""The rules about chords: which get in each other's way, and what keyboards have."""

from collections import Counter
from collections.abc import Iterator

from jaklet.checks.inputs import CheckInputs
from jaklet.config.reading import BoundKeys
from jaklet.core.keys.conflicts import Conflict, conflicts
from jaklet.core.keys.keyboards import CONTORTION, is_character, keyboards_text
from jaklet.core.values.chords import Chord, Modifier, key_name, keys_written, letter_of
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.words import listed

_TYPING = frozenset({0xFF08, 0xFF09, 0xFF0D, 0xFFFF, 0xFF50, 0xFF51, 0xFF52, 0xFF53, 0xFF54, 0xFF55, 0xFF56, 0xFF57})

PRESS = "press"


def in_the_way(case: CheckInputs) -> Iterator[Finding]:
    """JK203 and JK204: the same chord or sequence bound twice, and chords that are the start of a sequence."""
    for conflict in conflicts(case.live):
        bound, other = conflict.binding, conflict.other
        cures = case.cures(bound, conflict.length - 1)
        if conflict.begins:
            also = ((other.spot, "bound here"),)
            names = {"start": _written(other), "sequence": _written(bound), "action": other.text}
            yield finding("JK204", bound.spot, also, **names)._replace(cures=cures)
        else:
            also = ((other.spot, "bound here first"),)
            action = other.text + (f" ({other.scope})" if other.scope.apps else "")
            found = finding("JK203", bound.spot, also, chord=_written(bound), action=action)
            yield found._replace(cures=cures)


def _written(bound: BoundKeys) -> str:
    layer = f" in layer {bound.layer}" if bound.layer else ""
    return keys_written(bound.keys) + layer + (f" {bound.scope}" if bound.scope.apps else "")


def one_key(case: CheckInputs) -> Iterator[Finding]:
    """JK205: chords that are written differently, and are one key on a keyboard."""
    found: dict[tuple[BoundKeys, BoundKeys], tuple[Conflict[BoundKeys], list[str]]] = {}
    for keyboard in case.keyboards:
        counts = Counter(stroke for chord in case.by_chord for stroke in keyboard.strokes(chord))
        shared = {chord for chord in case.by_chord if any(counts[stroke] > 1 for stroke in keyboard.strokes(chord))}
        if not shared:
            continue
        among = {id(bound): bound for bound in case.live if not shared.isdisjoint(bound.keys)}
        for conflict in conflicts(among.values(), keyboard.strokes):
            one, other = conflict.binding, conflict.other
            if one.keys[: conflict.length] != other.keys:  # else it is one on every keyboard
                found.setdefault((one, other), (conflict, []))[1].append(str(keyboard))
    for (bound, other), (conflict, names) in found.items():
        later, first = (bound, other) if bound.spot > other.spot or conflict.begins else (other, bound)
        also = ((first.spot, "bound here"),)
        names_of = {"chord": keys_written(later.keys), "other": keys_written(first.keys[: conflict.length])}
        cures = case.cures(later, len(later.keys) - 1)
        yield finding("JK205", later.spot, also, keyboards=keyboards_text(names), **names_of)._replace(cures=cures)


def out_of_reach(case: CheckInputs) -> Iterator[Finding]:
    """JK206 and JK207: chords that a keyboard does not have, or has where hardly anybody reaches them."""
    for chord, bounds in case.by_chord.items():
        lacking: dict[str, list[str]] = {}
        straining: dict[str, list[str]] = {}
        for keyboard in case.keyboards:
            if not keyboard.strokes(chord):
                lacking.setdefault(keyboard.lacks(chord), []).append(str(keyboard))
            elif keyboard.strain(chord) >= CONTORTION:
                straining.setdefault(keyboard.effort(chord).partition(": ")[2], []).append(str(keyboard))
        for code, problems in (("JK206", lacking), ("JK207", straining)):
            for problem, names in problems.items():
                for bound in bounds:
                    cures = case.cures(bound, bound.keys.index(chord))
                    found = finding(
                        code, bound.spot, chord=str(chord), keyboards=keyboards_text(names), problem=problem
                    )
                    yield found._replace(cures=cures)


def typing_keys(case: CheckInputs) -> Iterator[Finding]:
    """JK208 and JK209: keys that are needed for typing, plainly or with AltGr."""
    for chord, bounds in case.first_chords.items():
        if chord.modifiers & ~(Modifier.SHIFT | Modifier.ALTGR):
            continue
        everywhere = [bound for bound in bounds if not bound.scope.only]
        if not chord.modifiers & Modifier.ALTGR and (is_character(chord.keysym) or chord.keysym in _TYPING):
            for bound in everywhere:
                yield finding("JK208", bound.spot, chord=str(chord))._replace(cures=case.cures(bound, 0))
            continue
        typed: dict[int, list[str]] = {}
        for keyboard in case.keyboards:
            if keysym := keyboard.typed(chord):
                typed.setdefault(keysym, []).append(str(keyboard))
        for bound in everywhere:
            for keysym, names in typed.items():
                name = f"{letter_of(keysym) or 'a character'} ({key_name(keysym)})"
                one = finding("JK209", bound.spot, chord=str(chord), character=name, keyboards=keyboards_text(names))
                yield one._replace(cures=case.cures(bound, 0))


def nothing_to_let_go_of(case: CheckInputs) -> Iterator[Finding]:
    """JK224: walks that end with the modifiers of a key that has none, or of one that is up by then."""
    held = {action: one for action in case.actions for one in action.every() if one.named("HELD")}
    for bound in case.live if held else ():
        action = held.get(bound.binding.action) if bound.binding else None
        if not bound.binding or not action:
            continue
        if not bound.keys[-1].modifiers:
            problem, remedy = f"{bound.keys[-1]} has none", f"add one, such as super+{bound.keys[-1]}"
        elif bound.binding.on_release:
            problem, remedy = "it begins when that is let go of", "leave out `on release`"
        else:
            continue
        yield finding(
            "JK224", bound.spot, action=str(action), problem=problem, remedy=f"{remedy}, or leave out `while held`"
        )


def presses_itself(case: CheckInputs) -> Iterator[Finding]:
    """JK215: bindings whose `press` comes back to them, straight or by way of others."""
    if not any(action.verb == PRESS for action in case.actions):
        return
    presses = {
        bound.keys[0]: (bound, [chord for one in bound.binding.action.every() for chord in one.presses])
        for bound in case.live
        if bound.binding and len(bound.keys) == 1 and not bound.layer
    }
    for start, (bound, chords) in presses.items():
        seen: set[Chord] = set()
        ahead = list(chords)
        while ahead:
            chord = ahead.pop()
            if chord == start:
                pressed = listed([str(one) for one in chords])
                yield finding("JK215", bound.spot, chord=str(start), pressed=pressed)
                break
            if chord not in seen and chord in presses:
                seen.add(chord)
                ahead += presses[chord][1]
