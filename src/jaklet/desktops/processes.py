"""Launched programs: started without a shell, watched until they end, and known by their windows.

A window belongs to a launch if it has the launch's startup notification id (freedesktop startup notification,
`DESKTOP_STARTUP_ID`), or if its process descends from the one that was started. Only the first such window of a launch
counts, as users start other programs from within a program.
"""

import contextlib
import os
import re
import time as clock
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Final

from jaklet.core.actions.ports.desktop import NOT_ALLOWED, NOT_FOUND, ProgramExit
from jaklet.core.values.changes import Launch, Shell
from jaklet.core.values.regexes import regex
from jaklet.desktops import procfs

if TYPE_CHECKING:
    from subprocess import Popen

PROGRAMS: Final = "programs"  # the folder in the state folder for what launched programs write as errors
VARIABLE: Final = "DESKTOP_STARTUP_ID"
PATIENCE: Final = 60.0  # seconds after a launch in which a window may still be known as the launched one
LARGEST_LOG: Final = 1_000_000  # bytes; an app's log is begun anew above that
SHELL_LOG: Final = "shell"
MOST_COMMANDS: Final = 20  # of the shell, whose ends are remembered
LAST_LINE: Final = 4096  # bytes from the end of a log in which the last line is looked for


_ERROR: Final = regex(
    r"\b(?:error|errors|fatal|failed|failure|cannot|can't|could not|couldn't|unable|denied|not found|no such|invalid"
    r"|unknown|unrecognized|missing|refused|abort\w*)\b|[A-Z]\w*(?:Error|Exception)\b",
    re.IGNORECASE,
)


class _Waiting:
    """A launch whose first window has not come yet."""

    def __init__(self, tie: str, startup_id: str, pid: int) -> None:
        self.tie = tie
        self.startup_id = startup_id
        self.pid = pid
        self.since = clock.monotonic()

    def shows(self, startup_id: str, pid: int) -> bool:
        """True if a window with this id, of this process, is the launch's."""
        if startup_id:
            return startup_id == self.startup_id
        return pid > 0 and (procfs.descends(pid, self.pid) or procfs.began_with(pid, f"{VARIABLE}={self.startup_id}"))


def _started(
    command: Sequence[str], errors: int | None, folder: Path, environment: Mapping[str, str] | None
) -> "Popen[bytes]":
    """Start a process in a session of its own, and return it. `errors`: the descriptor that they are written to."""
    from subprocess import DEVNULL, Popen  # of no use before the first launch

    return Popen(
        command,
        stdin=DEVNULL,
        stdout=DEVNULL,
        stderr=DEVNULL if errors is None else errors,
        cwd=folder,
        env=environment,
        start_new_session=True,
    )


