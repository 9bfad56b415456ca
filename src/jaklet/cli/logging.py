"""The listener's log: every line with its time, in a file that is kept small."""

from collections.abc import Callable
from pathlib import Path
from typing import Final

LARGEST: Final = 1_000_000  # bytes, after which the file is begun anew, and the former one kept
NAME: Final = "listener.log"


def log_to(folder: Path) -> Callable[[str], None]:
    """Return what writes a line into the log; a log that cannot be written is no reason not to listen."""
    import contextlib
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
