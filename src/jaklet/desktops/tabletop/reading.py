"""What the text of a tabletop says: its keys, how each is read, and the room that comes of it.

The tables are those by which it is read, and its schema is made of them.
"""

import re
from collections.abc import Iterator, Mapping
from typing import Any, Final, NamedTuple

from jaklet.core.values.chords import MODIFIERS, Chord, parse_chord
from jaklet.core.values.desk import DIALOG, NORMAL, Display, WindowShape
from jaklet.core.values.desk_abilities import EVERY, Ability, ability_called
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.geometry import NO_LIMITS, Rect, SizeLimits, Strut, work_area
from jaklet.core.values.json_schema import (
    DIALECT,
    NOTHING,
    TEXT,
    Schema,
    any_of,
    by_name,
    list_of,
    mapping,
    matching,
    one_of,
    some,
)
from jaklet.core.values.recency import Recency
from jaklet.core.values.regexes import regex
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import did_you_mean, listed
from jaklet.desktops.tabletop.room import Program, Room
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Reader, Table, report_wrong
from jaklet.yaml_files.reader import SourceFile, Value, documents
from jaklet.yaml_files.schemas import table_schema, with_schema

THIS: Final = "this tabletop"
ALL, NONE, ANOTHER = "all", "none", "another program"
_GEOMETRY: Final = regex(r"(\d{1,5})x(\d{1,5})([+-]\d{1,5})([+-]\d{1,5})")  # as X tools write it, XParseGeometry(3)
_BAR: Final = regex(r"(left|right|top|bottom) (\d{1,4})")
_NUMBER: Final = regex(r"-?\d{1,9}")
_WHOLE: Final[Schema] = {"type": "integer"}
_SAMPLE: Final = "[{name: DP-1, area: 1920x1080+0+0}]"


class ChordsOfOthers(NamedTuple):
    """Chords and modifiers that other programs hold, with their names."""

    chords: dict[Chord, str]
    modifiers: dict[str, str]


# --- values ---


def _rect(match: re.Match[str]) -> Rect:
    width, height, x, y = map(int, match.groups())
    return Rect(x, y, max(1, width), max(1, height))


_geometry: Final = fields.shaped(_GEOMETRY, "a geometry such as 800x600+100+50", _rect)
_bar: Final = fields.shaped(_BAR, "a side and a depth, such as top 32", lambda match: (match[1], int(match[2])))


@with_schema(_WHOLE)
def _number(value: Value, what: str, found: Found) -> int | None:
    if not _NUMBER.fullmatch(value.text or ""):
        report_wrong(value, what, "a whole number", found)
        return None
    return int(value.text or "")


@with_schema(some(matching(_BAR.pattern)))
def _bars(value: Value, what: str, found: Found) -> list[tuple[str, int]]:
    read = [_bar(item, what, found) for item in (value.items() if value.is_list else (value,))]
    return [one for one in read if one]


@with_schema(any_of(_WHOLE, one_of(ALL)))
def _workspace(value: Value, what: str, found: Found) -> int | str | None:
    return ALL if value.text == ALL else _number(value, what, found)


@with_schema(any_of(list_of(TEXT), by_name(TEXT)))
def _taken(value: Value, what: str, found: Found) -> ChordsOfOthers:
    """Read which chords and modifiers others hold: a list, or a mapping with who does."""
    if value.is_list:
        pairs = [(item, ANOTHER) for item in value.items()]
    else:
        pairs = [(key, item.text or ANOTHER) for key, _, item in fields.mapping(value, what, found)]
    read = ChordsOfOthers({}, {})
    for key, owner in pairs:
        text = fields.text(key, f"a chord of {what}", found)
        if text in MODIFIERS:
            read.modifiers[text] = owner
        elif text is not None:
            try:
                read.chords[parse_chord(text)] = owner
            except SentenceError as fault:
                code, spot = "JK202" if fault.unknown else "JK201", key.part(fault.start, fault.end)
                found.append(finding(code, spot, problem=fault.message, remedy=fault.remedy))
    return read


@with_schema(some(one_of(*(one.word for one in Ability))))
def _lacks(value: Value, what: str, found: Found) -> frozenset[Ability]:
    """Read which abilities the desk is without."""
    read, known = [], [one.word for one in Ability]
    for item in value.items() if value.is_list else () if value.is_empty else (value,):
        text = fields.text(item, what, found)
        ability = ability_called(text or "")
        if ability:
            read.append(ability)
        elif text is not None:
            remedy = did_you_mean(text, known, f"there are {listed(known)}")
            found.append(finding("JK108", item.spot, problem=f"{text!r} is no ability", remedy=remedy))
    return frozenset(read)


