"""The way in, for `jaklet` and for `python -m jaklet`."""

import gc
import os
import sys

from jaklet.locations import COMPLETES

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Callable

BY_LISTENER = ("act", "fire", "layout", "undo", "desk", "status")  # those of `cli.quick.COMMANDS`


def run() -> None:
    """Load and run the command line.

    What is made at start-up stays, so that collecting garbage among it is lost time: a tenth of it. The one command
    that runs for long, `listen`, collects by itself between two keys.
    """
    gc.disable()
    try:
        _run([_as_text(word) for word in sys.argv[1:]])
    finally:
        gc.freeze()  # nor is anything gained by looking through it at the very end


def _run(words: list[str]) -> None:
    sys.argv[1:] = words
    if words[:1] == ["pick"] and not any(word.startswith("-") for word in words) and _on_terminal():
        _pick(words[1:])
    if COMPLETES in os.environ:  # a shell asks what can come next, at each key
        from jaklet.cli.shell import answer_shell

        if answer_shell(os.environ):
            return
    elif words[:1] == ["check"]:
        from jaklet.cli.checking import checked_plainly

        _do_plainly(checked_plainly, words[1:])
    elif words[:1] == ["listen"]:
        from jaklet.cli.listening import listened_plainly

        _do_plainly(listened_plainly, words[1:])
    _let_listener(words)
    from jaklet.cli.app import main

    main()


def _as_text(word: str) -> str:
    """Return a word of the command line as the text that it is in UTF-8, where the locale cannot say so."""
    return word if word.isascii() else os.fsencode(word).decode("utf-8", "replace")


def _let_listener(words: list[str]) -> None:
    """Let the listener of this desk do a command, if one runs and can: before anything large is loaded."""
    if words[:1] and words[0] in BY_LISTENER and os.environ.get("XDG_RUNTIME_DIR"):
        from jaklet.cli.quick import done_by_listener
        from jaklet.cli.terminal import faults_told

        with faults_told():
            status = done_by_listener(words)
            if status is not None:
                sys.stdout.flush()
                sys.stderr.flush()
                os._exit(status)  # there is nothing to clean up, and that takes a tenth of the time


def _do_plainly(command: "Callable[[list[str]], int | None]", words: list[str]) -> None:
    """Do a command that reads its plainly written options itself, and end; go on where other options ask for more.

    So the command line need not be loaded, which takes a fifth of a check, and a tenth of a listener's start.
    """
    from jaklet.cli.terminal import faults_told

    with faults_told():
        status = command(words)
    if status is not None:
        sys.exit(status)


def _on_terminal() -> bool:
    return sys.stdin.isatty() and sys.stdout.isatty()


def _pick(words: list[str]) -> None:
    """Show the finder without loading the command line first: people type into it as soon as they have called it.

    The same as `jaklet pick` with these words; any option goes the usual way.
    """
    from jaklet.cli.picking import kind_of, pick_on_screen
    from jaklet.cli.terminal import faults_told

    with faults_told():
        kind = kind_of(words[0] if words else None)
        config, desk = (os.environ.get(name) or None for name in ("JAKLET_CONFIG", "JAKLET_DESK"))
        sys.exit(0 if pick_on_screen(kind, " ".join(words[1:]), config, desk) else 1)


if __name__ == "__main__":
    run()