class Processes:
    """Launched programs. Each has a file descriptor that becomes readable when it ends (pidfd_open(2)).

    `logs`: returns the folder where what they write as errors is kept, one file an app.
    """

    def __init__(self, logs: Callable[[], Path] | None = None) -> None:
        self._logs = logs
        self._running: dict[int, tuple[str, Popen[bytes]]] = {}
        self._written: dict[str, tuple[Path, int]] = {}  # app -> its log, and where this launch begins in it
        self._waiting: list[_Waiting] = []
        self._count = 0
        self.ended: list[ProgramExit] = []

    def launch(self, launch: Launch, time: int) -> None:
        """Start a program in a session of its own, so that it outlives Jaklet. `time`: server time of the key."""
        app, command = launch.app, (os.path.expanduser(launch.command[0]), *launch.command[1:])
        folder = Path.home() / Path(launch.folder).expanduser()  # a whole path stays as it is
        self.ended = [ended for ended in self.ended if ended.app != app]
        if not folder.is_dir():
            self.ended.append(ProgramExit(app, NOT_FOUND, f"there is no folder {launch.folder}"))
            return
        self._count += 1
        # The form that toolkits read the time from: without it a window may open behind the others.
        startup_id = f"jaklet-{os.getpid()}-{self._count}-{os.path.basename(command[0])}_TIME{time}"
        errors = self._log(app)
        try:
            environment = {**os.environ, **dict(launch.environment), VARIABLE: startup_id}
            process = _started(command, errors, folder, environment)
        except OSError as fault:
            missing = isinstance(fault, FileNotFoundError)
            reason = f"there is no program {launch.command[0]!r}"
            if not missing:
                reason = f"{launch.command[0]!r} cannot be run: {fault.strerror or fault}"
            self.ended.append(ProgramExit(app, NOT_FOUND if missing else NOT_ALLOWED, reason))
            return
        finally:
            if errors is not None:
                os.close(errors)
        self._running[os.pidfd_open(process.pid)] = (app, process)
        self._waiting.append(_Waiting(launch.tie, startup_id, process.pid))

    def shell(self, change: Shell) -> None:
        """Let a shell run a command in the home folder; its end is told, and no window is awaited of it."""
        self.ended = [ended for ended in self.ended if ended.app != change.key]
        errors = self._log(SHELL_LOG)
        if SHELL_LOG in self._written:
            self._written[change.key] = self._written.pop(SHELL_LOG)
        try:
            process = _started(("/bin/sh", "-c", change.command), errors, Path.home(), None)
        except OSError as fault:
            self.ended.append(
                ProgramExit(change.key, NOT_ALLOWED, f"the shell cannot be run: {fault.strerror or fault}")
            )
            return
        finally:
            if errors is not None:
                os.close(errors)
        self._running[os.pidfd_open(process.pid)] = (change.key, process)
        # Their keys are never used again, so that only the last ones are kept.
        commands = [ended for ended in self.ended if ended.app.startswith(SHELL_LOG)]
        for old in commands[:-MOST_COMMANDS]:
            self.ended.remove(old)
            self._written.pop(old.app, None)

    def _log(self, app: str) -> int | None:
        """Return a descriptor to write errors to, None where they go nowhere.

        It is a file, as a pipe would break when Jaklet ends.
        """
        self._written.pop(app, None)
        if self._logs is None:
            return None
        try:
            folder = self._logs()
            folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            path = folder / (re.sub(r"[^\w.-]", "_", app) + ".log")
            flags = os.O_WRONLY | os.O_CREAT | os.O_APPEND | os.O_CLOEXEC | os.O_NOFOLLOW
            log = os.open(path, flags, 0o600)
            if os.fstat(log).st_size > LARGEST_LOG:
                os.ftruncate(log, 0)
            self._written[app] = path, os.fstat(log).st_size
        except OSError:
            return None  # a full disk is no reason not to launch
        return log

    def said(self, app: str) -> str:
        """Return the line that says most of what an app's program wrote as errors since its launch.

        That is the last one that tells of an error, else the last one.
        """
        path, begin = self._written.get(app, (None, 0))
        if path is None:
            return ""
        try:
            with path.open("rb") as log:
                end = log.seek(0, os.SEEK_END)
                log.seek(max(begin, end - LAST_LINE))
                lines = log.read(LAST_LINE).decode("utf-8", "replace").split("\n")
        except OSError:
            return ""
        told = [line.strip() for line in reversed(lines) if line.strip()]
        return next((line for line in told if _ERROR.search(line)), told[0] if told else "")

    @property
    def awaits_windows(self) -> bool:
        """True while the first window of some launch is still to come."""
        self._waiting = [one for one in self._waiting if clock.monotonic() - one.since < PATIENCE]
        return bool(self._waiting)

    def shown_by(self, startup_id: str, pid: int) -> str:
        """Return the tie of the launch that a new window is the first of; empty if it is of none."""
        for one in self._waiting:
            if one.shows(startup_id, pid):
                self._waiting.remove(one)
                return one.tie
        return ""

    def descriptors(self) -> list[int]:
        """Return a descriptor per running program."""
        return list(self._running)

    def reap(self) -> bool:
        """Take note of programs that have ended; True if one has."""
        news = False
        for descriptor, (app, process) in list(self._running.items()):
            status = process.poll()
            if status is None:
                continue
            del self._running[descriptor]
            os.close(descriptor)
            self.ended = [ended for ended in self.ended if ended.app != app]
            self.ended.append(ProgramExit(app, status if status >= 0 else 128 - status))
            news = True
        return news

    def close(self) -> None:
        """Let the programs run on by themselves."""
        for descriptor, (_, process) in self._running.items():
            with contextlib.suppress(OSError):
                os.close(descriptor)
            process.returncode = 0  # not ours to wait for any more: no warning about a process left running
        self._running.clear()
