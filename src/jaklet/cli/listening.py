"""What `jaklet listen` does, when its options are read: `cli.listen` has those that Typer reads.

A listener begins when somebody logs in, on a machine that is busy then: it reads its few options itself, as Typer
takes a tenth of the time until the first key is heard, and memory for as long as it runs.
"""

import atexit
import gc
import os
import signal
import sys
import time
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from jaklet.cli import terminal
from jaklet.core.values.errors import JakletError, UsageError

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from jaklet.checks.run import CheckedConfig
    from jaklet.cli.helper_process import HelperProcess
    from jaklet.core.values.config import Config
    from jaklet.core.values.desk import Desk
    from jaklet.listener.file_watch import FileWatch
    from jaklet.listener.reload import LoadedConfig

OF_LAYOUTS: Final = frozenset({"JK305"})  # what is so no more once a layout was saved, without a reload
MOST_RESTARTS = 5
LEAST_LIFE = 2.0  # seconds from one start to the next
SIGNALS = (signal.SIGTERM, signal.SIGINT, signal.SIGHUP)


class ListenerOptions(NamedTuple):
    """What a listener is started with."""

    config: str | None = None
    desk: str | None = None
    keyboards: tuple[str, ...] = ()
    watch: bool = False
    restart: bool = False


def listened_plainly(words: list[str]) -> int | None:
    """Listen by plainly written options; return the exit status, None where the words are for Typer to read."""
    options = plain_options(words)
    return None if options is None else run_listener(options)


def plain_options(words: list[str]) -> ListenerOptions | None:
    """Return options that are written as `--name value` or `--name`, and the environment's; None for any others."""
    values: dict[str, list[str]] = {"--config": [], "--desk": [], "--keyboard": []}
    flags: dict[str, bool] = {"--watch": False, "--restart": False}
    rest = iter(words)
    for word in rest:
        if word in flags:
            flags[word] = True
        elif word in values and (value := next(rest, "")) and not value.startswith("-"):
            values[word].append(value)
        else:
            return None
    config, desk = (
        values[option][-1] if values[option] else os.environ.get(variable) or None
        for option, variable in (("--config", "JAKLET_CONFIG"), ("--desk", "JAKLET_DESK"))
    )
    return ListenerOptions(config, desk, tuple(values["--keyboard"]), flags["--watch"], flags["--restart"])


def only_real(desk: str | None) -> None:
    """Refuse a tabletop; raises `UsageError`."""
    from jaklet.desktops.addresses import file_of

    if file_of(desk):
        raise UsageError(
            "a tabletop has no keys to listen to", "use `jaklet fire CHORD` on it, or listen on a real desk"
        )


def run_listener(options: ListenerOptions) -> int:
    """Listen until it is stopped; return the exit status."""
    only_real(options.desk)
    if options.restart:
        return _run_again(options)
    _listen(options)
    return 0


def _listen(options: ListenerOptions) -> None:
    from jaklet.checks.run import shelf_of
    from jaklet.cli.logging import LogPrinter, log_to
    from jaklet.cli.resources import checked_config, history_of, opened_desk, usable_config
    from jaklet.config.paths import locate_config, state_folder
    from jaklet.core.values.desk_abilities import Ability
    from jaklet.counters.use_counts import UseCounts
    from jaklet.desktops.addresses import address_here
    from jaklet.desktops.learned_returns import LearnedReturns
    from jaklet.drawing.findings import finding_line
    from jaklet.listener.control import only_listener
    from jaklet.listener.loop import ListenerLoop, ListenerPorts, Workplace
    from jaklet.listener.notifications import Notices
    from jaklet.listener.reload import ConfigSource
    from jaklet.locks import listener_lock

    config, desk = options.config, options.desk
    began = time.time()
    first = checked_config(config, desk, options.keyboards)
    usable_config(first)
    write = log_to(state_folder())
    lines = LogPrinter(terminal.say_now, write)
    atexit.register(lines.close)  # wherever this ends
    tell = lines.say

    def load() -> "LoadedConfig":
        began = time.time()
        return _loaded(checked_config(config, desk, options.keyboards), began)

    if limits := address_here(desk).limits():
        tell(limits)
    for found in first.findings:
        tell(finding_line(found))
    notices = Notices(tell)
    with opened_desk(desk) as desktop:
        if desktop.chords is None:
            raise UsageError(Ability.HEAR.lacking, "`jaklet act` and `jaklet pick` need no chords")
        name = address_here(desk).listener
        # Beside the socket's own lock: where XDG_RUNTIME_DIR is not set, there is no other.
        only_listener(listener_lock(state_folder(), name), needed=False)
        shelf, history = shelf_of(locate_config(config)), history_of(desktop)
        place = Workplace(desktop, desktop.chords, name, shelf, history, LearnedReturns(state_folder))
        start = _starting(place.name, address_here(desk).kind, config)
        outside = ListenerPorts(tell, notices.post, _described, start, UseCounts(state_folder).add)
        source = ConfigSource(first.path, load, _watch(options.watch))
        listener = ListenerLoop(place, source, _loaded(first, began), outside)
        # What there is by now stays for the listener's life: it is set aside, and never looked through again.
        # The listener looks through the rest itself, when no key waits.
        gc.collect()
        gc.freeze()
        try:
            listener.run()
        except JakletError as fault:
            lines.close()
            write(f"ended: {fault.message}")
            raise
        finally:
            listener.close()
            notices.close()
            lines.close()


