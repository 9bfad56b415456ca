"""Locks between processes, that are never waited for longer than a moment: who holds one may be stopped.

A lock is a file in a folder that is this user's alone (flock(2)). Links and pipes in its place are refused: whoever
could put one there would have another file emptied, or keep us for ever.
"""

import contextlib
import errno
import fcntl
import os
import stat
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Final

WAITS: Final = 2.0  # seconds for somebody else to be done
LOOKS: Final = 0.02  # seconds between two tries


class HeldError(OSError):
    """Somebody else has a lock. `strerror` says who, `remedy` what to do."""

    def __init__(self, holder: int | None) -> None:
        """Tell of the process that has it, if that is known."""
        stopped = holder is not None and _is_stopped(holder)
        who = "another process" if holder is None else f"process {holder}"
        super().__init__(errno.EAGAIN, f"{who}{', which is stopped,' if stopped else ''} is about to change layouts")
        self.remedy = f"let it go on (kill -CONT {holder}), then try again" if stopped else "try again in a moment"


def opened_lock(path: Path) -> int:
    """Return the descriptor of a lock's file, which is made where none is; raises `OSError`."""
    flags = os.O_RDWR | os.O_CREAT | os.O_CLOEXEC | os.O_NOFOLLOW | os.O_NONBLOCK
    descriptor = os.open(path, flags, 0o600)
    state = os.fstat(descriptor)
    if not stat.S_ISREG(state.st_mode) or state.st_uid != os.getuid() or state.st_nlink != 1:
        os.close(descriptor)
        raise OSError(errno.EINVAL, "it is no ordinary file of your own", str(path))
    return descriptor


def listener_lock(state: Path, listener: str) -> Path:
    """Return the file that a listener of this name has locked while it runs on this machine. `state`: its folder."""
    return state / f"{listener.replace('/', '_')}@{os.uname().nodename}.lock"


@contextlib.contextmanager
def hold_lock(path: Path, waits: float = WAITS) -> Iterator[None]:
    """Hold a lock; raises `HeldError` where somebody else does not give it back in so many seconds, or `OSError`.

    Whoever waits for the lock has the lock of a second file meanwhile, the queue's. Without the queue a process that
    saves again and again takes the lock anew before anybody who waits has looked again.
    """
    until = time.monotonic() + waits
    with _lock_taken(path.with_suffix(".queue"), until) as queue, _lock_taken(path, until):
        os.close(queue.pop())
        yield


@contextlib.contextmanager
def _lock_taken(path: Path, until: float) -> Iterator[list[int]]:
    """Take the lock of a file until a time; its descriptor is given, and closed at the end where it is still there."""
    descriptors = [opened_lock(path)]
    try:
        while not take_lock(descriptors[0]):
            if time.monotonic() >= until:
                raise HeldError(holder_of(descriptors[0]))
            time.sleep(LOOKS)
        yield descriptors
    finally:
        for descriptor in descriptors:
            os.close(descriptor)  # which lets go of the lock


def take_lock(descriptor: int) -> bool:
    """Take the lock of an open file if nobody has it; return whether it is ours."""
    try:
        fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True


def holder_of(descriptor: int) -> int | None:
    """Return the process that holds the lock of an open file, by /proc/locks (proc(5)); None where that is not told."""
    inode = str(os.fstat(descriptor).st_ino)
    with contextlib.suppress(OSError):
        for line in Path("/proc/locks").read_text().splitlines():
            words = line.split()  # 1: FLOCK ADVISORY WRITE 4711 08:01:131 0 EOF
            if len(words) > 5 and words[1] == "FLOCK" and words[5].rpartition(":")[2] == inode and words[4].isdigit():
                return int(words[4])
    return None


def _is_stopped(process: int) -> bool:
    """Return whether a process is stopped by a signal (proc(5), the state in /proc/PID/stat)."""
    try:
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[0] in ("T", "t")
    except (OSError, IndexError):
        return False
