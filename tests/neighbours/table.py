"""The table of neighbours: what each one is, and what it stands in the way of."""

import contextlib
import itertools
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator, Mapping
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Final, NamedTuple

from tests.conftest import JAKLET, Office
from tests.managers.desk import Managed
from tests.managers.starting import end
from tests.neighbours.holders import HOLDERS
from tests.xserver import Head, XServer

Beside = Callable[[XServer, Office], AbstractContextManager[object]]


@contextlib.contextmanager
def nobody(_: XServer, __: Office) -> Iterator[None]:
    """Let nobody be there."""
    yield


def process(*command: str) -> Beside:
    """Return a neighbour that is a process, in the folder of the office."""

    @contextlib.contextmanager
    def beside(x: XServer, office: Office) -> Iterator[None]:
        env = {**office.env, "DISPLAY": x.display, "PYTHONPATH": str(Path(__file__).parents[2])}
        one = subprocess.Popen(
            command, env=env, cwd=office.folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        try:
            yield
        finally:
            one.kill()
            one.wait()

    return beside


def program(name: str) -> Beside:
    """Return one of the programs that mind nothing."""
    return process(sys.executable, "-m", "tests.neighbours.programs", name)


def holder(name: str) -> Beside:
    """Return somebody who holds what Jaklet uses."""
    return lambda _, office: HOLDERS[name](office.folder)


@contextlib.contextmanager
def rewriting(_: XServer, office: Office) -> Iterator[None]:
    """Write half of the config and then all of it, again and again."""
    text, over = office.config.read_text(), threading.Event()

    def write() -> None:
        for half in itertools.cycle([len(text) // 2, len(text) // 3, len(text) - 9]):
            office.config.write_text(text[:half])
            if over.wait(0.1):
                break
            office.config.write_text(text)
            if over.wait(0.6):
                break
        office.config.write_text(text)

    thread = threading.Thread(target=write)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()


# Commands that leave the windows alone, over and over, each in a process of its own.
_COMMANDS: Final = "; ".join(
    f"{JAKLET} {words}"
    for words in ("status", "desk", "layout save other", "layout copy other more", "layout remove more", "undo --list")
)


def replaced(desk: Managed) -> None:
    """Let another manager of the same kind take over."""
    end(desk.process)
    desk.begin_again()


def unplugged(desk: Managed) -> None:
    """Take the second display away, and bring it back."""
    desk.x.unplug(1)
    desk.x.plug(1, Head(1280, 0, 1024, 768))


class Neighbour(NamedTuple):
    """Who is there besides.

    `radio`: options of a window of ours that behaves like this. `between`: what happens before each step. `hinders`: words of
    the steps that may fail for that reason, and then have to say so. `keys`: whether keys can be heard at all.
    """

    beside: Beside = nobody
    radio: tuple[str, ...] = ()
    between: Callable[[Managed], None] | None = None
    hinders: tuple[str, ...] = ()
    keys: bool = True


_SAVING: Final = ("layout", "undo")
NEIGHBOURS: Final[Mapping[str, Neighbour]] = {
    "nobody": Neighbour(),
    "a window that opens maximised": Neighbour(program("fill"), hinders=("recall",)),
    "our window opens maximised": Neighbour(radio=("--maximised",)),
    "a title of 5,000 letters": Neighbour(program("ramble")),
    "our title of 5,000 letters": Neighbour(radio=("--title", "radio " * 830)),
    "our window goes back after 150 ms": Neighbour(radio=("--goes-back", "150"), hinders=("radio", "recall", "undo")),
    "our window goes back after 600 ms": Neighbour(radio=("--goes-back", "600"), hinders=("radio", "recall", "undo")),
    "a window that jumps about": Neighbour(program("jump"), hinders=("recall",)),
    "our window refuses": Neighbour(radio=("--stubborn", "--size", "500x300"), hinders=("place radio", "recall")),
    "a window that steals the focus": Neighbour(program("steal"), hinders=("go ",)),
    "our window declines the focus": Neighbour(radio=("--no-input",), hinders=("go radio", "minimise radio")),
    "keyboard and pointer held": Neighbour(program("grab"), keys=False),
    "windows that open and vanish": Neighbour(program("vanish"), hinders=("recall",)),
    "the config written halfway": Neighbour(rewriting, hinders=("",)),
    "commands beside": Neighbour(process("sh", "-c", f"while :; do {_COMMANDS}; done")),
    "the manager replaced": Neighbour(between=replaced),
    "a display taken away": Neighbour(between=unplugged),
} | {f"somebody holds {what}": Neighbour(holder(what), hinders=_SAVING) for what in HOLDERS}
