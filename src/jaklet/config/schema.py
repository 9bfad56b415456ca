"""JSON Schemas of the files that people write, made from the tables by which they are read (`schemas`)."""

from collections.abc import Callable, Mapping
from typing import Final

from jaklet.config.build import INCLUDE, SECTIONS
from jaklet.config.include import PART_KEYS
from jaklet.config.layout_keys import LAYOUT_KEYS
from jaklet.config.macro_reading import steps_schema
from jaklet.core.values.json_schema import ANYTHING, DIALECT, NOTHING, TEXT, Schema, any_of, some
from jaklet.yaml_files.schemas import key_descriptions, schema_of, table_schema

OWN: Final = "own"  # what the manual says of that which stands under a name of the user's


def config_schema() -> Schema:
    """Return the schema of a config file, and of a part that one includes."""
    sections: Schema = {}
    for name, read in SECTIONS.items():
        schema = any_of(schema_of(read) or ANYTHING, NOTHING)
        meaning = key_descriptions().get(name, {}).get(OWN)
        sections[name] = {"description": meaning, **schema} if meaning else schema
    sections[INCLUDE] = any_of(some(any_of(TEXT, table_schema(PART_KEYS, needed=["file"]))), NOTHING)
    return _file("A config of Jaklet", {"properties": sections, "additionalProperties": False})


def trials_schema() -> Schema:
    """Return the schema of a file with trials."""
    trials = schema_of(SECTIONS["trials"]) or ANYTHING
    return _file("Trials of Jaklet", {"properties": {"trials": trials}, "additionalProperties": False})


def layout_schema() -> Schema:
    """Return the schema of a layout file."""
    return _file("A layout of Jaklet", table_schema(LAYOUT_KEYS, needed=["layout"], of="layout"))


def _file(title: str, schema: Schema) -> Schema:
    return {"$schema": DIALECT, "title": title, "type": "object", **schema, "$defs": {"steps": steps_schema()}}


# A new kind of file is one entry here.
SCHEMAS: Final[Mapping[str, Callable[[], Schema]]] = {
    "config": config_schema, "layout": layout_schema, "trial": trials_schema,
}  # fmt: skip
