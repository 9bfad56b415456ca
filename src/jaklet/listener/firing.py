"""Chords that a client fires: what they are bound to is done one after another, as if they were pressed."""

from collections.abc import Callable, Sequence
from typing import Any

from jaklet.core.actions.ports.desk import Moment
from jaklet.core.actions.tasks import Outcome
from jaklet.core.keys.firing import fired, unfinished
from jaklet.core.values.chords import Chord
from jaklet.core.values.config import Binding
from jaklet.core.values.errors import JakletError
from jaklet.listener.rpc import fault_data
from jaklet.listener.session import Session


class Firing:
    """Goes from chord to chord, and stops where one fails. `answer` gets the lines to print, each with whether good."""

    def __init__(
        self, session: Session, look: Callable[[], Moment], chords: list[Chord], answer: Callable[[Any], None]
    ) -> None:
        self._session, self._look, self._chords, self._answer = session, look, chords, answer
        self._bindings: list[tuple[Binding, bool]] = []  # those of the present chord, and whether its key is let go
        self._lines: list[tuple[bool, str]] = []

    def go_on(self) -> None:
        """Do what comes next; answer when nothing does."""
        session = self._session
        while not self._bindings and self._chords:
            moment, chord = self._look(), self._chords.pop(0)
            front = session.config.front_app(moment.desk)
            try:
                one = fired(chord, session.state, front, session.keymap, session.config)
            except JakletError as unbound:
                self._end(False, unbound)
                return
            self._lines += [(True, one.line)] if one.line else []
            session.turn(one.meaning.state, moment.now)
            self._bindings = [(binding, binding is one.meaning.on_release) for binding in one.bindings]
        if self._bindings:
            binding, released = self._bindings.pop(0)
            self._lines.append((True, f"{binding.written}: {binding.action}"))
            if released:
                session.released(binding, self._look().now)
            session.fire(binding, self._look(), self._ended)
            return
        fault = unfinished(session.state, session.keymap)
        self._end(fault is None, fault)

    def _ended(self, outcome: Outcome, _took: float, told: Sequence[str]) -> None:
        self._lines += [(False, text) for text in told]
        self._lines += [(outcome.done, outcome.line), *((outcome.done, f"  {line}") for line in outcome.more if line)]
        if outcome.done:
            self.go_on()
        else:
            self._end(False)

    def _end(self, done: bool, fault: JakletError | None = None) -> None:
        self._answer({"done": done, "lines": self._lines, "fault": fault_data(fault) if fault else None})
