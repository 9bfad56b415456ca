"""What values look like, as parts of a JSON Schema (2020-12): each reader says it of what it reads.

So the schema of a file is made from the very tables by which the file is read, and cannot say anything else.
"""

import json
from collections.abc import Callable, Iterable, Mapping
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

from jaklet.core.values.json_schema import ANYTHING, Schema, mapping

R = TypeVar("R", bound=Callable[..., Any])


def with_schema(schema: Schema | Callable[[], Schema]) -> Callable[[R], R]:
    """Say of a reader what the values that it reads look like; a function is asked when that is needed."""

    def mark(reader: R) -> R:
        reader.schema = schema  # type: ignore[attr-defined]
        return reader

    return mark


def schema_of(reader: Callable[..., Any]) -> Schema | None:
    """Return the schema of a reader's values; None where it has none."""
    schema: Schema | Callable[[], Schema] | None = getattr(reader, "schema", None)
    return schema() if callable(schema) else schema


def table_schema(keys: Mapping[str, Callable[..., Any]], needed: Iterable[str] = (), of: str = "") -> Schema:
    """Return the schema of a mapping with the keys of a table of readers.

    `needed`: keys that have to be there; `of`: under what the manual describes them.
    """
    told = key_descriptions().get(of, {})
    properties = {key: _with(schema_of(reader) or ANYTHING, told.get(key)) for key, reader in keys.items()}
    return mapping(properties, needed)


def _with(schema: Schema, meaning: str | None) -> Schema:
    return {"description": meaning, **schema} if meaning else schema


@cache
def key_descriptions() -> Mapping[str, Mapping[str, str]]:
    """Return the manual's texts on keys, by their owner."""
    told: Mapping[str, Mapping[str, str]] = json.loads(Path(__file__).with_name("descriptions.json").read_bytes())
    return told
