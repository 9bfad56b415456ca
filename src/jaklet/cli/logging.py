"""The listener's log: every line with its time, in a file that is kept small."""

import contextlib
import queue
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Final

LARGEST: Final = 1_000_000  # bytes, after which the file is begun anew, and the former one kept
NAME: Final = "listener.log"


MOST_WAITING: Final = 10_000  # lines, after which more are left out: whoever is to take them does not


class LogPrinter:
    """Lines of a running log, printed and written in a thread: a terminal that takes nothing holds up no key."""

    def __init__(self, *writers: Callable[[str], None]) -> None:
        self._writers = list(writers)
        self._queue: queue.Queue[str | None] = queue.Queue(MOST_WAITING)
        self._thread = threading.Thread(target=self._work, name="log", daemon=True)
        self._thread.start()

    def say(self, line: str) -> None:
        """Have a line written."""
        with contextlib.suppress(queue.Full):
            self._queue.put_nowait(line)

    def close(self, patience: float = 1.0) -> None:
        """Let the lines that wait be written, for so many seconds at most."""
        if self._thread.is_alive():
            with contextlib.suppress(queue.Full):
                self._queue.put_nowait(None)
                self._thread.join(patience)

    def _work(self) -> None:
        while (line := self._queue.get()) is not None:
            for write in [*self._writers]:
                try:
                    write(line)
                except (OSError, ValueError):  # nobody reads it any more
                    self._writers.remove(write)


def log_to(folder: Path) -> Callable[[str], None]:
    """Return a function that writes a line into the log. A log that cannot be written is no reason not to listen.

    It is opened by the first line, in the thread that writes it: no key waits for it.
    """
    writers: list[Callable[[str], None]] = []

    def write(line: str) -> None:
        if not writers:
            writers.append(_opened_log(folder))
        writers[0](line)

    return write


def _opened_log(folder: Path) -> Callable[[str], None]:
    import time
    from logging import LogRecord
    from logging.handlers import RotatingFileHandler

    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        handler = RotatingFileHandler(folder / NAME, maxBytes=LARGEST, backupCount=1, encoding="utf-8")
        (folder / NAME).chmod(0o600)
    except OSError:
        return lambda _line: None
    handler.raiseExceptions = False  # type: ignore[attr-defined]

    def write(line: str) -> None:
        text = f"{time.strftime('%Y-%m-%d %H:%M:%S')} {line}"
        with contextlib.suppress(OSError):
            handler.emit(LogRecord("jaklet", 20, "", 0, text, None, None))

    return write