def _starting(name: str, kind: str, config: str | None) -> "Callable[[], HelperProcess] | None":
    """Return a function that starts the overlay's helper; None where the helper could not find the listener."""
    from jaklet.locations import socket_path

    path = socket_path(name)
    if path is None:
        return None
    command = [
        sys.executable,
        "-m",
        "jaklet",
        "overlay",
        str(path),
        "--desk",
        kind,
        *(["--config", config] if config else []),
    ]

    def start() -> "HelperProcess":
        from jaklet.cli.helper_process import start_helper

        return start_helper(command)

    return start


def _parts(result: "CheckedConfig") -> "tuple[Path, ...]":
    """Return the files of the config itself: layouts are read when they are recalled, and trials by `jaklet trial`."""
    from jaklet.config.paths import companion_folders

    others = companion_folders(result.path)
    return tuple(path for path in result.reading.files.values() if path.resolve().parent not in others)


def _loaded(result: "CheckedConfig", began: float) -> "LoadedConfig":
    """Return a checked config for a listener, with what was found and counts for as long as it is used.

    Notes are for `jaklet check`. `began`: when its files began to be read, in seconds since the epoch.
    """
    from jaklet.core.values.findings import NOTE
    from jaklet.drawing.findings import finding_line
    from jaklet.listener.reload import LoadedConfig

    lasting = [one for one in result.findings if one.severity != NOTE and one.code not in OF_LAYOUTS]
    lines = tuple(map(finding_line, lasting))
    read = result.reading
    texts = {os.path.realpath(read.files[name]): read.sources[name].text for name in read.own if name in read.sources}
    return LoadedConfig(result.config if result.usable else None, lines, _parts(result), began, texts)


def _watch(wanted: bool) -> "FileWatch | None":
    if not wanted:
        return None
    from jaklet.listener.file_watch import FileWatch

    return FileWatch()


def _described(desk: "Desk", config: "Config") -> dict[str, Any]:
    from jaklet.drawing.desks import desk_data

    return desk_data(desk, config)


def _run_again(options: ListenerOptions) -> int:
    """Run a listener as a process of its own, and again if it fails in a way that it was not made for.

    A desk that has gone away, or a config with errors, is told of, and is not tried again.
    """
    command = [sys.executable, "-m", "jaklet", "listen", *(["--config", options.config] if options.config else [])]
    command += [part for name in options.keyboards for part in ("--keyboard", name)]
    command += ["--watch"] if options.watch else []
    import subprocess  # of no use to a listener by itself

    for _ in range(MOST_RESTARTS):
        began = time.monotonic()
        with subprocess.Popen(command) as process:
            passed = {number: signal.signal(number, lambda got, _: process.send_signal(got)) for number in SIGNALS}
            status = process.wait()
            for number, former in passed.items():
                signal.signal(number, former)
        if status in (0, 1, 2, 130):
            return status
        terminal.warn(f"the listener ended with status {status}, and is started again")
        time.sleep(max(0.0, LEAST_LIFE - (time.monotonic() - began)))
    terminal.warn(f"it ended {MOST_RESTARTS} times, and is not started any more")
    return 1
