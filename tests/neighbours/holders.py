"""What holds a lock, a file or a database that Jaklet uses: each a process of its own, stopped while it has it."""

import contextlib
import os
import signal
import subprocess
import sys
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import Final

from tests.xserver import until

_HOLD_LOCK: Final = "import fcntl, os, sys; f = open(sys.argv[1], 'a'); fcntl.flock(f, fcntl.LOCK_EX); "
_HOLD_DATABASE: Final = (
    "import os, sqlite3, sys; d = sqlite3.connect(sys.argv[1], isolation_level=None);"
    " d.execute('CREATE TABLE IF NOT EXISTS nobodys(x)'); d.execute('BEGIN EXCLUSIVE'); "
)
_THEN_STOP: Final = "open(sys.argv[2], 'w').close(); os.kill(os.getpid(), 19)"  # SIGSTOP


@contextlib.contextmanager
def stopped(code: str, path: Path) -> Iterator[None]:
    """Run code in a process that is stopped at its end, for as long as this lasts."""
    path.parent.mkdir(parents=True, exist_ok=True)
    sign = path.with_name(f"{path.name}.held")
    process = subprocess.Popen([sys.executable, "-c", code + _THEN_STOP, str(path), str(sign)])
    try:
        until(lambda: sign.exists() and _state(process.pid) == "T", f"{path.name} to be held by a stopped process")
        yield
    finally:
        process.kill()
        process.wait()
        sign.unlink(missing_ok=True)


def _state(pid: int) -> str:
    return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]


@contextlib.contextmanager
def large_layout(folder: Path) -> Iterator[None]:
    """Let a layout of more than 1 MB lie in the folder, which takes seconds to read."""
    path = folder / "layouts" / "aaa.yaml"
    path.parent.mkdir(exist_ok=True)
    lines = "\n".join(f"- {{class: Window{i}, title: number {i}, place: left 1/2}}" for i in range(20_000))
    path.write_text(f"layout: aaa\nnumber: 99\nwindows:\n{lines}\n")
    try:
        yield
    finally:
        path.unlink()


@contextlib.contextmanager
def pipe_for_lock(folder: Path) -> Iterator[None]:
    """Let a pipe lie in the place of the lock, which nobody writes to."""
    path = folder / "state" / "jaklet" / "layouts.lock"
    path.unlink(missing_ok=True)
    os.mkfifo(path)
    try:
        yield
    finally:
        path.unlink()


def _state_file(name: str, code: str) -> Callable[[Path], contextlib.AbstractContextManager[None]]:
    return lambda folder: stopped(code, folder / "state" / "jaklet" / name)


# By what is held: what holds it, in the folder of an office.
HOLDERS: Final[Mapping[str, Callable[[Path], contextlib.AbstractContextManager[None]]]] = {
    "the lock of saves": _state_file("layouts.lock", _HOLD_LOCK),
    "the versions of layouts": _state_file("layouts.sqlite", _HOLD_DATABASE),
    "the steps to undo": _state_file("undo.sqlite", _HOLD_DATABASE),
    "what was learned of managers": _state_file("managers.sqlite", _HOLD_DATABASE),
    "counts of use": _state_file("use.sqlite", _HOLD_DATABASE),
    "a layout that takes seconds to read": large_layout,
    "a pipe in the place of the lock": pipe_for_lock,
}


@contextlib.contextmanager
def halted(pid: int) -> Iterator[None]:
    """Stop a process, and let it go on."""
    os.kill(pid, signal.SIGSTOP)
    until(lambda: _state(pid) == "T", "the process to be stopped")
    try:
        yield
    finally:
        os.kill(pid, signal.SIGCONT)
