"""Chords that a client fires: what they are bound to is done one after another, as if they were pressed."""

from collections.abc import Callable, Sequence
from typing import Any

from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.ports.screen import Screen
from jaklet.core.actions.tasks import TaskOutcome
from jaklet.core.keys.firing import fire_chord, unfinished_sequence
from jaklet.core.keys.keymap import KeymapState
from jaklet.core.keys.strokes import typed_as
from jaklet.core.values.chords import Chord
from jaklet.core.values.config import Binding
from jaklet.core.values.errors import JakletError
from jaklet.listener.rpc import fault_data
from jaklet.listener.session import ListenerSession


class Firing:
    """Goes from chord to chord, and stops where one fails; what is open over the windows gets them as it gets keys.

    `answer` gets the lines to print, each with whether good.
    """

    def __init__(
        self,
        session: ListenerSession,
        screen: Screen,
        look: Callable[[], Moment],
        chords: list[Chord],
        answer: Callable[[Any], None],
    ) -> None:
        self._session, self._screen, self._look, self._chords, self._answer = session, screen, look, chords, answer
        self._bindings: list[tuple[Binding, bool]] = []  # those of the present chord, and whether its key is let go
        self._lines: list[dict[str, object]] = []  # each with whether it is good news

    def go_on(self) -> None:
        """Do what comes next; answer when nothing does."""
        session = self._session
        while not self._bindings and self._chords:
            moment, chord = self._look(), self._chords.pop(0)
            if self._screen.is_open:
                self._say(True, f"{chord}: goes to what is open over the windows")
                self._screen.key(typed_as(chord))
                self._screen.settled(self.go_on)
                return
            front = session.config.front_app(moment.desk)
            try:
                one = fire_chord(chord, session.state, front, session.keymap, session.config)
            except JakletError as unbound:
                self._end(False, unbound)
                return
            if one.line:
                self._say(True, one.line)
            session.turn(one.meaning.state, moment.now)
            self._bindings = [(binding, binding is one.meaning.on_release) for binding in one.bindings]
        if self._bindings:
            binding, released = self._bindings.pop(0)
            self._say(True, f"{binding.written}: {binding.action}")
            if released:
                session.released(binding, self._look().now)
            session.fire(binding, self._look(), self._ended)
            return
        fault = unfinished_sequence(session.state, session.keymap)
        self._end(fault is None, fault)

    def _ended(self, outcome: TaskOutcome, _took: float, told: Sequence[str]) -> None:
        self._say(False, *told)
        self._say(outcome.done, outcome.line, *(f"  {line}" for line in outcome.more if line))
        if outcome.done and self._screen.is_open:
            self._screen.settled(self._opened)
        elif outcome.done:
            self.go_on()
        else:
            self._end(False)

    def _opened(self) -> None:
        if self._screen.is_open:
            self.go_on()
        else:
            self._end(False, JakletError("it was closed at once", "the listener's log says why"))

    def _say(self, good: bool, *texts: str) -> None:
        self._lines += [{"good": good, "text": text} for text in texts]

    def _end(self, done: bool, fault: JakletError | None = None) -> None:
        if self._session.state.begun:  # nobody is there to go on with it
            self._session.turn(KeymapState(self._session.layer), self._look().now)
        self._answer({"done": done, "lines": self._lines, "faults": [fault_data(fault)] if fault else []})
