"""Readers of typed values. Each takes a value and reports what is wrong with it, or returns what it says.

A mapping with fixed keys is a table from key to reader (`Table`); `fields` holds a mapping against its table.
"""

import re
from collections.abc import Callable, Iterable, Mapping
from fractions import Fraction
from typing import Any, Final

import yaml

from jaklet.core.keys.keyboards import parse_keyboard
from jaklet.core.language.actions import parse_action
from jaklet.core.language.cursor import Cursor
from jaklet.core.language.place_grammar import parse_length, parse_place
from jaklet.core.values.chords import Keys, parse_keys
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.geometry import Length
from jaklet.core.values.globs import LONGEST_PATTERN
from jaklet.core.values.json_schema import (
    ANYTHING,
    LINE,
    TEXT,
    TRUTH,
    Schema,
    any_of,
    by_name,
    integer,
    list_of,
    matching,
    one_of,
    some,
)
from jaklet.core.values.places import Place
from jaklet.core.values.regexes import regex
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import did_you_mean, either
from jaklet.yaml_files.reader import QUOTING, Value, quoted_line
from jaklet.yaml_files.schemas import with_schema

Found = list[Finding]
Reader = Callable[[Value, str, Found], Any]
Table = Mapping[str, Reader]

ON, OFF = "on", "off"
_SECONDS: Final = regex(r"(\d{1,6}(?:\.\d{1,3})?)\s*(ms|s)")
_SIZE: Final = regex(r"([1-9]\d{0,4})\s*x\s*([1-9]\d{0,4})")
MAX_PIXELS: Final = 32767
WIDEST: Final = Fraction(1, 5)  # of the work area's shorter side: more is no gap any more


def report_wrong(value: Value, what: str, wanted: str, found: Found, remedy: str = "") -> None:
    """Report that a value is not of the kind that is wanted."""
    remedy = remedy or f"write {wanted}"
    found.append(finding("JK105", value.spot, what=what, wanted=wanted, found=value.kind, remedy=remedy))


@with_schema(ANYTHING)
def anything(value: Value, _what: str, _found: Found) -> Value:
    """Read nothing yet: what it is has a reader of its own."""
    return value


def later(schema: Schema | Callable[[], Schema]) -> Reader:
    """Return a reader that reads nothing yet. `schema`: what is read of it later."""

    @with_schema(schema)
    def read(value: Value, _what: str, _found: Found) -> Value:
        return value

    return read


as_text: Final = later(TEXT)


@with_schema(TEXT)
def text(value: Value, what: str, found: Found) -> str | None:
    """Read a line of text."""
    if value.text is None:
        report_wrong(value, what, "text", found)
    return value.text


@with_schema({**TEXT, "maxLength": LONGEST_PATTERN})
def pattern(value: Value, what: str, found: Found) -> str | None:
    """Read a pattern for a name or title."""
    got = text(value, what, found)
    if got is not None and len(got) > LONGEST_PATTERN:
        problem = f"{what} is longer than {LONGEST_PATTERN} characters"
        found.append(finding("JK108", value.spot, problem=problem, remedy="put * for a part of it"))
        return None
    return got


@with_schema(by_name(TEXT))
def texts(value: Value, what: str, found: Found) -> tuple[tuple[str, str], ...] | None:
    """Read a mapping of names to texts."""
    pairs = mapping(value, what, found)
    read = [(name, text(item, f"{name} of {what}", found)) for _, name, item in pairs]
    return tuple((name, got) for name, got in read if got is not None) or None


@with_schema(some(TEXT))
def words(value: Value, what: str, found: Found) -> tuple[str, ...] | None:
    """Read a word, or a list of them."""
    read = [text(item, what, found) for item in (value.items() if value.is_list else (value,))]
    return tuple(word for word in read if word is not None) or None


@with_schema(some(LINE))
def keyboards(value: Value, what: str, found: Found) -> tuple[str, ...] | None:
    """Read the name of a keyboard, or a list of them: `us`, `fr, small laptop`."""
    read = []
    for item in value.items() if value.is_list else (value,):
        name = text(item, what, found)
        if name is None:
            continue
        try:
            read.append(str(parse_keyboard(name)))
        except SentenceError as fault:
            spot = item.part(fault.start, fault.end)
            found.append(finding("JK108", spot, problem=fault.message, remedy=fault.remedy))
    return tuple(read) or None


@with_schema(integer(0, MAX_PIXELS))
def whole(value: Value, what: str, found: Found) -> int | None:
    """Read a whole number from 0."""
    written = value.text
    if written is None or not written.isascii() or not written.isdigit():
        report_wrong(value, what, "a whole number from 0", found, "write a number such as 8")
        return None
    if int(written[:9]) > MAX_PIXELS:
        problem = f"{written} is more than {MAX_PIXELS}"
        found.append(finding("JK108", value.spot, problem=problem, remedy="write a smaller number"))
        return None
    return int(written)


