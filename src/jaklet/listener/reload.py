"""The config of a listener: read again on request, or when its files change; with errors, the old one stays."""

import contextlib
import gc
import os
import time
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Any, Final, NamedTuple, Protocol

from jaklet.core.actions.work import Work
from jaklet.core.values.config import Config
from jaklet.core.values.errors import JakletError
from jaklet.core.values.notices import Notice
from jaklet.listener.log import Log
from jaklet.listener.tasks import NEVER

SAFE: Final = 0.02  # seconds by which clocks of file systems may be behind
QUIET: Final = 0.3  # seconds without a change, after which the files are read: editors write in several steps


class LoadedConfig(NamedTuple):
    """A config that was read and checked: None if it has errors, and what was found, in lines. `files`: it is in.

    `began`: when its files began to be read, in seconds since the epoch. `texts`: what was in its files, by their whole
    paths.
    """

    config: Config | None
    lines: tuple[str, ...]
    files: tuple[Path, ...] = ()
    began: float = float("inf")
    texts: Mapping[str, str] = MappingProxyType({})


class FileWatching(Protocol):
    """What tells of changes to files."""

    @property
    def descriptor(self) -> int:
        """On which it tells."""
        ...

    def follow(self, files: Iterable[Path]) -> None:
        """Watch these files, and no others."""
        ...

    def changed(self) -> bool:
        """Return whether one of them has changed since this was asked last."""
        ...


class ConfigSource(NamedTuple):
    """Where the config is, how it is read, and what tells of changes to its files, if anything does."""

    path: Path
    load: Callable[[], LoadedConfig]
    watch: FileWatching | None = None


def _stamp(path: Path, before: float = float("inf")) -> tuple[int, ...]:
    """Return inode, size and time of a file; empty for one that is missing, or has changed since a time."""
    try:
        found = path.stat()
    except OSError:
        return ()
    return (found.st_ino, found.st_size, found.st_mtime_ns) if found.st_mtime < before else ()


class Reload:
    """Reads the config again. `use` is given one that can be used, and where to tell of it; it returns how it went.

    `do` does work that may have to wait for others, and calls what is to follow it.
    """

    def __init__(
        self,
        source: ConfigSource,
        first: LoadedConfig,
        log: Log,
        use: Callable[[Config, Callable[[str], None]], str],
        do: Callable[[Work, Callable[[Work], None]], None],
    ) -> None:
        self._source, self._log, self._use, self._do = source, log, use, do
        self.refused: tuple[str, ...] = ()  # what was found when the files were read last, if they could not be used
        self.deadline = NEVER  # when the files, which have changed, are to be read
        self._take_note(first)

    @property
    def path(self) -> Path:
        """The config file."""
        return self._source.path

    @property
    def watches(self) -> bool:
        """True if changes to the files are seen."""
        return self._source.watch is not None

    @property
    def descriptors(self) -> list[int]:
        """What to watch."""
        return [self._source.watch.descriptor] if self._source.watch else []

    def _take_note(self, loaded: LoadedConfig) -> None:
        self.findings, self.texts = loaded.lines, loaded.texts
        self._read = {path: _stamp(path, loaded.began - SAFE) for path in (*loaded.files, self._source.path)}
        self.bindings = tuple(one.described for one in loaded.config.live) if loaded.config else ()
        if self._source.watch and loaded.files:
            self._source.watch.follow(loaded.files)

    def is_current(self, path: str) -> bool:
        """Return whether this is its config, and none of its files has changed since it was read."""
        own = os.path.realpath(path) == os.path.realpath(self._source.path)
        return own and all(stamp == _stamp(one) != () for one, stamp in self._read.items())

    def look(self, now: float) -> None:
        """Read the config again once its files have changed and have been left alone for a moment."""
        watch = self._source.watch
        if watch and watch.changed():
            self.deadline = now + QUIET
        elif now >= self.deadline:
            self.deadline = NEVER
            self.read()

    def _let_stamps_differ(self) -> None:
        """Wait until a change of the files from now on has another time than the last one: milliseconds, if at all."""
        with contextlib.suppress(OSError):
            last = max(path.stat().st_mtime for path in self._read)
            time.sleep(min(max(0.0, last + SAFE - time.time()), SAFE))

    def read(self, then: Callable[[dict[str, Any]], None] = lambda _told: None) -> None:
        """Read and check the config again; `then` is told what came of it."""
        self._do(Work(self._load), lambda work: then(self._go_by(work)))

    def _load(self) -> LoadedConfig:
        self._let_stamps_differ()
        return self._source.load()

    def _go_by(self, work: Work) -> dict[str, Any]:
        """Use the config that was read, if it can be used; return what is to be told of it."""
        try:
            loaded: LoadedConfig = work.result()
        except JakletError as fault:  # the file itself may be gone, as between an editor's delete and its rename
            loaded = LoadedConfig(None, (f"{fault.message}; {fault.remedy}",))
        except Exception as fault:
            loaded = LoadedConfig(None, (self._log.broken("reading the config", fault),))
        lines = list(loaded.lines)
        self.refused = tuple(lines) if loaded.config is None else ()
        if loaded.config is None:
            first = lines[0] if lines else "it cannot be read"
            self._log.post(Notice(f"the config was not reloaded: {first}", failed=True, topic="reload"))
            lines.append("the old config stays in use")
        else:
            self._take_note(loaded)
            lines.append(f"reloaded: {self._use(loaded.config, lines.append)}")
        for line in lines:
            self._log.say(line)
        gc.collect()  # the old config refers to itself, and several of them at once are tens of megabytes
        return {"done": loaded.config is not None, "lines": lines}
