"""Which chords are heard: those that mean something now, as far as the source of chords lets them be had."""

from collections.abc import Callable, Container

from jaklet.core.actions.ports.chord_source import ChordSource, RefusedChord
from jaklet.core.keys.keymap import ESCAPE, NOTHING, REST
from jaklet.core.keys.refused import refused_told, some_of
from jaklet.core.language.ability_needs import CAN_BE_WITHOUT, dead_keys, missing_abilities
from jaklet.core.values.chords import Chord
from jaklet.core.values.desk_abilities import Abilities
from jaklet.core.values.notices import Notice
from jaklet.core.values.words import counted, listed, shortened
from jaklet.listener.log import Log
from jaklet.listener.session import ListenerSession

MOST_NAMED = 100  # characters of what a desktop cannot be used for


class HeardChords:
    """Lets a source hear what a session wants to, and tells of what cannot be had."""

    def __init__(self, source: ChordSource, session: ListenerSession, abilities: Abilities, log: Log) -> None:
        self._source, self._session, self._abilities, self._log = source, session, abilities, log
        self._hearing = NOTHING
        self.refused: dict[Chord | None, str] = {}

    @property
    def chords(self) -> list[Chord]:
        """The chords that begin something, and can."""
        return [chord for chord in sorted(self._session.chords) if chord not in self.refused]

    def begin(self, tell: Callable[[str], None]) -> str:
        """Hear the chords of a config that is new, tell of those that cannot be, and return how many bindings work."""
        config = self._session.config
        for lack in missing_abilities(config, self._abilities):
            how = ", which is left out" if lack.ability in CAN_BE_WITHOUT else ""
            needed_for = shortened(listed(list(lack.needed_for)), MOST_NAMED)
            tell(f"{lack.ability.lacking}{how}; {needed_for} would need that")
        self._spell()
        self.refused = {}
        self._source.ask_again()
        refusals = self._hear()
        for line in refused_told({str(one.chord): one.reason for one in refusals}):
            tell(line)
        return self._working({refusal.chord for refusal in refusals})

    def _working(self, refused: Container[Chord | None]) -> str:
        """Return how many bindings work, in words."""
        live = self._session.config.live
        # A layer takes the whole keyboard while it is on, so that nobody else can hold its keys.
        working = sum(
            not dead_keys(one, self._abilities) and (bool(one.layer) or one.keys[0] not in refused) for one in live
        )
        all_of_them = working == len(live)
        return counted(working, "binding") if all_of_them else f"{working} of {counted(len(live), 'binding')}"

    def follow(self) -> None:
        """Hear what means something now, and then tell of the layers that were entered and left."""
        self._hear_what_counts()
        self._log.tell_of_layers()

    def end(self) -> None:
        """Hear nothing any more."""
        self._source.grab(NOTHING)

    def look(self) -> None:
        """Tell of keys that waited too long, and of what can and cannot be had otherwise than before."""
        for late in self._source.lost():
            self._log.say(f"{late.chord or 'a key'}: {late.reason}")
        change = self._source.changed()
        if change is None:
            return
        self._spell()
        refusals = change.refusals
        if whole := next((one for one in refusals if one.chord is None), None):
            self._do_without_keyboard(whole.reason)
            if change.why:
                self._log.say(f"{change.why}: {self._working(self.refused)} heard again")
            return
        refused = {refusal.chord: refusal.reason for refusal in refusals}
        new = {str(one.chord): one.reason for one in refusals if self.refused.get(one.chord) != one.reason}
        for line in refused_told(new):
            self._log.say(line)
        if self._session.state == REST:
            again = [str(chord) for chord in sorted(one for one in self.refused if one and one not in refused)]
            if again:
                self._log.say(f"{some_of(again)} can be used now")
            self.refused = refused
        else:  # only the keys of a layer or a sequence were tried
            self.refused |= refused
        if change.why:
            self._log.say(f"{change.why}: {self._working(self.refused)} heard again")

    def _spell(self) -> None:
        """Find out which chords of the config are one key on this keyboard."""
        self._session.spell(self._source.twins(chord for one in self._session.config.live for chord in one.keys))

    def _hear(self) -> list[RefusedChord]:
        """Grab the keys that mean something now."""
        self._hearing = self._session.hearing
        refusals = self._source.grab(self._hearing)
        if self._session.state == REST and not self._hearing.every:
            # Chords of a scope that is not in front now may not be heard now; what was known of them stays known.
            known = {one: why for one, why in self.refused.items() if one not in self._hearing.chords}
            self.refused = known | {one.chord: one.reason for one in refusals if one.chord != ESCAPE}
        return refusals

    def _hear_what_counts(self) -> None:
        """Hear the keys of a layer, or the next ones of a sequence, while it is under way, and no longer."""
        if self._session.hearing is self._hearing:
            return
        before = self.refused
        for refusal in self._hear():
            if refusal.chord is None:
                self._do_without_keyboard(refusal.reason)
                return
            # Without Escape, time still ends a sequence.
            if refusal.chord != ESCAPE and before.get(refusal.chord) != refusal.reason:
                self._log.say(*refused_told({str(refusal.chord): refusal.reason}))

    def _do_without_keyboard(self, reason: str) -> None:
        """Close what is typed into, or leave the layer, as the whole keyboard is not to be had."""
        if self._hearing.typed:
            line = f"it cannot be typed into, and is closed: {reason}"
            self._log.say(line)
            self._log.post(Notice(line, failed=True))
            self._session.close_screen()
        else:
            self._log.say(f"layer {self._session.layer} is left: {reason}")
            self._session.leave()
        self._hear()