@with_schema(any_of(integer(0, MAX_PIXELS), matching(r"\d{1,5}px")))
def pixels(value: Value, what: str, found: Found) -> int | None:
    """Read a width in pixels: `32`, or `32px`."""
    written = (value.text or "").removesuffix("px")
    if not (written.isascii() and written.isdigit()) or int(written[:9]) > MAX_PIXELS:
        report_wrong(value, what, "a width in pixels", found, "write it like: 32px")
        return None
    return int(written)


@with_schema(any_of(integer(0, MAX_PIXELS), matching(r".*\d.*")))
def gap(value: Value, what: str, found: Found) -> Length | None:
    """Read the width of a gap: pixels, or a share of the work area's shorter side."""
    written = value.text
    if written is None or (written.isascii() and written.isdigit()):
        pixels = whole(value, what, found)
        return None if pixels is None else Length(None, pixels)
    cursor = Cursor(written)
    try:
        length = parse_length(cursor)
    except SentenceError:
        length = None
    if length is None or not cursor.done:
        report_wrong(value, what, "a width from 0", found, "write pixels such as 8, or a share such as 1%")
        return None
    if (length.share or 0) > WIDEST:
        problem = f"{written} is more than {WIDEST * 100}% of the work area"
        found.append(finding("JK108", value.spot, problem=problem, remedy="write less"))
        return None
    return length


@with_schema(integer(1, 999))
def number(value: Value, what: str, found: Found) -> int | None:
    """Read a layout's or a workspace's number: 1 to 999."""
    got = whole(value, what, found)
    if got is not None and not 1 <= got <= 999:
        found.append(
            finding("JK108", value.spot, problem=f"{what} is from 1 to 999", remedy="write a number such as 1")
        )
        return None
    return got


@with_schema(matching(_SECONDS.pattern))
def seconds(value: Value, what: str, found: Found) -> float | None:
    """Read a time span: `10s`, `1.5s`, `200ms`."""
    read = parse_seconds(value.text or "")
    if read is None:
        report_wrong(value, what, "a time such as 10s or 200ms", found)
    return read


def parse_seconds(written: str) -> float | None:
    """Return the seconds of a time span; None if it is none."""
    match = _SECONDS.fullmatch(written)
    return float(match[1]) * (0.001 if match[2] == "ms" else 1) if match else None


def shaped(pattern: re.Pattern[str], wanted: str, made: Callable[[re.Match[str]], Any]) -> Reader:
    """Return a reader of texts of one shape. `wanted`: such a text, in words; `made`: what comes of its parts."""

    @with_schema(matching(pattern.pattern))
    def read(value: Value, what: str, found: Found) -> Any:
        match = pattern.fullmatch(value.text or "")
        if not match:
            report_wrong(value, what, wanted, found)
            return None
        return made(match)

    return read


# A width and a height in pixels.
size: Final = shaped(_SIZE, "a size in pixels such as 640x480", lambda match: (int(match[1]), int(match[2])))


@with_schema(TRUTH)
def truth(value: Value, what: str, found: Found) -> bool | None:
    """Read `true` or `false`."""
    if value.text not in ("true", "false"):
        report_wrong(value, what, "true or false", found)
        return None
    return value.text == "true"


@with_schema(one_of(ON, OFF))
def switch(value: Value, what: str, found: Found) -> bool | None:
    """Read `on` or `off`."""
    read = choice(ON, OFF)(value, what, found)
    return None if read is None else read == ON


def choice(*words: str) -> Reader:
    """Return a reader of one of these words."""

    @with_schema(one_of(*words))
    def read(value: Value, what: str, found: Found) -> str | None:
        if value.text in words:
            return value.text
        report_wrong(value, what, either(words), found, did_you_mean(value.text or "", words, f"write {either(words)}"))
        return None

    return read


@with_schema(any_of(TEXT, list_of(TEXT)))
def command(value: Value, what: str, found: Found) -> tuple[str, ...] | None:
    """Read an argument list: a list, or words split as a shell does, without a shell."""
    if value.is_list:
        words = [item.text for item in value.items()]
        if words and all(word is not None for word in words):
            return tuple(word for word in words if word is not None)
        report_wrong(value, what, "a list of words", found, "write a list such as [berth-board, --live]")
        return None
    if not value.text or not value.text.strip():
        report_wrong(value, what, "a command", found, "write the program and its arguments")
        return None
    import shlex  # a third of a config's start-up cost is imports; this one is needed here alone

    try:
        return tuple(shlex.split(value.text))
    except ValueError:
        remedy = "close the quotes, or write the command as a list: [program, argument]"
        found.append(finding("JK108", value.spot, problem="a quote in this command is not closed", remedy=remedy))
        return None


