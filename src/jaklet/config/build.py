"""From a config file to a `Config`, collecting every fault on the way."""

import os
import stat
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Final, NamedTuple

from jaklet.config import fields
from jaklet.config.fields import Found, Keys
from jaklet.config.reader import Source, Value, documents, read_source
from jaklet.core.apps import RULE_PARTS, App, WindowRule, default_rule
from jaklet.core.chords import Chord
from jaklet.core.config import Binding, Config, Settings
from jaklet.core.cursor import NAME
from jaklet.core.findings import finding
from jaklet.core.forms import Named
from jaklet.core.places import Place
from jaklet.core.sentences import Action
from jaklet.core.spans import Spot
from jaklet.core.verbs import RESERVED
from jaklet.core.words import did_you_mean, either


class Mention(NamedTuple):
    """Where the files name something that has to exist elsewhere: an app, place, display or layout."""

    kind: str
    name: str
    spot: Spot


@dataclass
class Reading:
    """All that the files say, with positions, as far as it could be read; and what is wrong with them."""

    path: str = ""  # of the config file, as the user would write it
    config: Config = field(default_factory=Config)
    found: Found = field(default_factory=list)
    sources: dict[str, Source] = field(default_factory=dict)
    broken: set[str] = field(default_factory=set)  # sections that do not parse
    mentions: list[Mention] = field(default_factory=list)
    bindings: list[Binding] = field(default_factory=list)
    chords: list[tuple[Chord, Spot, str]] = field(default_factory=list)  # also of bindings whose action is at fault
    spots: dict[tuple[str, str], Spot] = field(default_factory=dict)  # (kind, name) -> where it is defined
    commands: list[tuple[str, Spot]] = field(default_factory=list)  # program of each `launch`
    layouts: dict[str, int | None] = field(default_factory=dict)  # name -> number, of the layouts on disk


def _window(value: Value, what: str, found: Found) -> WindowRule | None:
    keys: Keys = dict.fromkeys(RULE_PARTS, fields.text)
    before = len(found)
    read = fields.fields(value, what, keys, found)
    if not read and len(found) == before:
        remedy = "name the window's class: window: {class: BerthBoard}"
        found.append(finding("JK106", value.spot, what=what, key="class, instance, role or title", remedy=remedy))
    return WindowRule(tuple((part, read[part]) for part in RULE_PARTS if part in read)) if read else None


def _launch(value: Value, what: str, found: Found) -> tuple[tuple[str, ...], Spot] | None:
    read = fields.command(value, what, found)
    if read is None:
        return None
    first = next(value.items()) if value.is_list else value
    spot = first.spot
    return read, spot._replace(end=min(spot.end, spot.column + len(read[0])))


APP_KEYS: Final[Keys] = {"launch": _launch, "window": _window}
SETTING_KEYS: Final[Keys] = {"gap": fields.whole, "wait": fields.seconds}
DISPLAY_KEYS: Final[Keys] = {"name": fields.text}


class _ReadAction(NamedTuple):
    action: Action
    value: Value


def _action(value: Value, what: str, found: Found) -> _ReadAction | None:
    read = fields.action(value, what, found)
    return _ReadAction(read, value) if read else None


BINDING_KEYS: Final[Keys] = {"do": _action, "note": fields.text}


def _settings(value: Value, reading: Reading) -> None:
    read = fields.fields(value, "settings", SETTING_KEYS, reading.found)
    reading.config = replace(reading.config, settings=Settings(**read))


def _displays(value: Value, reading: Reading) -> None:
    roles: dict[str, str] = {}
    for key, role, item in fields.mapping(value, "displays", reading.found):
        if not _good_name(key, role, "display", reading):
            continue
        read = fields.fields(item, f"display {role}", DISPLAY_KEYS, reading.found)
        if "name" in read:
            roles[role] = read["name"]
        elif item.is_map or item.is_empty:
            remedy = "give the connector's name: {name: DP-1}"
            reading.found.append(finding("JK106", key.spot, what=f"display {role}", key="name", remedy=remedy))
    reading.config = replace(reading.config, displays=roles)


def _apps(value: Value, reading: Reading) -> None:
    apps: dict[str, App] = {}
    for key, name, item in fields.mapping(value, "apps", reading.found):
        if not _good_name(key, name, "app", reading):
            continue
        before = len(reading.found)
        read = fields.fields(item, f"app {name}", APP_KEYS, reading.found)
        program, spot = read.get("launch", ((), key.spot))
        rule = read.get("window")
        if program:
            reading.commands.append((program[0], spot))
            rule = rule or default_rule(program)
        elif rule is None:
            if len(reading.found) == before:
                remedy = f"write {name}: {{launch: PROGRAM, window: {{class: CLASS}}}}"
                reading.found.append(finding("JK106", key.spot, what=f"app {name}", key="launch", remedy=remedy))
            rule = WindowRule((("class", ""),))  # keeps the name known, so that its uses are not reported as well
        apps[name] = App(name, program, rule)
    reading.config = replace(reading.config, apps=apps)


