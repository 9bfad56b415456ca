"""What a chord or a typed word does: an action, or a mapping with `do`; and what the action names."""

from typing import Any, Final, NamedTuple

from jaklet.config.reading import ConfigReading, WrittenAction
from jaklet.core.values.findings import finding
from jaklet.core.values.json_schema import TEXT, Schema, any_of
from jaklet.core.values.sentences import Action
from jaklet.core.values.spans import Spot
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import table_schema, with_schema


class ReadAction(NamedTuple):
    """An action, and the value that it was read from."""

    action: Action
    value: Value


@with_schema(TEXT)
def _action(value: Value, what: str, found: Found) -> ReadAction | None:
    read = fields.action(value, what, found)
    return ReadAction(read, value) if read else None


DOING_KEYS: Final[Table] = {"do": _action, "note": fields.text, "sure": fields.truth}


def done_schema() -> Schema:
    """Return the schema of an action: a sentence, or a mapping with `do`."""
    return any_of(TEXT, table_schema(DOING_KEYS, needed=["do"], of="binding"))


class BoundAction(NamedTuple):
    """What is done, and all that stands beside `do`."""

    action: Action
    read: dict[str, Any]


def read_done(
    item: Value, spot: Spot, what: str, keys: Table, reading: ConfigReading, family: bool = False
) -> BoundAction | None:
    """Read what a chord or a word does: an action, or a mapping with `do`."""
    read: dict[str, Any] = {}
    if item.is_map:
        read = fields.fields(item, what, keys, reading.found)
        if "do" not in read and not any(name.text == "do" for name, _ in item.pairs()):
            remedy = "add one: {do: go berths}"
            reading.found.append(finding("JK106", spot, what=what, key="do", remedy=remedy))
    action = read.get("do") if item.is_map else _action(item, "an action", reading.found)
    if action is None:
        return None
    reading.deeds.append(
        WrittenAction(action.action, action.value, read.get("sure", False), read.get("off", False), family)
    )
    return BoundAction(action.action, read)


def action_text(item: Value) -> str:
    """Return an action as it is written, in either form."""
    if item.is_map:
        item = next((value for key, value in item.pairs() if key.text == "do"), item)
    return item.text or "nothing"
