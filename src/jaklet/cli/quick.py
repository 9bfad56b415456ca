"""Commands that the listener of this desk does, where one runs: before the command line, YAML or X are loaded.

What is not in `COMMANDS`, or is written with other options, goes the usual way. So does what the listener leaves to the
command: a config other than its own, or one that has changed since it was read; what has to be asked first. Both ways
do the same in the same words; a test holds them against each other.
"""

import os
import sys

from jaklet.cli import terminal
from jaklet.listener.control_client import ElsewhereError, MuteError, NobodyError, refused_error, request
from jaklet.locations import HERE, config_file, listener_here, socket_path

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Callable, Mapping
    from typing import Any

    # What is asked of the listener, and what prints the answer and returns the exit status.
    Request = tuple[str, dict[str, Any], Callable[[Any], int]]


def _told(answer: "Mapping[str, Any]") -> int:
    """Print how an action ended."""
    for text in answer["told"]:
        terminal.warn(text)
    terminal.say_end(answer["done"], answer["line"], answer["more"])
    return 0 if answer["done"] else 1


def _lines(answer: "Mapping[str, Any]") -> int:
    """Print what came of chords."""
    for line in answer["lines"]:
        (terminal.say if line["good"] else terminal.warn)(line["text"])
    for fault in answer["faults"]:
        raise refused_error(fault)
    return 0 if answer["done"] else 1


def _json(answer: "Any") -> int:
    terminal.say_json(answer)
    return 0


def _exit_status(told: "Mapping[str, Any]") -> int:
    """Return the exit status of a listener that goes by its config as it is: whether something needs a look."""
    if not told["current"]:
        raise ElsewhereError("its files have changed")
    return 1 if told.get("refused") or told.get("paused") else 0


def _status(told: "Mapping[str, Any]") -> int:
    from jaklet.drawing.status import pending_lines, status_text

    status, lines = _exit_status(told), pending_lines(told["pid"], (), (), told["unusable"])
    terminal.say(status_text(told, lines, terminal.columns(), terminal.ink_for()))
    return status


def _status_json(told: "Mapping[str, Any]") -> int:
    status = _exit_status(told)
    pending = {"pid": told["pid"], "layer": told["layer"], "current": True, "added": [], "gone": []}
    pending["refused"] = told["unusable"]
    terminal.say_json({"listening": True, **told, "pending": pending})
    return status


def _act(words: "list[str]") -> "Request | None":
    sure = "--sure" in words
    rest = [word for word in words if word != "--sure"]
    return ("act", {"action": rest[0], "sure": sure}, _told) if len(rest) == 1 else None


def _fire(words: "list[str]") -> "Request | None":
    return ("fire", {"chords": words}, _lines) if words else None


def _layout(words: "list[str]") -> "Request | None":
    one_name = len(words) == 2 and words[0] in ("recall", "save")
    return (words[0], {"layout": words[1]}, _told) if one_name else None


def _undo(words: "list[str]") -> "Request | None":
    return None if words else ("act", {"action": "undo"}, _told)


def _desk(words: "list[str]") -> "Request | None":
    return ("desk", {}, _json) if _as_json(words) else None


def _listener_status(words: "list[str]") -> "Request | None":
    return ("status", {}, _status_json if words else _status) if not words or _as_json(words) else None


def _as_json(words: "list[str]") -> bool:
    return words in (["--format", "json"], ["--format=json"])


def _say_long(words: "list[str]") -> None:
    """Say on a terminal that what was asked for is under way."""
    if sys.stderr.isatty():
        terminal.warn(f"the listener is at it: {' '.join(words[1:])} …")


# By the first word: the options that are understood here, and what makes a request of the other words.
COMMANDS: "Mapping[str, tuple[tuple[str, ...], Callable[[list[str]], Request | None]]]" = {
    "act": (("--sure",), _act),
    "fire": ((), _fire),
    "layout": ((), _layout),
    "undo": ((), _undo),
    "desk": (("--format", "--format=json"), _desk),
    "status": (("--format", "--format=json"), _listener_status),
}


def done_by_listener(words: "list[str]") -> "int | None":
    """Let the listener do one of the commands; return the exit status, None where it is to be done in the usual way."""
    options, asks = COMMANDS[words[0]]
    asked = None if any(word.startswith("-") and word not in options for word in words) else asks(words[1:])
    listener = listener_here(os.environ.get("JAKLET_DESK"), os.environ) if asked else ""
    path = socket_path(listener) if listener else None
    if asked is None or path is None or not os.path.exists(path):
        return None
    method, params, print_answer = asked
    params["config"] = os.path.abspath(config_file(None))
    try:
        return print_answer(request(path, method, None, lambda: _say_long(words), **params))
    except (ElsewhereError, NobodyError):
        return None
    except MuteError as fault:
        raise MuteError(fault.message, f"{fault.remedy}\n{_without(words)}") from fault


def _without(words: "list[str]") -> str:
    """Return how to do the same without the listener."""
    from shlex import join

    kind = next(kind for kind, (here, _) in HERE.items() if here(os.environ))
    can = words[0] not in ("status", "fire")
    return f"  without it: {join(['jaklet', *words, '--desk', kind])}" if can else "  nothing was done"
