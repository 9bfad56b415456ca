"""The keys of layout files, and how what stands under each is read."""

from collections.abc import Callable, Iterable, Mapping
from fractions import Fraction
from typing import Any, Final, NamedTuple

from jaklet.config.workspace_reading import sharing
from jaklet.core.language.slots import name_problem
from jaklet.core.language.verbs import VERBS, VerbLoss, traits_of
from jaklet.core.values import layout_fields
from jaklet.core.values.desk import WindowShape
from jaklet.core.values.findings import finding
from jaklet.core.values.json_schema import ANYTHING, TEXT, Schema, any_of, by_name, list_of, matching, one_of, some
from jaklet.core.values.layout_fields import ALL, MINIMISED, FieldKind
from jaklet.core.values.layouts import CLOSE, LEAVE, MINIMISE, MISSING, PARTS, SEND, OtherWindows, Where, number_of
from jaklet.core.values.words import either
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import schema_of, table_schema, with_schema


class PositionedValue(NamedTuple):
    """What was read, and where it stands."""

    read: Any
    value: Value


def keeping_position(reader: fields.Reader) -> fields.Reader:
    """Return a reader that keeps where it read something."""

    @with_schema(schema_of(reader) or ANYTHING)
    def read(value: Value, what: str, found: Found) -> PositionedValue | None:
        got = reader(value, what, found)
        return None if got is None else PositionedValue(got, value)

    return read


@with_schema(TEXT)
def _workspace(value: Value, what: str, found: Found) -> int | str | None:
    return ALL if value.text == ALL else _number_or_name(value, what, found)


@with_schema(TEXT)
def _number_or_name(value: Value, what: str, found: Found) -> Where | None:
    """Read a workspace: its number, or its name of the config."""
    text = value.text or ""
    return text if text and not text.isdigit() and not name_problem(text) else fields.number(value, what, found)


def _list_of(schema: Callable[[], Schema]) -> fields.Reader:
    """Return a reader of a list, whose lines are read elsewhere. `schema`: what a line looks like."""

    @with_schema(lambda: list_of(schema()))
    def read(value: Value, what: str, found: Found) -> Value | None:
        if value.is_list:
            return value
        fields.report_wrong(value, what, "a list", found, "write one line per window, each beginning with -")
        return None

    return read


@with_schema(by_name(TEXT))
def _displays(value: Value, what: str, found: Found) -> dict[str, str]:
    return {name: item.text or "" for _, name, item in fields.mapping(value, what, found)}


@with_schema(some(TEXT))
def _names(value: Value, what: str, found: Found) -> tuple[PositionedValue, ...]:
    """Read a name, or a list of them, each with its position."""
    items = value.items() if value.is_list else (value,)
    return tuple(PositionedValue(text, item) for item in items if (text := fields.text(item, what, found)) is not None)


@with_schema(some(one_of(*PARTS)))
def _holds(value: Value, what: str, found: Found) -> frozenset[str] | None:
    read = [fields.choice(*PARTS)(item, what, found) for item in (value.items() if value.is_list else (value,))]
    return frozenset(read) if all(read) else None


@with_schema(any_of(one_of(LEAVE, MINIMISE, CLOSE), matching(rf"{SEND} .+")))
def _others(value: Value, what: str, found: Found) -> OtherWindows | None:
    """OTHERS := leave | minimise | close | workspace N, or its NAME"""
    word, _, where = (value.text or "").partition(" ")
    if word == SEND and 1 <= (number_of(where) or 0) <= 999:
        return OtherWindows(SEND, int(where))
    if word == SEND and where and not where[0].isdigit() and not name_problem(where):
        return OtherWindows(SEND, where)
    if value.text in (LEAVE, MINIMISE, CLOSE):
        return OtherWindows(value.text)
    fields.report_wrong(value, what, f"{either([LEAVE, MINIMISE, CLOSE])}, or `{SEND} 3`", found)
    return None


