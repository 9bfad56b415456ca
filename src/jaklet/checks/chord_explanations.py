"""All that is known about a chord: what it is bound to, who else owns it, which key it is, and how hard to press."""

from typing import NamedTuple

from jaklet.checks.inputs import CheckInputs
from jaklet.checks.run import CheckedConfig
from jaklet.config.reading import BoundKeys
from jaklet.core.keys.keyboards import Keyboard
from jaklet.core.keys.reserved import ReservedChord
from jaklet.core.values.chords import Chord, Keys, key_name, keys_written
from jaklet.core.values.findings import Finding


class KeyboardChord(NamedTuple):
    """A chord on one keyboard. `key`: the keys, with all modifiers; empty if it cannot be pressed.

    `effort`: how hard it is, or why it cannot be pressed. `same`: bound chords that are the same key there.
    """

    keyboard: str
    key: str
    effort: str
    strain: float
    types: str
    same: tuple[str, ...]


class ChordExplanation(NamedTuple):
    """What is known about a chord or sequence.

    `bound`: its own bindings, also dead ones; `begins`: those of sequences that begin with it.
    `free`: chords like it that are free. `now`: why it cannot be heard on the desk that is here; empty if it can.
    """

    chord: str
    bound: tuple[BoundKeys, ...]
    begins: tuple[BoundKeys, ...]
    reserved: tuple[ReservedChord, ...]
    keyboards: tuple[KeyboardChord, ...]
    findings: tuple[Finding, ...]
    free: tuple[str, ...]
    now: str = ""


def explain_chord(result: CheckedConfig, keys: Keys) -> ChordExplanation:
    """Return all that is known about a chord or sequence."""
    case = result.case
    alike = [bound for bound in result.reading.every_bound() if bound.keys[: len(keys)] == keys]
    own = tuple(bound for bound in alike if bound.keys == keys)
    begins = tuple(bound for bound in alike if bound.keys != keys)
    spots = {bound.spot for bound in own}
    written = keys_written(keys)
    free = [keys_written(one) for one in case.free.instead("", keys, len(keys) - 1)]
    about = filter(lambda found: found.spot in spots, result.findings)
    return ChordExplanation(
        written,
        own,
        begins,
        tuple(one for one in case.reserved if one.keys == keys[: len(one.keys)]),
        tuple(_on(keyboard, keys[-1], case) for keyboard in case.keyboards),
        tuple(about),
        tuple(text for text in free if text != written),
    )


def _on(keyboard: Keyboard, chord: Chord, case: CheckInputs) -> KeyboardChord:
    strokes = keyboard.strokes(chord)
    keys = " or ".join("+".join([*_held(stroke.modifiers), _named(stroke.key, keyboard)]) for stroke in strokes)
    same = tuple(
        str(other) for other in case.by_chord if other != chord and not set(strokes).isdisjoint(keyboard.strokes(other))
    )
    typed = keyboard.typed(chord)
    effort = keyboard.effort(chord)
    return KeyboardChord(
        str(keyboard), keys, effort, keyboard.strain(chord), str(Chord(0, typed)) if typed else "", same
    )


def _named(key: str, keyboard: Keyboard) -> str:
    """Return the user's name for a key: the letter that it types without any modifier."""
    return key_name(next((keysym for keysym in keyboard.keys[key] if keysym), 0))


def _held(modifiers: int) -> list[str]:
    return str(Chord(modifiers, 0x20)).split("+")[:-1]
