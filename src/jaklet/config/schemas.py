"""What values look like, as parts of a JSON Schema (2020-12): each reader says it of what it reads.

So the schema of a file is made from the very tables by which the file is read, and cannot say anything else.
"""

import json
from collections.abc import Callable, Iterable, Mapping
from functools import cache
from importlib.resources import files
from typing import Any, Final, TypeVar

Schema = dict[str, Any]
R = TypeVar("R", bound=Callable[..., Any])

# YAML has numbers and truth values where a reader sees what is written; any of them is text here.
TEXT: Final[Schema] = {"type": ["string", "number", "boolean"]}
LINE: Final[Schema] = {"type": "string"}
TRUTH: Final[Schema] = {"enum": [True, False, "true", "false"]}
ANYTHING: Final[Schema] = {}
NOTHING: Final[Schema] = {"type": "null"}


def said(schema: Schema | Callable[[], Schema]) -> Callable[[R], R]:
    """Say of a reader what the values that it reads look like; a function is asked when that is needed."""

    def mark(reader: R) -> R:
        reader.schema = schema  # type: ignore[attr-defined]
        return reader

    return mark


def schema_of(reader: Callable[..., Any]) -> Schema | None:
    """Return what a reader's values look like; None where it does not say."""
    schema: Schema | Callable[[], Schema] | None = getattr(reader, "schema", None)
    return schema() if callable(schema) else schema


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


def table(keys: Mapping[str, Callable[..., Any]], needed: Iterable[str] = (), of: str = "") -> Schema:
    """Return the schema of a mapping with the keys of a table of readers.

    `needed`: keys that have to be there; `of`: under what the manual describes them.
    """
    told = described().get(of, {})
    properties = {key: _with(schema_of(reader) or ANYTHING, told.get(key)) for key, reader in keys.items()}
    schema: Schema = {"type": "object", "properties": properties, "additionalProperties": False}
    return {**schema, "required": [*needed]} if needed else schema


def _with(schema: Schema, meaning: str | None) -> Schema:
    return {"description": meaning, **schema} if meaning else schema


@cache
def described() -> Mapping[str, Mapping[str, str]]:
    """Return what the manual says of keys, by what they are keys of."""
    text = files("jaklet.config").joinpath("descriptions.json").read_text(encoding="utf-8")
    told: Mapping[str, Mapping[str, str]] = json.loads(text)
    return told


def ref(name: str) -> Schema:
    """Return the schema that is defined by this name, for those that have themselves inside."""
    return {"$ref": f"#/$defs/{name}"}
