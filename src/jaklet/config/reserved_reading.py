"""The section `reserved`: chords that others own. The tables that ship with Jaklet have the same format."""

from collections.abc import Iterator
from typing import Final

from jaklet.config.families import members
from jaklet.config.reading import ConfigReading, Mention
from jaklet.core.keys.reserved import EVERYWHERE, WHERE, ReservedChord
from jaklet.core.values.findings import finding
from jaklet.core.values.json_schema import TEXT, any_of, by_name
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import table_schema, with_schema

TABLE_KEYS: Final[Table] = {"where": fields.choice(*WHERE), "source": fields.text, "keys": fields.later(by_name(TEXT))}


@with_schema(lambda: by_name(any_of(by_name(TEXT), table_schema(TABLE_KEYS, needed=["keys"]))))
def read_reserved(value: Value, reading: ConfigReading) -> None:
    """Read the section: for an app its chords, for any other owner a table with `keys`."""
    for key, owner, item in fields.mapping(value, "reserved", reading.found):
        if any(name.text in TABLE_KEYS for name, _ in (item.pairs() if item.is_map else ())):
            read = fields.fields(item, f"reserved {owner}", TABLE_KEYS, reading.found)
            keys = read.get("keys")
            if keys is None:
                remedy = "write the chords below `keys:`"
                reading.found.append(finding("JK106", key.spot, what=owner, key="keys", remedy=remedy))
                continue
            reading.reserved += _read(keys, owner, reading.found, read.get("where", EVERYWHERE), read.get("source", ""))
        else:
            reading.mentions.append(Mention("app", owner, key.spot))
            reading.reserved += _read(item, owner, reading.found, "", "", app=owner)


def _read(value: Value, owner: str, found: Found, where: str, source: str, app: str = "") -> Iterator[ReservedChord]:
    for key, text, item in fields.mapping(value, f"reserved {owner}", found):
        does = fields.text(item, f"what {text} does", found)
        for name, _ in members(key, item):
            keys = fields.keys(name, "a chord", found)
            if keys and does:
                yield ReservedChord(keys, does, owner, where, app, source)