# --- tables: what has which keys ---

DISPLAY: Final[Table] = {"name": fields.text, "area": _geometry, "bar": _bar, "bars": _bars}
PROGRAM: Final[Table] = {
    "class": fields.text, "instance": fields.text, "title": fields.text,
    "size": fields.size, "least": fields.size, "most": fields.size, "step": fields.size,
    "takes": fields.seconds, "fails": _number, "says": fields.text, "entry": fields.text,
    "kind": fields.choice(NORMAL, DIALOG), "stubborn": fields.truth, "silent": fields.truth,
}  # fmt: skip
WINDOW: Final[Table] = {
    "id": _number, "program": fields.later(TEXT), "title": fields.text, "frame": _geometry, "normal": _geometry,
    "workspace": _workspace, "state": fields.choice(*(one.value for one in WindowShape)), "minimised": fields.truth,
    "above": fields.truth, "kind": fields.choice(NORMAL, DIALOG), "parent": _number, "launched for": fields.text,
}  # fmt: skip
KEYBOARD: Final[Table] = {"taken": _taken}


def _each(keys: Table, needed: Mapping[str, str], what: str) -> Reader:
    """Return a reader of a list of mappings with the keys of a table.

    `needed`: the keys that have to be there, with samples. `what`: one of them, in words.
    """

    @with_schema(lambda: list_of(table_schema(keys, needed, f"simulated {what}")))
    def read(value: Value, name: str, found: Found) -> list[dict[str, Any]] | None:
        if not value.is_list:
            if not value.is_empty:
                report_wrong(value, name, "a list", found, "write a line for each, beginning with -")
            return None
        return [entry for item in value.items() if (entry := one(item, found))]

    def one(item: Value, found: Found) -> dict[str, Any] | None:
        entry = fields.fields(item, f"a {what}", keys, found)
        missing = [key for key in needed if all(one.text != key for one, _ in item.pairs())]
        for key in missing:
            remedy = f"add {key}: {needed[key]}"
            found.append(finding("JK106", item.spot, what=f"a {what}", key=key, remedy=remedy))
        return None if missing else entry

    return read


@with_schema(lambda: by_name(any_of(table_schema(PROGRAM, of="simulated program"), NOTHING)))
def _programs(value: Value, what: str, found: Found) -> dict[str, dict[str, Any]]:
    pairs = fields.mapping(value, what, found)
    return {name: fields.fields(item, f"program {name}", PROGRAM, found) for _, name, item in pairs}


@with_schema(lambda: table_schema(KEYBOARD))
def _keyboard(value: Value, what: str, found: Found) -> ChordsOfOthers | None:
    read: ChordsOfOthers | None = fields.fields(value, what, KEYBOARD, found).get("taken")
    return read


_ORDER: Final = fields.later(list_of(_WHOLE))
TABLETOP: Final[Table] = {
    "tabletop": fields.text, "displays": _each(DISPLAY, {"area": "1920x1080+0+0"}, "display"),
    "programs": _programs, "workspaces": _number, "workspace": _number, "gaps": fields.switch, "keyboard": _keyboard,
    "lacks": _lacks, "windows": _each(WINDOW, {"program": "letters"}, "window"),
    "stacking": _ORDER, "recent": _ORDER, "active": fields.later(any_of(_WHOLE, one_of(NONE), NOTHING)),
}  # fmt: skip


def tabletop_schema() -> Schema:
    """Return the schema of a tabletop file (JSON Schema 2020-12)."""
    keys = table_schema(TABLETOP, of="tabletop")["properties"]
    keys["displays"]["minItems"] = 1
    return {"$schema": DIALECT, "title": "A tabletop of Jaklet", **mapping(keys, ["displays"])}


# --- the room that comes of it ---


