"""A listener's status: a row for each field, for the listener, its clients, `jaklet status`, the socket and the manual.

A new field is one row here and one value in `listener.loop`. This loads next to nothing, as `jaklet status` is one of
the quickest commands.
"""

from jaklet.core.keys.refused import refused_told

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Callable, Mapping
    from typing import Any, Final

    Status = Mapping[str, Any]
    Lines = Callable[[Status], list[str]]

TEXTS: "Final" = [str]
ACTION: "Final" = {"at": float, "keys": str, "action": str, "done": bool, "line": str, "seconds": float}


class StatusField:
    """A field of the status. `form`: a type, a list of a form, or keys with forms, where `*` is any key.

    `label`, `lines`: its part of `jaklet status`, one line each; no label for a field that is told elsewhere.
    """

    __slots__ = ("form", "label", "lines", "meaning")

    def __init__(self, form: "Any", meaning: str, label: str = "", lines: "Lines | None" = None) -> None:
        self.form, self.meaning, self.label, self.lines = form, meaning, label, lines


def _config(status: "Status") -> list[str]:
    return [f"{status.get('config')}{', watched for changes' if status.get('watching') else ''}"]


def _bindings(status: "Status") -> list[str]:
    return [f"{len(status.get('bindings', ()))}, {len(status.get('chords', ()))} chords held"]


def _keyboard(status: "Status") -> list[str]:
    return [f"kept from programs, as {status['keyboard']}"] if status.get("keyboard") else []


STATUS: "Final[Mapping[str, StatusField]]" = {
    "pid": StatusField(float, "its process"),
    "desk": StatusField(str, "the desk that it listens on"),
    "since": StatusField(float, "when it began, in seconds since the epoch"),
    "paused": StatusField(bool, "whether keys and events are let be"),
    "config": StatusField(str, "the config file", "config", _config),
    "watching": StatusField(bool, "whether it reads its files again when they change"),
    "current": StatusField(bool, "whether its files are as they were when it read them"),
    "bindings": StatusField(TEXTS, "the bindings in use, in words", "bindings", _bindings),
    "chords": StatusField(TEXTS, "the chords that it holds"),
    "layer": StatusField(str, "the layer that is on, empty for none", "layer", lambda it: [it.get("layer") or "none"]),
    "layout": StatusField(
        str, "the layout recalled or saved last, empty for none", "layout", lambda it: [it.get("layout") or "none"]
    ),
    "arranged": StatusField(
        TEXTS, "what stays arranged, in words", "arranged", lambda it: list(it.get("arranged", ()))
    ),
    "keyboard": StatusField(str, "why keys are kept from programs, empty if they are not", "keyboard", _keyboard),
    "under_way": StatusField(
        TEXTS, "the actions under way", "under way", lambda it: list(it.get("under_way", ()))
    ),
    "refused": StatusField(
        {"*": str}, "the chords that cannot be had, each with the reason", "refused",
        lambda it: refused_told(it.get("refused", {})),
    ),
    "unusable": StatusField(TEXTS, "the bindings that no reload makes work"),
    "not_reloaded": StatusField(
        TEXTS, "why its files were not read again, where they have errors", "not reloaded",
        lambda it: list(it.get("not_reloaded", ())),
    ),
    "warnings": StatusField(TEXTS, "the findings in its files", "finding", lambda it: list(it.get("warnings", ()))),
    "actions": StatusField([ACTION], "the last actions: when (`at`), how long, and how each went"),
}  # fmt: skip
FORMS: "Final[Mapping[str, Any]]" = {key: field.form for key, field in STATUS.items()}