def _places(value: Value, reading: Reading) -> None:
    places: dict[str, Place] = {}
    for key, name, item in fields.mapping(value, "places", reading.found):
        if not _good_name(key, name, "place", reading):
            continue
        read = fields.place(item, f"place {name}", reading.found)
        if read is not None and isinstance(read.form, Named):
            problem = f"a place cannot be defined by another name ({read.form.name})"
            remedy = "write the place itself, such as left 2/3"
            reading.found.append(finding("JK303", item.spot, problem=problem, remedy=remedy))
            read = None
        if read is not None and read.display:
            _mention_display(read, item, len(item.text or ""), reading)
        places[name] = read or Place(Named(name))
    reading.config = replace(reading.config, places=places)


def _bindings(value: Value, reading: Reading) -> None:
    for key, item in value.pairs() if value.is_map else ():
        chord = fields.chord(key, "a chord", reading.found)
        if chord:
            reading.chords.append((chord, key.spot, _action_text(item)))
        note = ""
        if item.is_map:
            read = fields.fields(item, "this binding", BINDING_KEYS, reading.found)
            note = read.get("note", "")
            action = read.get("do")
            if not any(name.text == "do" for name, _ in item.pairs()):
                remedy = "add one: {do: go berths}"
                reading.found.append(finding("JK106", key.spot, what="this binding", key="do", remedy=remedy))
        else:
            action = _action(item, "an action", reading.found)
        if action:
            _mention_action(action, reading)
        if chord and action:
            reading.bindings.append(Binding(chord, action.action, key.spot, note))
    if not value.is_map:
        fields.mapping(value, "bindings", reading.found)
    reading.config = replace(reading.config, bindings=tuple(reading.bindings))


def _action_text(item: Value) -> str:
    """Return a binding's action as it is written, in either form."""
    if item.is_map:
        item = next((value for key, value in item.pairs() if key.text == "do"), item)
    return item.text or "nothing"


# A new section is one entry here.
SECTIONS: Final[Mapping[str, Callable[[Value, Reading], None]]] = {
    "settings": _settings,
    "displays": _displays,
    "apps": _apps,
    "places": _places,
    "bindings": _bindings,
}


def read_config(path: Path, shown: str) -> Reading:
    """Read a config file; every fault is in the reading's `found`."""
    reading = Reading(shown)
    source = read_source(path, shown, reading.found)
    if source is None:
        return reading
    reading.sources[shown] = source
    _refuse_if_others_write(path, shown, reading)
    sections: dict[str, Spot] = {}
    for root in documents(source, reading.found, reading.broken):
        if not root.is_map:
            if not root.is_empty:
                fields.mapping(root, "the file", reading.found)
            continue
        for key, value in root.pairs():
            name = key.text or ""
            if name in sections:
                also = ((sections[name], "the first one"),)
                reading.found.append(finding("JK107", key.spot, also, name=name, inside="the file"))
                continue
            sections[name] = key.spot
            build = SECTIONS.get(name)
            if build is None:
                remedy = did_you_mean(name, SECTIONS, f"sections are {either(list(SECTIONS))}")
                reading.found.append(finding("JK103", key.spot, name=name, remedy=remedy))
            elif not value.is_empty:
                build(value, reading)
    return reading


def _good_name(key: Value, name: str, kind: str, reading: Reading) -> bool:
    """Report a name that sentences could not use, and remember where a good one stands."""
    reading.spots[kind, name] = key.spot
    problem = None
    if not NAME.fullmatch(name):
        problem = f"{name!r} cannot be a name: it should be one word of letters, digits, - and _"
    elif name.lower() in RESERVED:
        problem = f"{name!r} cannot be a name: sentences need that word"
    if problem:
        reading.found.append(finding("JK108", key.spot, problem=problem, remedy="choose another name"))
    return problem is None


def _mention_action(read: _ReadAction, reading: Reading) -> None:
    for ref in read.action.refs:
        spot = read.value.part(ref.start, ref.end)
        if ref.kind == "APP":
            reading.mentions.append(Mention("app", ref.name, spot))
        elif ref.kind == "LAYOUT":
            reading.mentions.append(Mention("layout", ref.name, spot))
        elif ref.place:
            if isinstance(ref.place.form, Named):
                name = ref.place.form.name
                reading.mentions.append(Mention("place", name, read.value.part(ref.start, ref.start + len(name))))
            if ref.place.display:
                _mention_display(ref.place, read.value, ref.end, reading)


def _mention_display(place: Place, value: Value, end: int, reading: Reading) -> None:
    assert place.display is not None
    spot = value.part(end - len(place.display), end)
    reading.mentions.append(Mention("display", place.display, spot))


def _refuse_if_others_write(path: Path, shown: str, reading: Reading) -> None:
    """Bindings start programs, so a file that others can change would let them act as this user."""
    state = path.stat()
    spot = Spot(shown, 1, 1, 2)
    if state.st_uid not in (os.getuid(), 0):
        reading.found.append(
            finding("JK109", spot, problem="it belongs to another user", remedy=f"cp {shown} to a file of your own")
        )
    elif state.st_mode & stat.S_IWOTH or (state.st_mode & stat.S_IWGRP and state.st_gid not in (os.getgid(), 0)):
        reading.found.append(
            finding("JK109", spot, problem=f"mode {stat.filemode(state.st_mode)}", remedy=f"chmod go-w {shown}")
        )