def read_tabletop(source: SourceFile) -> tuple[Room | None, list[Finding]]:
    """Read the text of a tabletop; every fault is reported in one pass, and with one there is no room."""
    found: Found = []
    broken: set[str] = set()
    read: dict[str, Any] = {}
    for root in documents(source, found, broken):
        if root.is_in_braces:
            problem = "it is all in braces, and what is done on it is kept in lines below"
            found.append(finding("JK108", root.spot, problem=problem, remedy="write each key on a line of its own"))
        read |= fields.fields(root, THIS, TABLETOP, found)
    if not read.get("displays"):
        if not found:
            start, remedy = Spot(source.path, 1, 1, 2), f"write one: displays: {_SAMPLE}"
            found.append(finding("JK106", start, what=THIS, key="displays", remedy=remedy))
        return None, sorted(found, key=lambda one: one.order)
    displays = tuple(_display(entry, i == 0) for i, entry in enumerate(read["displays"]))
    room = Room(displays, name=read.get("tabletop", "tabletop"))
    room.programs = {name: _program(name, one) for name, one in read.get("programs", {}).items()}
    room.workspaces, room.workspace = read.get("workspaces", room.workspaces), read.get("workspace", room.workspace)
    room.gaps = read.get("gaps", True)
    room.taken, room.taken_modifiers = read.get("keyboard", ChordsOfOthers({}, {}))
    room.abilities = EVERY - read.get("lacks", frozenset())
    for entry in read.get("windows", ()):
        program = room.programs.get(entry["program"].text)
        if program:
            _add(room, program, entry)
        elif "programs" not in broken:
            found.append(_no_program(entry["program"], room))
    room.used = Recency(reversed(room.stacking))
    room.active = next(iter(room.used.order), None)
    if not found:
        found += _order(room, read)
    return None if found else room, sorted(found, key=lambda one: one.order)


def _display(read: Mapping[str, Any], primary: bool) -> Display:
    rect = read.get("area", Rect(0, 0, 1, 1))
    struts = []
    for side, depth in (*read.get("bars", ()), *([read["bar"]] if "bar" in read else [])):
        strips = {
            "left": Rect(rect.x, rect.y, depth, rect.height),
            "right": Rect(rect.right - depth, rect.y, depth, rect.height),
            "top": Rect(rect.x, rect.y, rect.width, depth),
            "bottom": Rect(rect.x, rect.bottom - depth, rect.width, depth),
        }
        struts.append(Strut(side, strips[side]))
    return Display(read.get("name", "?"), rect, work_area(rect, struts), primary)


def _program(name: str, read: Mapping[str, Any]) -> Program:
    width, height = read.get("size", (800, 600))
    least, most, step = read.get("least", (1, 1)), read.get("most", NO_LIMITS[2:4]), read.get("step", (1, 1))
    return Program(
        name=name,
        cls=read.get("class", name),
        instance=read.get("instance", name),
        title=read.get("title", name),
        width=width,
        height=height,
        limits=SizeLimits(least[0], least[1], most[0], most[1], 0, 0, step[0], step[1]),
        **{key: read[key] for key in ("takes", "fails", "says", "entry", "kind", "stubborn", "silent") if key in read},
    )


def _add(room: Room, program: Program, read: Mapping[str, Any]) -> None:
    where = read.get("workspace", 1)
    wid = room.add(
        program,
        read.get("frame"),
        read.get("id"),
        workspace=None if where == ALL else where,
        shape=WindowShape(read.get("state", WindowShape.NORMAL)),
        minimised=read.get("minimised", False),
        kind=read.get("kind", program.kind),
        parent=read.get("parent"),
        above=read.get("above", False),
        launched_for=read.get("launched for", ""),
        **({"title": read["title"]} if "title" in read else {}),
    )
    if "normal" in read:
        room.standing[wid].normal = read["normal"]


def _no_program(value: Value, room: Room) -> Finding:
    known = [*room.programs]
    remedy = did_you_mean(value.text or "", known, f"there are {listed(known)}" if known else "add it there")
    return finding("JK108", value.spot, problem=f"program {value.text!r} is not under `programs`", remedy=remedy)


def _order(room: Room, read: Mapping[str, Value]) -> Iterator[Finding]:
    """Put windows in the order that is written; yield what is wrong with that."""
    for key, order in (("stacking", room.stacking), ("recent", room.used.order)):
        if key in read:
            found: Found = []
            wanted = [_number(item, f"a window of {key}", found) for item in read[key].items()]
            yield from found
            if not found and sorted(filter(None, wanted)) != sorted(room.standing):
                problem, remedy = f"{key} does not name each window once", f"take {key} out, or name all by their ids"
                yield finding("JK108", read[key].spot, problem=problem, remedy=remedy)
            order[:] = [wid for wid in wanted if wid is not None]
    active = read.get("active")
    if active is not None:
        problems: Found = []
        room.active = None if active.is_empty or active.text == NONE else _number(active, "active", problems)
        yield from problems
        if room.active is not None and room.active not in room.standing:
            remedy = "write the id of one that is there, or none"
            yield finding("JK108", active.spot, problem=f"there is no window {room.active}", remedy=remedy)
