"""What a tabletop file looks like, as a JSON Schema (2020-12)."""

from collections.abc import Mapping
from typing import Final

from jaklet.core.values.abilities import Ability
from jaklet.core.values.desk import DIALOG, NORMAL, Shape
from jaklet.core.values.json_schema import (
    DIALECT,
    NOTHING,
    TEXT,
    TRUTH,
    Schema,
    any_of,
    by_name,
    list_of,
    mapping,
    matching,
    one_of,
    some,
)
from jaklet.desktops.tabletop.file import BAR, GEOMETRY, SIZE, TIME

_WHOLE: Final[Schema] = {"type": "integer"}
_GEOMETRY: Final = matching(GEOMETRY.pattern)
_SIZE: Final = matching(SIZE.pattern)
_BAR: Final = matching(BAR.pattern)
_KIND: Final = one_of(NORMAL, DIALOG)
_SOME: Final = list_of(_WHOLE)
DISPLAY: Final[Mapping[str, Schema]] = {
    "name": TEXT, "area": _GEOMETRY, "bar": _BAR, "bars": some(_BAR),
}  # fmt: skip
PROGRAM: Final[Mapping[str, Schema]] = {
    "class": TEXT, "instance": TEXT, "title": TEXT, "size": _SIZE, "least": _SIZE, "most": _SIZE, "step": _SIZE,
    "takes": matching(TIME.pattern), "fails": _WHOLE, "says": TEXT, "entry": TEXT,
    "kind": _KIND, "stubborn": TRUTH, "silent": TRUTH,
}  # fmt: skip
WINDOW: Final[Mapping[str, Schema]] = {
    "id": _WHOLE, "program": TEXT, "title": TEXT, "frame": _GEOMETRY, "normal": _GEOMETRY,
    "workspace": any_of(_WHOLE, one_of("all")), "state": one_of(*(one.value for one in Shape)),
    "minimised": TRUTH, "above": TRUTH, "kind": _KIND, "parent": _WHOLE, "launched for": TEXT,
}  # fmt: skip


_TAKEN: Final = any_of(list_of(TEXT), by_name(TEXT))
WHOLE_FILE: Final[Mapping[str, Schema]] = {
    "tabletop": TEXT, "displays": {**list_of(mapping(DISPLAY, ["area"])), "minItems": 1},
    "programs": by_name(any_of(mapping(PROGRAM), NOTHING)),
    "workspaces": _WHOLE, "workspace": _WHOLE, "gaps": one_of("on", "off"),
    "keyboard": mapping({"taken": _TAKEN}),
    "lacks": list_of(one_of(*(one.word for one in Ability))),
    "windows": list_of(mapping(WINDOW, ["program"])), "stacking": _SOME, "recent": _SOME,
    "active": any_of(_WHOLE, one_of("none"), NOTHING),
}  # fmt: skip
# All keys, by what has them: what the reader asks for is held against them.
KEYS: Final = {"display": DISPLAY, "program": PROGRAM, "window": WINDOW, "tabletop": WHOLE_FILE}


def tabletop_schema() -> Schema:
    """Return the schema of a tabletop file."""
    return {"$schema": DIALECT, "title": "A tabletop of Jaklet", **mapping(WHOLE_FILE, ["displays"])}
