"""What the next key means: a state machine over layers, sequences and scopes, without a keyboard or a clock.

A sequence is begun by its first chord. Until it is done, given up, or too much time has passed, the chords that can
come next are heard as well, and Escape, which gives it up. A chord that begins something else gives it up, too, and
does that; keys that are not heard go to the program in front, and change nothing.

In a layer all keys are heard. One that is not bound in it is dropped, or ends the layer and means what it means without
it; Escape ends the layer unless it is bound there. A chord whose bindings all have another scope goes to the program.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import partial
from itertools import chain, product
from types import MappingProxyType
from typing import Final, NamedTuple

from jaklet.core.values.chords import Chord, Keys, keys_written, parse_chord
from jaklet.core.values.config import NEVER, Binding, Config
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import shortened

ESCAPE: Final = parse_chord("escape")
ENTER, LEAVE, RECALL = "enter", "leave", "recall"
LEAD_ON: Final = frozenset({ENTER, "pick", "show"})  # the verbs after which all keys may be ours
MOST_TITLE: Final = 80  # characters
BY_SIGHT: Final = frozenset({"LETTER", "GRID"})  # what is chosen with more keys, once it is seen
Front = Callable[[], str | None]  # the app of the window in front, asked only where a scope has to know it


class KeymapState(NamedTuple):
    """Where the keys have led: the layer, empty for none, and the chords of a sequence so far."""

    layer: str = ""
    begun: Keys = ()


REST: Final = KeymapState()


class KeyMeaning(NamedTuple):
    """What came of a key: the state then, and the bindings to be done now and when it is let go.

    `passed`: it is not ours, and belongs to the program in front.
    """

    state: KeymapState
    binding: Binding | None = None
    on_release: Binding | None = None
    passed: bool = False


class HearableKeys(NamedTuple):
    """The keys that are to be heard: these chords, of which `scoped` may be the program's; or `every` key.

    After one of those that `lead` on, all keys may be ours: what is typed right behind it has to wait for that.
    `typed`: of each key it is to be told what it types. `held`: sets of modifiers; it is to be told when one of them is
    held, and when it is no more. `title`: what a chord is for, where a desktop shows that;
    `over`: those that are to be had although the desktop itself has them; `followed`: those of which it counts how long
    they are held.
    """

    chords: frozenset[Chord] = frozenset()
    scoped: frozenset[Chord] = frozenset()
    every: bool = False
    lead: frozenset[Chord] = frozenset()
    typed: bool = False
    held: frozenset[int] = frozenset()
    title: Callable[[Chord], str] = str
    over: frozenset[Chord] = frozenset()
    followed: frozenset[Chord] = frozenset()


NOTHING: Final = HearableKeys()


# Chords that are one key on the keyboard in use, such as `alt+>` and `alt+shift+.`: whichever of them is told of, the
# bindings of all of them are meant.
Twins = Mapping[Chord, tuple[Chord, ...]]
NO_TWINS: Final[Twins] = MappingProxyType({})


def leads_on(action: Action) -> bool:
    """True if all keys may be ours after an action."""
    return action.verb in LEAD_ON or any(ref.kind in BY_SIGHT for ref in action.refs)


def number_families(config: Config) -> Mapping[int, list[Binding]]:
    """Return the bindings of families that recall layouts, such as `super+<n>: recall <n>`, by their modifiers."""
    found: dict[int, list[Binding]] = {}
    for one in config.live:
        if one.family and one.action.verb == RECALL and not one.layer and len(one.keys) == 1 and one.keys[0].modifiers:
            found.setdefault(one.keys[0].modifiers, []).append(one)
    return found


def _nobody() -> str | None:
    return None


class Keymap:
    """The bindings of a config, by what has been pressed."""

    def __init__(self, config: Config) -> None:
        self.twins = NO_TWINS
        self._layers = config.layers
        self._bound: dict[KeymapState, list[Binding]] = {}  # by layer and chords
        self._begin: dict[KeymapState, list[Binding]] = {}  # by layer and the first chords of a sequence
        for binding in config.live:
            self._bound.setdefault(KeymapState(binding.layer, binding.keys), []).append(binding)
            for length in range(1, len(binding.keys)):
                self._begin.setdefault(KeymapState(binding.layer, binding.keys[:length]), []).append(binding)
        self._next: dict[KeymapState, set[Chord]] = {}
        for layer, keys in (*self._bound, *self._begin):
            self._next.setdefault(KeymapState(layer, keys[:-1]), set()).add(keys[-1])
        self._over = frozenset(config.settings.take_over)
        self._hearings: dict[KeymapState, HearableKeys] = {}
        self._narrowed: dict[tuple[KeymapState, str | None], HearableKeys] = {}
        self._held = frozenset(number_families(config)) if config.settings.overlay.held != NEVER else frozenset()

    def hearing(self, state: KeymapState) -> HearableKeys:
        """Return the keys that are to be heard in a state."""
        if state not in self._hearings:
            self._hearings[state] = self._hearing(state)
        return self._hearings[state]

    def hearing_in(self, state: KeymapState, app: str | None) -> HearableKeys:
        """Return the same while this app is in front, for a desktop that gives no key back to the program in front.

        Chords that mean nothing there are not heard at all.
        """
        full = self.hearing(state)
        if not full.scoped:
            return full
        if (state, app) not in self._narrowed:
            out = {one for one in full.scoped if not self._live(list(self._meant(state, one)), lambda: app)}
            self._narrowed[state, app] = full._replace(chords=full.chords - out, scoped=frozenset())
        return self._narrowed[state, app]

    def _hearing(self, state: KeymapState) -> HearableKeys:
        bare = KeymapState(state.layer)
        chords = self._next.get(bare, set()) | self._next.get(state, set())
        if state != REST:
            chords = chords | {ESCAPE}
        if state.layer:
            if self._layers[state.layer].passes_on:
                chords = chords | self._next.get(REST, set())
            return HearableKeys(frozenset(chords), every=True)
        title = partial(self._title, state)
        lead = frozenset(chord for chord in chords if any(leads_on(one.action) for one in self._meant(state, chord)))
        always = {chord for chord in chords if any(not one.scope.apps for one in self._meant(state, chord))}
        scoped = frozenset(chords - always - {ESCAPE} if state.begun else chords - always)
        held = self._held if state == REST else frozenset()
        followed = {chord for chord in chords if any(one.repeat or one.on_release for one in self._meant(state, chord))}
        return HearableKeys(
            frozenset(chords), scoped, False, lead, False, held, title, self._over & chords, frozenset(followed)
        )

    def _title(self, state: KeymapState, chord: Chord) -> str:
        """Return the purposes of a chord: its actions, or the keys of the sequences that it begins."""
        meant = self._meant(state, chord)
        said = {
            str(one.action) if one.keys[-1] == chord else f"{keys_written(one.keys)}: {one.action}": None
            for one in meant
        }
        return shortened("; ".join(said), MOST_TITLE) or str(chord)

    def _meant(self, state: KeymapState, chord: Chord) -> Iterator[Binding]:
        """Yield all bindings that a chord may do, begin or go on with."""
        for keys in {(*state.begun, chord), (chord,)}:
            yield from self._bound.get(KeymapState(state.layer, keys), ())
            yield from self._begin.get(KeymapState(state.layer, keys), ())

    def starts(self, state: KeymapState = REST) -> frozenset[Chord]:
        """Return the chords that begin something in a layer, or go on with a sequence."""
        return frozenset(self._next.get(state, ()))

    def press(self, state: KeymapState, chord: Chord | None, front: Front = _nobody) -> KeyMeaning:
        """Return the meaning of a key in a state; a chord of None is one that is bound nowhere."""
        layer = state.layer
        if chord is not None:
            for keys in ((*state.begun, chord), (chord,)):
                at = KeymapState(layer, keys)
                step = self._done(at, self._live(self._found(self._bound, at), front))
                if step:
                    return step
                if self._live(self._found(self._begin, at), front):
                    return KeyMeaning(at)
                if not state.begun:
                    break
        if chord == ESCAPE and state != REST:
            return KeyMeaning(KeymapState(layer) if state.begun else REST)
        if not layer:
            return KeyMeaning(REST, passed=True)
        if self._layers[layer].passes_on:
            return self.press(REST, chord, front)
        return KeyMeaning(KeymapState(layer))

    def release(self, state: KeymapState, binding: Binding) -> KeymapState:
        """Return the state once a binding has been done by letting go of its key."""
        return self._after(binding, state)

    def _found(self, table: Mapping[KeymapState, list[Binding]], at: KeymapState) -> list[Binding] | None:
        """Return the bindings in a state, however their chords are written."""
        if not self.twins:
            return table.get(at)
        ways = product(*((chord, *self.twins.get(chord, ())) for chord in at.begun))
        return list(chain.from_iterable(table.get(KeymapState(at.layer, way), ()) for way in ways))

    @staticmethod
    def _live(bindings: list[Binding] | None, front: Front) -> list[Binding]:
        if not bindings:
            return []
        return [binding for binding in bindings if not binding.scope.apps or binding.scope.holds(front())]

    def _done(self, at: KeymapState, live: Sequence[Binding]) -> KeyMeaning | None:
        if not live:
            return None
        now = later = None
        for binding in live:
            if binding.on_release:
                later = later or binding
            else:
                now = now or binding
        stays = at.layer and self._layers[at.layer].stays
        state = KeymapState(at.layer) if stays else REST
        return KeyMeaning(self._after(now, state) if now else state, now, later)

    @staticmethod
    def _after(binding: Binding, state: KeymapState) -> KeymapState:
        """Return the state after a binding: only `enter` and `leave` change it."""
        action = binding.action
        if action.verb == LEAVE:
            return REST
        if action.verb == ENTER:
            return KeymapState(action.refs[0].name)
        return state
