"""Doing what chords are bound to, one after another, without a keyboard: what each means, and what is said of it."""

from collections.abc import Iterable
from typing import NamedTuple

from jaklet.core.keys.keymap import Keymap, KeymapState, KeyMeaning
from jaklet.core.values.chords import Chord, keys_written, parse_keys
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.errors import JakletError, SentenceError, UsageError
from jaklet.core.values.words import did_you_mean, either


class FiredBindings(NamedTuple):
    """What a chord means: the bindings to be done, and what is said where there is none."""

    meaning: KeyMeaning
    bindings: tuple[Binding, ...]
    line: str = ""


def chords_asked(texts: Iterable[str]) -> list[Chord]:
    """Return the chords that words stand for; raises `UsageError`."""
    chords: list[Chord] = []
    for text in texts:
        try:
            chords += parse_keys(text)
        except SentenceError as fault:
            raise UsageError(f"{text}: {fault.message}", fault.remedy) from fault
    return chords


def fire_chord(chord: Chord, state: KeymapState, front: str | None, keymap: Keymap, config: Config) -> FiredBindings:
    """Return the bindings of a chord in the present state; raises `JakletError` for none. `front`: the app in front."""
    meaning = keymap.press(state, chord, lambda: front)
    if meaning.passed:
        raise _not_bound(state, chord, front, config)
    bindings = tuple(one for one in (meaning.binding, meaning.on_release) if one)
    silent = not (bindings or meaning.state.begun)
    return FiredBindings(meaning, bindings, f"{chord}: {_nothing_done(state, meaning.state)}" if silent else "")


def unfinished_sequence(state: KeymapState, keymap: Keymap) -> UsageError | None:
    """Return the message for chords that are only the start of a sequence."""
    if not state.begun:
        return None
    rest = [str(chord) for chord in sorted(keymap.starts(state))]
    return UsageError(f"{keys_written(state.begun)} is the start of a sequence", f"go on with {either(rest)}")


def _nothing_done(before: KeymapState, after: KeymapState) -> str:
    if before.begun:
        return "the sequence is given up"
    return f"nothing is bound to it in layer {after.layer}" if after.layer else f"layer {before.layer} is left"


def _not_bound(state: KeymapState, chord: Chord, front: str | None, config: Config) -> JakletError:
    """Return why a chord does nothing."""
    keys = (*state.begun, chord)
    pressed = keys_written(keys)
    bound = [binding for binding in config.bindings if binding.keys == keys and binding.layer == state.layer]
    if any(binding.off for binding in bound):
        return UsageError(f"{pressed} is off", "take `off: true` away in the config")
    if bound:
        where = either([str(binding.scope) for binding in bound])
        return JakletError(f"{pressed} is live {where}, and {front or 'none of the apps'} is in front", "")
    known = [binding.written for binding in config.live if binding.layer == state.layer]
    return UsageError(f"{pressed} is not bound", did_you_mean(pressed, known, "add it under `bindings`"))
