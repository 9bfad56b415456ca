"""Doing something again whenever files change, until Ctrl+C."""

import select
import sys
from collections.abc import Callable, Iterable
from pathlib import Path

CALM = 0.05  # seconds after a change in which an editor may write more
CLEAR = "\x1b[2J\x1b[3J\x1b[H"  # the screen, what was scrolled off it, and the cursor at its corner (ECMA-48)


def watch_files(do: Callable[[], Iterable[Path]], clears: bool) -> None:
    """Do something now, and again with each change of the files that it returns; folders stand for all in them.

    `clears`: on a terminal, what stood there before goes.
    """
    from jaklet.listener.file_watch import FileWatch

    watch = FileWatch()
    try:
        while True:
            if clears and sys.stdout.isatty():
                sys.stdout.write(CLEAR)
            paths = [*do()]
            sys.stdout.flush()
            folders = [path for path in paths if path.is_dir()]
            watch.follow([path for path in paths if path not in folders], folders)
            _wait(watch.descriptor)
            while not watch.changed():
                _wait(watch.descriptor)
            while select.select([watch.descriptor], [], [], CALM)[0]:
                watch.changed()
    finally:
        watch.close()


def _wait(descriptor: int) -> None:
    select.select([descriptor], [], [])