@with_schema(some(TEXT))
def _actions(value: Value, what: str, found: Found) -> tuple[PositionedValue, ...] | None:
    """Read what is done once a window stands. A layout is no place for what can lose work or start a program."""
    read = []
    for item in value.items() if value.is_list else (value,):
        action = fields.action(item, what, found)
        if action is None:
            continue
        traits = traits_of(action)
        if traits.loses is VerbLoss.WORK or not (traits.with_new or traits.inside) or action.named("APP"):
            verbs = either([verb.name for verb in VERBS.values() if verb.traits.with_new or verb.traits.inside])
            problem = f"{action} cannot be part of a layout"
            remedy = f"use {verbs}, without an app: it is done with this window"
            found.append(finding("JK108", item.spot, problem=problem, remedy=remedy))
            continue
        read.append(PositionedValue(action, item))
    return tuple(read) or None


@with_schema(some(TEXT))
def _shares(value: Value, what: str, found: Found) -> tuple[Fraction, ...] | None:
    """Read what windows have beside each other: a list of fractions, such as [2/3, 1/3]."""
    read = []
    for item in value.items() if value.is_list else (value,):
        try:
            share = Fraction(item.text or "")
        except (ValueError, ZeroDivisionError):
            share = Fraction(0)
        if not 0 < share <= 1:
            fields.report_wrong(item, what, "a part of the whole", found, "write fractions such as [2/3, 1/3]")
            return None
        read.append(share)
    return tuple(read)


SHARED_KEYS: Final[Table] = {
    "display": keeping_position(fields.text),
    "form": sharing,
    "order": _names,
    "shares": _shares,
    "workspace": _number_or_name,
}
# The reader of each kind of field. Whatever it reads is kept with its position.
READERS: Final[Mapping[FieldKind, fields.Reader]] = {
    FieldKind.TEXT: fields.text,
    FieldKind.PATTERN: fields.pattern,
    FieldKind.NUMBER: fields.number,
    FieldKind.TRUTH: fields.truth,
    FieldKind.WORDS: fields.words,
    FieldKind.MISSING: fields.choice(*MISSING),
    FieldKind.STATE: fields.choice(MINIMISED, *WindowShape),
    FieldKind.APP: fields.text,
    FieldKind.APPS: _names,
    FieldKind.DISPLAY: fields.text,
    FieldKind.DISPLAYS: _names,
    FieldKind.SIZES: _displays,
    FieldKind.PLACE: fields.place,
    FieldKind.WORKSPACE: _number_or_name,
    FieldKind.WORKSPACE_OR_ALL: _workspace,
    FieldKind.PARTS: _holds,
    FieldKind.OTHERS: _others,
    FieldKind.ACTIONS: _actions,
    FieldKind.SHARED: _list_of(lambda: table_schema(SHARED_KEYS, needed=["display", "form"])),
    FieldKind.WINDOWS: _list_of(lambda: table_schema(ENTRY_KEYS, of="window")),
    FieldKind.VARIANTS: _list_of(lambda: table_schema(ARRANGEMENT_KEYS, needed=["displays"], of="layout")),
}


def _keys(kinds: Iterable[tuple[str, FieldKind]]) -> Table:
    return {key: keeping_position(READERS[kind]) for key, kind in kinds}


ENTRY_KEYS: Final[Table] = _keys((one.key, one.kind) for one in layout_fields.ENTRY_FIELDS)
ARRANGEMENT_KEYS: Final[Table] = _keys(
    [*((one.key, one.kind) for one in layout_fields.ARRANGEMENT_FIELDS), (layout_fields.WINDOWS, FieldKind.WINDOWS)]
)
LAYOUT_KEYS: Final[Table] = {
    **_keys((one.key, one.kind) for one in layout_fields.LAYOUT_FIELDS),
    **ARRANGEMENT_KEYS,
    **_keys([(layout_fields.VARIANTS, FieldKind.VARIANTS)]),
}
