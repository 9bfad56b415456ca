"""How things are shown over the windows: `settings: overlay`, and where notices go."""

from typing import Final

from jaklet.core.values.config import (
    DARK,
    EVERYTHING,
    FAILURES,
    LIGHT,
    LIKE_DESKTOP,
    LOG,
    NEVER,
    NOTICES,
    OVERLAY,
    Overlay,
)
from jaklet.core.values.json_schema import TRUTH, any_of, matching, one_of
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import table_schema, with_schema

LOOKS: Final = (DARK, LIGHT, LIKE_DESKTOP)
SIZES: Final = ("small", "normal", "large")
PLACES: Final = ("top", "centre", "bottom")
DISPLAYS: Final = ("focus", "pointer", "main")
TIMES: Final = {"always": 0.0, "off": NEVER}
AFTER: Final = "after "
LEAST, MOST = 0.5, 4.0  # scales


@with_schema(any_of(one_of(*TIMES), matching(rf"{AFTER}.*")))
def _after(value: Value, what: str, found: Found) -> float | None:
    """Read after how many seconds something is shown; infinity for never."""
    written = " ".join((value.text or "").split())
    if written in TIMES:
        return TIMES[written]
    seconds = fields.parse_seconds(written.removeprefix(AFTER)) if written.startswith(AFTER) else None
    if seconds is None:
        fields.report_wrong(value, what, "a time", found, "write it like: after 400ms, always or off")
    return seconds


@with_schema(any_of({"type": "number", "minimum": LEAST, "maximum": MOST}, matching(r"[\d.]+")))
def _scale(value: Value, what: str, found: Found) -> float | None:
    """Read a scale, such as 1.5."""
    try:
        scale = float(value.text or "")
    except ValueError:
        scale = 0.0
    if not LEAST <= scale <= MOST:
        fields.report_wrong(value, what, f"a number from {LEAST:g} to {MOST:g}", found, "write it like: 1.5")
        return None
    return scale


KEYS: Final[Table] = {
    "look": fields.choice(*LOOKS),
    "size": fields.choice(*SIZES),
    "scale": _scale,
    "at": fields.choice(*PLACES),
    "display": fields.choice(*DISPLAYS),
    "hints": _after,
    "held": _after,
    "alternatives": fields.switch,
    "say": fields.choice(FAILURES, EVERYTHING),
}


@with_schema(lambda: table_schema(KEYS))
def overlay(value: Value, what: str, found: Found) -> Overlay | None:
    """Read how things are shown."""
    read = fields.fields(value, what, KEYS, found)
    if "say" in read:
        read["says"] = read.pop("say")
    return Overlay(**read)


@with_schema(any_of(TRUTH, one_of(*NOTICES)))
def notices(value: Value, what: str, found: Found) -> str | None:
    """Read where notices are shown; true and false are the usual place and none."""
    if value.text in ("true", "false"):
        return OVERLAY if value.text == "true" else LOG
    read: str | None = fields.choice(*NOTICES)(value, what, found)
    return read
