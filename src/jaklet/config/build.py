"""From a config file to a `Config`, collecting every fault on the way."""

import os
import stat
from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any, Final, NamedTuple

from jaklet.config import fields
from jaklet.config.apps import launch, read_apps
from jaklet.config.fields import Found, Keys
from jaklet.config.reader import Value, documents, read_source
from jaklet.config.reading import Mention, Reading, good_name
from jaklet.core.config import Binding, Settings, Word
from jaklet.core.findings import finding
from jaklet.core.forms import Named
from jaklet.core.places import Place
from jaklet.core.ports import Programs
from jaklet.core.sentences import Action
from jaklet.core.spans import Spot
from jaklet.core.verbs import VERBS
from jaklet.core.words import did_you_mean, either

AT_ONCE, WITH_ENTER = "at once", "with enter"
SETTING_KEYS: Final[Keys] = {
    "gap": fields.whole,
    "wait": fields.seconds,
    "terminal": launch,
    "words": fields.choice(AT_ONCE, WITH_ENTER),
}
DISPLAY_KEYS: Final[Keys] = {"name": fields.text}


class _ReadAction(NamedTuple):
    action: Action
    value: Value


def _action(value: Value, what: str, found: Found) -> _ReadAction | None:
    read = fields.action(value, what, found)
    return _ReadAction(read, value) if read else None


BINDING_KEYS: Final[Keys] = {"do": _action, "note": fields.text, "sure": fields.truth}


def _settings(value: Value, reading: Reading) -> None:
    read = fields.fields(value, "settings", SETTING_KEYS, reading.found)
    if "terminal" in read:
        read["terminal"], spot = read["terminal"]
        reading.commands.append((read["terminal"][0], spot))
    read["at_once"] = read.pop("words", WITH_ENTER) == AT_ONCE
    reading.config = replace(reading.config, settings=Settings(**read))


def _displays(value: Value, reading: Reading) -> None:
    roles: dict[str, str] = {}
    for key, role, item in fields.mapping(value, "displays", reading.found):
        if not good_name(key, role, "display", reading):
            continue
        read = fields.fields(item, f"display {role}", DISPLAY_KEYS, reading.found)
        if "name" in read:
            roles[role] = read["name"]
        elif item.is_map or item.is_empty:
            remedy = "give the connector's name: {name: DP-1}"
            reading.found.append(finding("JK106", key.spot, what=f"display {role}", key="name", remedy=remedy))
    reading.config = replace(reading.config, displays=roles)


def _places(value: Value, reading: Reading) -> None:
    places: dict[str, Place] = {}
    for key, name, item in fields.mapping(value, "places", reading.found):
        if not good_name(key, name, "place", reading):
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
        done = _done(item, key.spot, "this binding", reading)
        if chord and done:
            reading.bindings.append(Binding(chord, done.action, key.spot, done.note, done.sure))
    if not value.is_map:
        fields.mapping(value, "bindings", reading.found)
    reading.config = replace(reading.config, bindings=tuple(reading.bindings))


def _words(value: Value, reading: Reading) -> None:
    words: dict[str, Word] = {}
    small: dict[str, Spot] = {}
    for key, name, item in fields.mapping(value, "words", reading.found):
        done = _done(item, key.spot, f"word {name}", reading)
        if name.lower() in VERBS:
            problem = f"{name!r} is what an action begins with"
            reading.found.append(finding("JK108", key.spot, problem=problem, remedy="choose another word"))
            continue
        if name.lower() in small and good_name(key, name, "word", reading):
            also = ((small[name.lower()], "the first one"),)
            reading.found.append(finding("JK107", key.spot, also, name=name, inside="words"))
        elif done and good_name(key, name, "word", reading):
            words[name] = done
        small.setdefault(name.lower(), key.spot)
    reading.config = replace(reading.config, words=words)


def _done(item: Value, spot: Spot, what: str, reading: Reading) -> Word | None:
    """Read what a chord or a word does: an action, or a mapping with `do`."""
    read: dict[str, Any] = {}
    if item.is_map:
        read = fields.fields(item, what, BINDING_KEYS, reading.found)
        if not any(name.text == "do" for name, _ in item.pairs()):
            remedy = "add one: {do: go berths}"
            reading.found.append(finding("JK106", spot, what=what, key="do", remedy=remedy))
    action = read.get("do") if item.is_map else _action(item, "an action", reading.found)
    if action is None:
        return None
    sure = read.get("sure", False)
    _mention_action(action.action, action.value, reading)
    reading.guarded.append((action.action, sure, action.value.spot))
    return Word(action.action, read.get("note", ""), sure)


def _action_text(item: Value) -> str:
    """Return a binding's action as it is written, in either form."""
    if item.is_map:
        item = next((value for key, value in item.pairs() if key.text == "do"), item)
    return item.text or "nothing"


# A new section is one entry here.
SECTIONS: Final[Mapping[str, Callable[[Value, Reading], None]]] = {
    "settings": _settings,
    "displays": _displays,
    "apps": read_apps,
    "places": _places,
    "bindings": _bindings,
    "words": _words,
}


def read_config(path: Path, shown: str, programs: Programs) -> Reading:
    """Read a config file; every fault is in the reading's `found`. `programs`: what there is to launch."""
    reading = Reading(programs, shown)
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


def _mention_action(action: Action, value: Value, reading: Reading) -> None:
    for ref in action.refs:
        spot = value.part(ref.start, ref.end)
        if ref.action:
            _mention_action(ref.action, value, reading)
        elif ref.kind == "APP":
            reading.mentions.append(Mention("app", ref.name, spot))
        elif ref.kind == "LAYOUT":
            reading.mentions.append(Mention("layout", ref.name, spot))
        elif ref.place:
            if isinstance(ref.place.form, Named):
                name = ref.place.form.name
                reading.mentions.append(Mention("place", name, value.part(ref.start, ref.start + len(name))))
            if ref.place.display:
                _mention_display(ref.place, value, ref.end, reading)


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
