"""What a tabletop file looks like, as a JSON Schema (2020-12)."""

from collections.abc import Mapping
from typing import Any, Final

from jaklet.core.values.abilities import Ability
from jaklet.core.values.desk import DIALOG, NORMAL, Shape
from jaklet.desktops.tabletop.file import BAR, GEOMETRY, SIZE, TIME

Schema = dict[str, Any]
_TEXT: Final[Schema] = {"type": ["string", "number", "boolean"]}
_TRUTH: Final[Schema] = {"enum": [True, False, "true", "false"]}
_WHOLE: Final[Schema] = {"type": "integer"}
_GEOMETRY: Final[Schema] = {"type": "string", "pattern": f"^({GEOMETRY.pattern})$"}
_SIZE: Final[Schema] = {"type": "string", "pattern": f"^({SIZE.pattern})$"}
_BAR: Final[Schema] = {"type": "string", "pattern": f"^({BAR.pattern})$"}
_KIND: Final[Schema] = {"enum": [NORMAL, DIALOG]}
_SOME: Final[Schema] = {"type": "array", "items": _WHOLE}
DISPLAY: Final[Mapping[str, Schema]] = {
    "name": _TEXT, "area": _GEOMETRY, "bar": _BAR, "bars": {"anyOf": [_BAR, {"type": "array", "items": _BAR}]},
}  # fmt: skip
PROGRAM: Final[Mapping[str, Schema]] = {
    "class": _TEXT, "instance": _TEXT, "title": _TEXT, "size": _SIZE, "least": _SIZE, "most": _SIZE, "step": _SIZE,
    "takes": {"type": "string", "pattern": f"^({TIME.pattern})$"}, "fails": _WHOLE, "says": _TEXT, "entry": _TEXT,
    "kind": _KIND, "stubborn": _TRUTH, "silent": _TRUTH,
}  # fmt: skip
WINDOW: Final[Mapping[str, Schema]] = {
    "id": _WHOLE, "program": _TEXT, "title": _TEXT, "frame": _GEOMETRY, "normal": _GEOMETRY,
    "workspace": {"anyOf": [_WHOLE, {"const": "all"}]}, "state": {"enum": [one.value for one in Shape]},
    "minimised": _TRUTH, "above": _TRUTH, "kind": _KIND, "parent": _WHOLE, "launched for": _TEXT,
}  # fmt: skip


def _mapping(keys: Mapping[str, Schema], *needed: str) -> Schema:
    schema: Schema = {"type": "object", "properties": {**keys}, "additionalProperties": False}
    return {**schema, "required": [*needed]} if needed else schema


_TAKEN: Final[Schema] = {
    "anyOf": [{"type": "array", "items": _TEXT}, {"type": "object", "additionalProperties": _TEXT}]
}
WHOLE_FILE: Final[Mapping[str, Schema]] = {
    "tabletop": _TEXT, "displays": {"type": "array", "items": _mapping(DISPLAY, "area"), "minItems": 1},
    "programs": {"type": "object", "additionalProperties": {"anyOf": [_mapping(PROGRAM), {"type": "null"}]}},
    "workspaces": _WHOLE, "workspace": _WHOLE, "gaps": {"enum": ["on", "off"]},
    "keyboard": {"type": "object", "properties": {"taken": _TAKEN}, "additionalProperties": False},
    "lacks": {"type": "array", "items": {"enum": [one.word for one in Ability]}},
    "windows": {"type": "array", "items": _mapping(WINDOW, "program")}, "stacking": _SOME, "recent": _SOME,
    "active": {"anyOf": [_WHOLE, {"const": "none"}, {"type": "null"}]},
}  # fmt: skip
# All keys, by what has them: what the reader asks for is held against them.
KEYS: Final = {"display": DISPLAY, "program": PROGRAM, "window": WINDOW, "tabletop": WHOLE_FILE}


def tabletop_schema() -> Schema:
    """Return the schema of a tabletop file."""
    dialect = "https://json-schema.org/draft/2020-12/schema"
    return {"$schema": dialect, "title": "A tabletop of Jaklet", **_mapping(WHOLE_FILE, "displays")}