def _is_cut(value: Value) -> bool:
    """True if YAML ends a plain value at a comma or bracket of a mapping in braces, and the line goes on."""
    node = value.node
    rest = value.source.line(node.end_mark.line + 1)[node.end_mark.column :].lstrip()
    return isinstance(node, yaml.ScalarNode) and not node.style and rest[:1] in (",", ":", "#", "]", "}")


def cut_in_two(value: Value) -> str:
    """Return how a sentence has to be written that YAML has taken for a mapping; empty where it is no sentence."""
    quotes = value.is_map and any(quote in (key.text or "") for key, _ in value.pairs() for quote in "\"'")
    return _quoting(value, "") if quotes else ""


def _quoting(value: Value, closing: str) -> str:
    mark = value.node.start_mark
    return f"{QUOTING}: {quoted_line(value.source, mark.line + 1, mark.column, closing)}"


def sentence(code: str, unknown_code: str, parse: Callable[[str], Any], example: str) -> Reader:
    """Return a reader of sentences. The codes: of one that does not parse, and of one that names what is unknown."""

    @with_schema({**TEXT, "examples": [example]})
    def read(value: Value, what: str, found: Found) -> Any:
        if value.text is None:
            report_wrong(value, what, "a sentence", found, cut_in_two(value) or f"write one such as {example}")
            return None
        try:
            return parse(value.text)
        except SentenceError as fault:
            kind = unknown_code if fault.unknown else code
            spot = value.part(fault.start, fault.end)
            remedy = _quoting(value, fault.quote) if fault.quote and _is_cut(value) else fault.remedy
            found.append(finding(kind, spot, problem=fault.message, remedy=remedy))
            return None

    return read


action: Final[Callable[[Value, str, Found], Action | None]] = sentence("JK301", "JK301", parse_action, "go berths")
place: Final[Callable[[Value, str, Found], Place | None]] = sentence("JK303", "JK303", parse_place, "left 2/3")
keys: Final[Callable[[Value, str, Found], Keys | None]] = sentence("JK201", "JK202", parse_keys, "super+l")


@with_schema(some(TEXT))
def chords(value: Value, what: str, found: Found) -> Keys | None:
    """Read chords: one, some with spaces between them, or a list."""
    read = [keys(item, what, found) for item in (value.items() if value.is_list else (value,))]
    return tuple(chord for some in read if some for chord in some) or None


def mapping(value: Value, what: str, found: Found) -> list[tuple[Value, str, Value]]:
    """Return key, its text, and value of each pair; keys that are not text or stand twice are reported."""
    if value.is_empty:
        return []
    if not value.is_map:
        report_wrong(value, what, "a mapping", found, "write `key: value` lines, indented below it")
        return []
    seen: dict[str, Value] = {}
    pairs = []
    for key, item in value.pairs():
        name = key.text
        if name is None:
            report_wrong(key, f"a key of {what}", "text", found)
            continue
        if name in seen:
            also = ((seen[name].spot, "the first one"),)
            found.append(finding("JK107", key.spot, also, name=name, inside=what))
            continue
        seen[name] = key
        pairs.append((key, name, item))
    return pairs


# What keys were called once: people have files with them.
FORMER: Final[Mapping[str, tuple[str, ...]]] = {"on": ("events", "displays"), "keep": ("closing",)}
NOW: Final[Mapping[str, str]] = {"closing": "closing: minimise"}


def renamed(name: str, keys: Iterable[str]) -> str:
    """Return the present name of an unknown key; empty if it has never had one."""
    known = set(keys)
    return next((f"write {NOW.get(key, key)}" for key in FORMER.get(name, ()) if key in known), "")


def fields(value: Value, what: str, keys: Table, found: Found) -> dict[str, Any]:
    """Read a mapping with fixed keys; what could not be read is left out and reported."""
    read: dict[str, Any] = {}
    for key, name, item in mapping(value, what, found):
        reader = keys.get(name)
        if reader is None:
            known = f"{what} has {either(list(keys))}"
            if item.is_empty and value.is_in_braces:
                known = "a comma between braces ends what stands before it: put all of that in quotes"
            remedy = renamed(name, keys) or did_you_mean(name, keys, known)
            found.append(finding("JK104", key.spot, inside=what, name=name, remedy=remedy))
            continue
        got = reader(item, name if what.startswith("this ") else f"{name} of {what}", found)
        if got is not None:
            read[name] = got
    return read
