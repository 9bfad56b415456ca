"""What can be asked over the control socket, in a form for programs (OpenRPC 1.3, open-rpc.org)."""

from collections.abc import Mapping
from typing import Any, Final

from jaklet.core.keys.listener_status import STATUS
from jaklet.listener.control_client import form_of
from jaklet.listener.methods import METHODS

Schema = dict[str, Any]
_TEXT: Final[Schema] = {"type": "string"}
_LAYOUT: Final = {"layout": ({"type": "string", "description": "A name or number of a layout."}, True)}
_NUMBER: Final = {"number": ({"type": "integer"}, True)}
# What methods are given: by name, what it looks like and whether it has to be there.
PARAMS: Final[Mapping[str, Mapping[str, tuple[Schema, bool]]]] = {
    "act": {
        "action": ({"type": "string", "description": "An action, or a word of the config."}, True),
        "sure": ({"type": "boolean", "description": "It may lose work."}, False),
        "window": ({"type": "integer", "description": "The id of the window that it is done for."}, False),
    },
    "recall": _LAYOUT, "save": _LAYOUT, "closed": _NUMBER, "seen": _NUMBER,
    "fire": {"chords": ({"type": "array", "items": _TEXT}, True)},
}  # fmt: skip
_CONFIG: Final[Schema] = {"type": "string", "description": "Only if the listener goes by this config, as it is now."}


def openrpc_document(version: str) -> Schema:
    """Return the description of all methods."""
    return {
        "openrpc": "1.3.2",
        "info": {"title": "The control socket of a Jaklet listener", "version": version},
        "methods": [_method(name) for name in METHODS],
    }


def _method(name: str) -> Schema:
    params = [
        {"name": param, "required": needed, "schema": schema}
        for param, (schema, needed) in {**PARAMS.get(name, {}), "config": (_CONFIG, False)}.items()
    ]
    schema = {} if (form := form_of(name)) is object else _schema(form)
    if name == "status":
        for key, field in STATUS.items():
            schema["properties"][key]["description"] = field.meaning
    result = {"name": "result", "schema": schema}
    told = (METHODS[name].__doc__ or "").strip()
    return {"name": name, "summary": told, "paramStructure": "by-name", "params": params, "result": result}


def _schema(form: Any) -> Schema:
    """Return the schema of what has a form (`control_client.form_of`)."""
    if isinstance(form, list):
        return {"type": "array", "items": _schema(form[0])}
    if isinstance(form, dict):
        if "*" in form:
            return {"type": "object", "additionalProperties": _schema(form["*"])}
        properties = {key: _schema(inner) for key, inner in form.items()}
        return {"type": "object", "properties": properties, "required": [*form]}
    return {"type": {str: "string", bool: "boolean", float: "number"}[form]}
