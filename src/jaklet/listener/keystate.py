"""What keys mean at a time: the layer and the sequence that are on, for how long, and the pause."""

from collections.abc import Callable, Mapping

from jaklet.core.keys.keymap import ESCAPE, REST, Front, HearableKeys, Keymap, KeymapState, KeyMeaning, Twins
from jaklet.core.language.ability_needs import NEEDED, dead_keys
from jaklet.core.language.verbs import traits_of
from jaklet.core.values.chords import Chord, Keys
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.desk_abilities import EVERY, Abilities
from jaklet.core.values.notices import Notice
from jaklet.listener.tasks import NEVER

Keymaps = Mapping[bool, Keymap]


def keymaps_of(config: Config, abilities: Abilities = EVERY) -> Keymaps:
    """Return the keymaps of a config: the one in use (`False`), and the one in a pause (`True`).

    Without the keys that cannot work on a desk with these abilities: they would be taken from programs for nothing.
    """
    live = config.live if abilities >= NEEDED else tuple(one for one in config.live if not dead_keys(one, abilities))
    asleep = tuple(one for one in live if traits_of(one.action).in_pause)
    return {False: Keymap(config._replace(bindings=live)), True: Keymap(config._replace(bindings=asleep))}


class KeyState:
    """Follows the keys from layer to layer. `post` is called with what the user is to be told of that.

    `gave_up`: with the chords of a sequence that has not gone on.
    """

    def __init__(
        self, config: Config, keymaps: Keymaps, post: Callable[[Notice], None], gave_up: Callable[[Keys], None]
    ) -> None:
        self._config, self._keymaps, self._post, self._gave_up = config, keymaps, post, gave_up
        self._sequence_until = self._layer_until = NEVER
        self._with_escape: tuple[HearableKeys, HearableKeys] | None = None  # what is heard, without and with Escape
        self.state = REST
        self.paused = False

    def load(self, config: Config, keymaps: Keymaps) -> None:
        """Go by another config; layers and sequences are left."""
        self._config, self._keymaps = config, keymaps
        self.leave()

    def spell(self, twins: Twins) -> None:
        """Take in which chords are one key on the keyboard in use."""
        for keymap in self._keymaps.values():
            keymap.twins = twins

    @property
    def keymap(self) -> Keymap:
        """What keys mean: all of them, or in a pause those that end it."""
        return self._keymaps[self.paused]

    @property
    def deadline(self) -> float:
        """When a sequence is to be given up, or a layer to be left."""
        return min(self._sequence_until, self._layer_until)

    @property
    def starts(self) -> frozenset[Chord]:
        """The chords that begin something outside layers."""
        return self.keymap.starts()

    @property
    def escape_is_free(self) -> bool:
        """True if Escape means nothing now."""
        return self.state == REST and ESCAPE not in self.keymap.hearing(REST).chords

    def hearing(self, with_escape: bool, front: Front | None = None) -> HearableKeys:
        """Return the keys that mean something now; the same object as long as they are the same.

        `front`: the app in front, for a desktop that gives no key back to it.
        """
        hearing = self.keymap.hearing_in(self.state, front()) if front else self.keymap.hearing(self.state)
        if not with_escape:
            return hearing
        if self._with_escape is None or self._with_escape[0] is not hearing:
            self._with_escape = hearing, hearing._replace(chords=hearing.chords | {ESCAPE})
        return self._with_escape[1]

    def meaning(self, chord: Chord | None, front: Front) -> KeyMeaning:
        """Return the meaning of a chord now."""
        return self.keymap.press(self.state, chord, front)

    def press(self, chord: Chord | None, front: Front, now: float) -> KeyMeaning:
        """Return the meaning of a chord now, and go on to the state after it."""
        begun, step = self.state.begun, self.meaning(chord, front)
        done = step.binding or step.on_release
        if begun and (done.keys if done else step.state.begun)[: len(begun)] != begun:
            self._gave_up(begun)
        self.turn(step.state, now)
        return step

    def pause(self, on: bool) -> None:
        """Begin or end a pause."""
        if on != self.paused:
            self.paused = on
            self.leave()
            self._post(Notice("paused: keys and events are let be" if on else "listening again", topic="pause"))

    def turn(self, state: KeymapState, now: float) -> None:
        """Be in a state from now on, and wait no longer than it may last."""
        self._be(state)
        self._sequence_until = now + self._config.settings.sequence if state.begun else NEVER
        ends_after = self._config.layers[state.layer].ends_after if state.layer else None
        self._layer_until = now + ends_after if ends_after is not None else NEVER

    def enter(self, layer: str, now: float) -> None:
        """Enter a layer; an empty name: leave."""
        if not layer:
            self.leave()
        elif layer in self._config.layers:
            self.turn(KeymapState(layer), now)

    def released(self, binding: Binding, now: float) -> None:
        """Take in that a binding is done by letting go of its key."""
        self.turn(self.keymap.release(self.state, binding), now)

    def leave(self) -> None:
        """Leave all layers and sequences."""
        self._be(REST)
        self._sequence_until = self._layer_until = NEVER

    def give_up(self, now: float) -> None:
        """Give up a sequence that has not gone on, and leave a layer whose time is over."""
        if now >= self._layer_until:
            self.leave()
        elif now >= self._sequence_until:
            self._gave_up(self.state.begun)
            self._be(KeymapState(self.state.layer))
            self._sequence_until = NEVER

    def _be(self, state: KeymapState) -> None:
        """Be in a state, and say so where it is another layer."""
        if state.layer != self.state.layer:
            line = f"layer {state.layer} is on" if state.layer else "no layer is on"
            self._post(Notice(line, topic="layer", about=state.layer))
        self.state = state
