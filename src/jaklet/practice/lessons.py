"""What there is to learn: a lesson for each line of the sheet, and a session that asks them."""

import random
from collections import deque
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import date
from typing import Final, NamedTuple

from jaklet.core.keys.sheet import SheetLine, sheet_lines
from jaklet.core.language.verbs import VERBS
from jaklet.core.values.chords import Chord, Keys
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.use_counts import FIRED, Count, counted_as
from jaklet.practice.schedule import AT_ONCE, NEW, WITH_THOUGHT, WRONG, LearnedState, review

QUICK, PER_CHORD = 4.0, 1.5  # seconds in which an answer comes at once, and more for each further chord
APART: Final = 3  # what was wrong is asked again after so many others
USED_DAYS, OF_DAYS = 5, 30  # a key that was pressed on so many of the last days needs no lesson


class Lesson(NamedTuple):
    """A line of the sheet. `name`: what progress is kept by, so that a changed line is a new one."""

    name: str
    line: SheetLine


class PracticeTask(NamedTuple):
    """One thing to be pressed: in words, and the keys that do it, the ones of the lesson first.

    `help`: what an action without a note does, in general.
    """

    lesson: Lesson
    words: str
    help: str
    keys: tuple[Keys, ...]
    is_again: bool = False

    def goes_on(self, pressed: Sequence[Chord]) -> bool:
        """True if more chords could make it right."""
        return any(len(pressed) < len(keys) and keys[: len(pressed)] == tuple(pressed) for keys in self.keys)

    def is_right(self, pressed: Sequence[Chord]) -> bool:
        """True if these are its keys."""
        return tuple(pressed) in self.keys


def name_of(line: SheetLine) -> str:
    """Return the name that the progress of a line is kept under."""
    scope = f" ({line.scope})" if line.scope else ""
    return counted_as(line.chords[0], line.layer, line.action) + scope


def lessons(config: Config) -> list[Lesson]:
    """Return the lessons of a config, in the order of its sheet; what is dead or typed is none."""
    return [Lesson(name_of(line), line) for line in sheet_lines(config) if line.chords and not line.dead]


def to_learn(every: Iterable[Lesson], progress: Mapping[str, LearnedState], counts: Iterable[Count]) -> list[Lesson]:
    """Return those that are not known yet. `counts`: what was pressed in the last `OF_DAYS` days."""
    days: dict[str, int] = {}
    for one in counts:
        if one.kind == FIRED:
            days[one.what] = days.get(one.what, 0) + 1
    return [
        lesson for lesson in every
        if not progress.get(lesson.name, NEW).is_known and _days_of(lesson.line, days) < USED_DAYS
    ]  # fmt: skip


def _days_of(line: SheetLine, days: Mapping[str, int]) -> int:
    pairs = zip(line.chords, line.actions, strict=False)
    return max((days.get(counted_as(keys, line.layer, action.text), 0) for keys, action in pairs), default=0)


class PracticeSession:
    """Asks what is due, and some new ones; what was wrong comes again until it is right.

    `new`: lessons of which there is no progress. `keep`: is told of each lesson's progress at once.
    `due`, `new`: how many there were when it began.
    """

    def __init__(
        self,
        every: Sequence[Lesson],
        new: Sequence[Lesson],
        progress: Mapping[str, LearnedState],
        config: Config,
        today: date,
        keep: Callable[[str, LearnedState], None],
        dice: random.Random,
    ) -> None:
        due = [one for one in every if one.name in progress and progress[one.name].due <= today.isoformat()]
        due.sort(key=lambda one: progress[one.name].due)
        self.due, self.new = len(due), len(new)
        self._left = deque((lesson, False) for lesson in (*due, *new))
        self._progress, self._bindings, self._today = dict(progress), config.live, today
        self._keep, self._dice = keep, dice
        self.asked = self.right = 0

    def next(self) -> PracticeTask | None:
        """Return the present task; None at the end."""
        if not self._left:
            return None
        lesson, is_again = self._left[0]
        line = lesson.line
        at = self._dice.randrange(len(line.chords))
        keys, action = line.chords[at], line.actions[at]
        others = (one.keys for one in self._bindings if _does(one, line, action.text))
        words = f"{line.note} ({action.text})" if line.note and len(line.chords) > 1 else line.note or action.text
        where = [f"in layer {line.layer}"] if line.layer else []
        where += [line.scope] if line.scope else []
        words += f", {', '.join(where)}" if where else ""
        help_ = "" if line.note else VERBS[action.verb].help
        return PracticeTask(lesson, words, help_, tuple(dict.fromkeys((keys, *others))), is_again)

    def answered(self, task: PracticeTask, is_right: bool, seconds: float) -> LearnedState:
        """Take the answer to the last task, and return how well its lesson is known now."""
        self._left.popleft()
        name = task.lesson.name
        if not is_right:
            self._left.insert(min(APART, len(self._left)), (task.lesson, True))
        if task.is_again:
            return self._progress[name]  # only the first answer of a day tells what is known
        self.asked += 1
        self.right += is_right
        quick = seconds <= QUICK + PER_CHORD * (len(task.keys[0]) - 1)
        quality = (AT_ONCE if quick else WITH_THOUGHT) if is_right else WRONG
        self._progress[name] = review(self._progress.get(name, NEW), quality, self._today)
        self._keep(name, self._progress[name])
        return self._progress[name]


def _does(binding: Binding, line: SheetLine, action: str) -> bool:
    """True if a binding does the same where this line is live."""
    same = binding.layer == line.layer and binding.action.text == action
    return same and binding.scope == line.within
