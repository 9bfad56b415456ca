"""What is being pressed for programs: texts, one after another, stroke by stroke, a little at a time."""

import time as clock
from abc import ABC, abstractmethod
from collections import deque
from typing import Final

from jaklet.core.values.changes import Press
from jaklet.core.values.chords import Chord
from jaklet.core.values.errors import DeskError

BUDGET: Final = 0.004  # seconds of strokes between two looks at everything else
LOOK_AGAIN: Final = 0.005  # seconds until held keys are looked at again
HELD_FOR: Final = 3.0  # seconds that keys may be held before it is given up


class ChordRun:
    """Chords that are being pressed: how many are done, the window with the focus, and since when keys are held."""

    def __init__(self, press: Press) -> None:
        self.press = press
        self.done = 0
        self.focus: int | None = None
        self.held_since: float | None = None

    @property
    def so_far(self) -> str:
        """How much was pressed, in words, where it ends before it is done."""
        if not self.done:
            return "nothing was pressed"
        return f"only {self.done} of {len(self.press.chords)} keys were pressed"


class Pressing(ABC):
    """Presses what it is given, in order. How one stroke is made is the desktop's business."""

    def __init__(self) -> None:
        self._texts: deque[ChordRun] = deque()
        self.failed: dict[Press, str] = {}  # why the last of them were given up
        self.next_look = 0.0  # when there is something to do again

    @property
    def under_way(self) -> tuple[Press, ...]:
        """What is not done yet."""
        return tuple(text.press for text in self._texts)

    def begin(self, press: Press) -> None:
        """Press these chords when those before them are done; raises `DeskError` where this keyboard lacks a key."""
        for chord in press.chords:
            if problem := self._problem(chord):
                raise DeskError(f"{chord} cannot be pressed: {problem}", "press another chord")
        self.failed.pop(press, None)
        self._texts.append(ChordRun(press))
        self.next_look = 0.0

    def go_on(self) -> bool:
        """Do some of the strokes; True if a text has come to its end."""
        until = clock.monotonic() + BUDGET
        ended = False
        while self._texts and (now := clock.monotonic()) < until:
            text = self._texts[0]
            if text.done < len(text.press.chords):
                problem = self._stroke(text, now)
                if problem is None:
                    self.next_look = now + LOOK_AGAIN
                    return ended
                if not problem:
                    text.done += 1
                    continue
                self.failed[text.press] = problem
            self._texts.popleft()
            ended = True
            if not self._texts:
                self._restore()
        self.next_look = 0.0
        return ended

    def give_up(self, press: Press) -> None:
        """Press no more of this."""
        if press in self.under_way:
            self._texts = deque(text for text in self._texts if text.press != press)
            if not self._texts:
                self._restore()

    @abstractmethod
    def _problem(self, chord: Chord) -> str:
        """Return why this keyboard cannot press a chord; empty if it can."""

    @abstractmethod
    def _stroke(self, text: ChordRun, now: float) -> str | None:
        """Press one chord. Return why it cannot be; an empty text if it was; None if something is waited for."""

    @abstractmethod
    def _restore(self) -> None:
        """Let all be again as it was before the first stroke."""
