"""What may have to wait for others, done beside the loop: in one thread, in order, while keys go on.

A lock, a database or a file can be held by a process that is stopped, on a disk that hangs. The loop waits for none of
it longer than a moment. Nearly everything is done in that moment, so that a key is as quick as it would be without a
thread; what takes longer is taken up when it is done.
"""

import contextlib
import os
import queue
import threading
from collections.abc import Callable
from typing import Final, NoReturn, TypeVar

from jaklet.core.actions.ports.history import History, UndoStep
from jaklet.core.actions.ports.layout_store import LayoutStore, SavedVersion
from jaklet.core.actions.work import Work
from jaklet.core.values.errors import StoreError
from jaklet.core.values.layouts import Layout

PROMPT: Final = 0.03  # seconds that the loop waits for work itself
MOST_STEPS: Final = 100  # whose numbers are known: those that are under way are few
Result = TypeVar("Result")


class QueuedWork:
    """Work, and whether anybody waits until it is `done`. `is_late`: the loop has gone on, and is to be told."""

    __slots__ = ("done", "is_late", "work")

    def __init__(self, work: Work, done: threading.Event | None = None) -> None:
        self.work, self.done, self.is_late = work, done, False


class WorkerThread:
    """One thread and its queue. `descriptor` can be read once something was done that was not waited for."""

    def __init__(self) -> None:
        self.descriptor, self._done_on = os.pipe()
        for end in (self.descriptor, self._done_on):
            os.set_blocking(end, False)
        self._queue: queue.SimpleQueue[QueuedWork] = queue.SimpleQueue()
        self._ends = threading.Lock()  # while it is found out whether work is done or late
        self._late = 0  # how much was not done within a moment, and is to be looked for
        self._thread: threading.Thread | None = None
        self._pending: list[tuple[Work, Callable[[Work], None]]] = []

    def do(self, work: Work) -> bool:
        """Have work done; return whether it is done by now."""
        if threading.current_thread() is self._thread:
            work.run()
            return True
        done = threading.Event()
        queued = QueuedWork(work, done)
        self._put(queued)
        if done.wait(PROMPT):
            return True
        with self._ends:
            queued.is_late = not done.is_set()
        self._late += queued.is_late
        return not queued.is_late

    def post(self, work: Work) -> None:
        """Have work done of which nobody is to be told."""
        self._put(QueuedWork(work))

    def _put(self, queued: QueuedWork) -> None:
        if self._thread is None:
            self._thread = threading.Thread(target=self._work, name="beside", daemon=True)
            self._thread.start()
        self._queue.put(queued)

    def do_then(self, work: Work, then: Callable[[Work], None]) -> None:
        """Have work done, and call `then` in the loop once it is."""
        if self.do(work):
            then(work)
        else:
            self._pending.append((work, then))

    def prompt(self, call: Callable[[], Result], otherwise: Callable[[], Result]) -> Result:
        """Return the value of a call that ends within a moment, else that of `otherwise`."""
        work = Work(call)
        if self.do(work):
            found: Result = work.result()
            return found
        return otherwise()

    def look(self) -> bool:
        """Go on with what is done by now; return whether anything was done since this was asked last."""
        if not self._late:
            return False
        with contextlib.suppress(BlockingIOError):
            came = len(os.read(self.descriptor, 4096))
            self._late = max(0, self._late - came)
            done = [one for one in self._pending if one[0].is_done]
            self._pending = [one for one in self._pending if not one[0].is_done]
            for work, then in done:
                then(work)
            return True
        return False

    def end(self, patience: float = 1.0) -> None:
        """Let what is queued be done, for so many seconds at most."""
        if self._thread is None:
            return
        done = threading.Event()
        self._queue.put(QueuedWork(Work(lambda: None), done))
        done.wait(patience)

    def _work(self) -> None:
        while True:
            queued = self._queue.get()
            queued.work.run()
            with self._ends:
                if queued.done:
                    queued.done.set()
            if queued.is_late:
                with contextlib.suppress(BlockingIOError):  # full of news that nobody has read yet
                    os.write(self._done_on, b"\n")


class InlineWorker(WorkerThread):
    """The same without a thread, for where nobody else holds anything: in tests with a clock of their own."""

    def do(self, work: Work) -> bool:
        """Do work here and now."""
        work.run()
        return True

    def post(self, work: Work) -> None:
        """Do work here and now."""
        work.run()


class PromptLayoutStore:
    """Layouts (`LayoutStore`) that are never waited for longer than a moment outside the thread."""

    def __init__(self, shelf: LayoutStore, beside: WorkerThread) -> None:
        self._shelf, self._beside = shelf, beside

    def find(self, word: str) -> Layout | None:
        """Return the layout with this name or number; raises `StoreError`, also where that takes long."""
        return self._beside.prompt(lambda: self._shelf.find(word), self._slow)

    def names(self) -> list[str]:
        """Return the names of all layouts; raises `StoreError` where that takes long."""
        return self._beside.prompt(self._shelf.names, self._slow)

    def keep(self, layout: Layout, *, take_number: bool = False) -> SavedVersion:
        """Save a layout; raises `StoreError`, also where it is not known in a moment whether it is saved."""
        return self._beside.prompt(lambda: self._shelf.keep(layout, take_number=take_number), self._slow)

    @staticmethod
    def _slow() -> NoReturn:
        raise StoreError("the layouts cannot be read just now", "see which disk or process holds them up")


class PromptHistory:
    """Steps that can be undone (`core.actions.ports.History`), written in order in the thread.

    A step that is kept has a number of its own here, as that of the database may come later.
    """

    def __init__(self, history: History, beside: WorkerThread) -> None:
        self._history, self._beside = history, beside
        self._numbers: dict[int, int] = {}  # in the database, by those given out here
        self._last = 0
        self._stood: list[str] = []  # the layouts, as they were known last
        self._asked: Work | None = None  # for the layouts, while that is under way

    def keep(self, step: UndoStep) -> int:
        """Add a step, and return its number, which is below zero."""
        self._last -= 1
        number = self._last

        def keep() -> None:
            self._numbers[number] = self._history.keep(step)
            self._numbers.pop(number + MOST_STEPS, None)  # over long ago

        self._beside.post(Work(keep))
        return number

    def more(self, number: int, step: UndoStep) -> int:
        """Put a step in the place of an earlier state of it."""
        self._beside.post(Work(lambda: self._history.more(self._numbers.get(number, number), step)))
        return number

    def steps(self) -> list[tuple[int, UndoStep]]:
        """Return the steps with their numbers, the last one first; raises `StoreError`, also where that takes long."""
        return self._beside.prompt(self._history.steps, self._slow)

    def drop(self, number: int) -> None:
        """Take a step away; raises `StoreError`."""
        self._beside.prompt(lambda: self._history.drop(number), self._slow)

    def stands(self, layout: str, saved: bool = False) -> None:
        """Remember that a layout was recalled or saved."""
        self._stood = [layout, *(one for one in self._stood if one != layout)]
        self._beside.post(Work(lambda: self._history.stands(layout, saved)))

    def layouts(self) -> list[str]:
        """Return the layouts that stood, the last one first: as they were known last, where to look takes long."""
        if self._asked is None or self._asked.is_done:
            self._asked = Work(self._history.layouts)
            self._beside.do(self._asked)
        if self._asked.is_done:
            self._stood = self._asked.result()
        return self._stood

    @staticmethod
    def _slow() -> NoReturn:
        raise StoreError("what can be undone cannot be read just now", "see which disk or process holds it up")
