"""The parts of a JSON Schema (2020-12) of which readers make what their values look like."""

from collections.abc import Iterable, Mapping
from typing import Any, Final

Schema = dict[str, Any]
DIALECT: Final = "https://json-schema.org/draft/2020-12/schema"

# YAML has numbers and truth values where a reader sees what is written; any of them is text here.
TEXT: Final[Schema] = {"type": ["string", "number", "boolean"]}
LINE: Final[Schema] = {"type": "string"}
TRUTH: Final[Schema] = {"enum": [True, False, "true", "false"]}
ANYTHING: Final[Schema] = {}
NOTHING: Final[Schema] = {"type": "null"}


def integer(least: int, most: int) -> Schema:
    """Return the schema of a whole number, in quotes or not."""
    return any_of({"type": "integer", "minimum": least, "maximum": most}, matching(r"\d{1,9}"))


def matching(pattern: str) -> Schema:
    """Return the schema of a text that a pattern describes; a number or truth value never does."""
    return {"type": "string", "pattern": f"^({pattern})$"}


def one_of(*words: str) -> Schema:
    """Return the schema of one of these words."""
    return {"enum": [*words]}


def any_of(*schemas: Schema) -> Schema:
    """Return the schema of what is like one of these."""
    return {"anyOf": [*schemas]}


def some(schema: Schema) -> Schema:
    """Return the schema of a value, or of a list of them."""
    return any_of(schema, list_of(schema))


def list_of(schema: Schema) -> Schema:
    """Return the schema of a list."""
    return {"type": "array", "items": schema}


def by_name(schema: Schema) -> Schema:
    """Return the schema of a mapping from names of the user's."""
    return {"type": "object", "additionalProperties": schema}


def mapping(keys: Mapping[str, Schema], needed: Iterable[str] = ()) -> Schema:
    """Return the schema of a mapping with these keys and no others. `needed`: those that have to be there."""
    schema: Schema = {"type": "object", "properties": {**keys}, "additionalProperties": False}
    return {**schema, "required": [*needed]} if needed else schema


def ref(name: str) -> Schema:
    """Return the schema that is defined by this name, for those that have themselves inside."""
    return {"$ref": f"#/$defs/{name}"}
