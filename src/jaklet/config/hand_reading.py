"""What the user's hands are about: `settings: hands`."""

from typing import Final

from jaklet.core.values.findings import finding
from jaklet.core.values.hands import FINGERS, HAND_SIDES, Finger, Hands, parse_finger
from jaklet.core.values.json_schema import TEXT, some
from jaklet.core.values.words import did_you_mean
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import table_schema, with_schema

NO_HAND: Final = "neither"


@with_schema(some(TEXT))
def _fingers(value: Value, what: str, found: Found) -> frozenset[Finger] | None:
    """Read fingers, one or a list of them: `left little`."""
    names = [f"{side} {finger}" for side in HAND_SIDES for finger in FINGERS]
    read = []
    for item in value.items() if value.is_list else (value,):
        text = fields.text(item, what, found)
        finger = parse_finger(text) if text is not None else None
        if finger:
            read.append(finger)
        elif text is not None:
            remedy = did_you_mean(text, names, "write a hand and a finger, such as left little")
            found.append(finding("JK108", item.spot, problem=f"no finger is called {text!r}", remedy=remedy))
    return frozenset(read) or None


KEYS: Final[Table] = {"mouse": fields.choice(*HAND_SIDES, NO_HAND), "spare": _fingers}


@with_schema(lambda: table_schema(KEYS))
def hands(value: Value, what: str, found: Found) -> Hands | None:
    """Read which hand is at the mouse, and which fingers are to be spared."""
    read = fields.fields(value, what, KEYS, found)
    mouse = read.get("mouse", NO_HAND)
    return Hands("" if mouse == NO_HAND else mouse, read.get("spare", frozenset()))
