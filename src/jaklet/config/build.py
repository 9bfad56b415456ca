"""From a config file to a `Config`, collecting every fault on the way."""

from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any, Final

from jaklet.config import hand_reading, overlay_reading
from jaklet.config.app_reading import launch, read_apps
from jaklet.config.binding_reading import read_bindings, read_layers
from jaklet.config.event_reading import read_events
from jaklet.config.include import ConfigFile, parts_of
from jaklet.config.macro_reading import look_into, read_macros
from jaklet.config.ownership import exposed_file, exposed_folders
from jaklet.config.reading import NOWHERE, ConfigReading, MachineContext, Mention, define_once, good_name
from jaklet.config.reserved_reading import read_reserved
from jaklet.config.trial_reading import read_trials
from jaklet.config.word_reading import read_words
from jaklet.config.workspace_reading import read_workspaces, sharing
from jaklet.core.actions.ports.programs import Programs
from jaklet.core.language.place_grammar import named_in
from jaklet.core.values.chords import parse_keys
from jaklet.core.values.config import FOLLOW
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.findings import finding
from jaklet.core.values.forms import FullPlace, NamedPlace, SamePlace
from jaklet.core.values.geometry import Insets, Length
from jaklet.core.values.json_schema import TEXT, any_of, by_name
from jaklet.core.values.macros import REFUSE, REPLACE, WAIT
from jaklet.core.values.places import Place
from jaklet.core.values.sharings import DRAGGED, Sharing
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import did_you_mean, either
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import SourceFile, Value, documents, read_source
from jaklet.yaml_files.schemas import table_schema, with_schema

CREATE = "create"
KEEP, GIVE_BACK = "keep", "give back"
AT_ONCE, WITH_ENTER = "at once", "with enter"
SETTING_KEYS: Final[Table] = {
    "gap": fields.gap,
    "rim": fields.gap,
    "no gap when alone": fields.truth,
    "workspaces": fields.number,
    "missing workspaces": fields.choice(CREATE, REFUSE),
    "empty workspaces": fields.choice(KEEP, GIVE_BACK),
    "dragged windows": fields.choice(*DRAGGED),
    "windows return": fields.truth,
    "wait": fields.seconds,
    "sequence": fields.seconds,
    "terminal": launch,
    "words": fields.choice(AT_ONCE, WITH_ENTER),
    "keyboard": fields.keyboards,
    "when displays change": fields.choice(*FOLLOW),
    "display sets": fields.texts,
    "notices": overlay_reading.notices,
    "overlay": overlay_reading.overlay,
    "count": fields.switch,
    "hands": hand_reading.hands,
    "take over": fields.chords,
    "while another runs": fields.choice(REFUSE, WAIT, REPLACE),
}


@with_schema(TEXT)
def _stand_in(value: Value, what: str, found: Found) -> tuple[str, Spot] | None:
    """Read which display stands in for one that is not there, and where that is written."""
    name = fields.text(value, what, found)
    return None if name is None else (name, value.spot)


EDGE_KEYS: Final[Table] = dict.fromkeys(Insets._fields, fields.pixels)


@with_schema(lambda: table_schema(EDGE_KEYS))
def _edges(value: Value, what: str, found: Found) -> Insets | None:
    """Read which edges of a display are to be kept free: pixels, by side."""
    sides = fields.fields(value, f"{what} reserve", EDGE_KEYS, found)
    return Insets(**sides) if sides else None


DISPLAY_KEYS: Final[Table] = {
    "name": fields.text,
    "gap": fields.gap,
    "rim": fields.gap,
    "else": _stand_in,
    "reserve": _edges,
    "arranged": sharing,
}
# What a setting is called in the core, where that is not its name with the spaces joined.
_CALLED: Final = {
    "no gap when alone": "no_gap_alone",
    "keyboard": "keyboards",
    "windows return": "windows_return",
    "dragged windows": "dragged",
    "when displays change": "on_displays",
    "while another runs": "meanwhile",
    "display sets": "display_sets",
    "take over": "take_over",
}


@with_schema(lambda: table_schema(SETTING_KEYS, of="settings"))
def _settings(value: Value, reading: ConfigReading) -> None:
    read = fields.fields(value, "settings", SETTING_KEYS, reading.found)
    for key, _ in value.pairs() if value.is_map else ():
        if key.text in read and not define_once("setting", key, key.text, reading):
            del read[key.text]
    if "terminal" in read:
        read["terminal"], spot = read["terminal"]
        reading.commands.append((read["terminal"][0], spot))
    if "words" in read:
        read["at_once"] = read.pop("words") == AT_ONCE
    if "count" in read:
        read["counts"] = read.pop("count")
    if "missing workspaces" in read:
        read["make_workspaces"] = read.pop("missing workspaces") == CREATE
    if "empty workspaces" in read:
        read["give_back"] = read.pop("empty workspaces") == GIVE_BACK
    read = {_CALLED.get(name, name): got for name, got in read.items()}
    reading.config = reading.config._replace(settings=reading.config.settings._replace(**read))


@with_schema(lambda: by_name(table_schema(DISPLAY_KEYS, needed=["name"], of="displays")))
def _displays(value: Value, reading: ConfigReading) -> None:
    roles: dict[str, str] = {}
    gaps: dict[str, tuple[Length | None, Length | None]] = {}
    elses: dict[str, str] = {}
    reserved: dict[str, Insets] = {}
    arranged: dict[str, Sharing] = {}
    for key, role, item in fields.mapping(value, "displays", reading.found):
        if not good_name(key, role, "display", reading):
            continue
        read = fields.fields(item, f"display {role}", DISPLAY_KEYS, reading.found)
        if "gap" in read or "rim" in read:
            gaps[role] = read.get("gap"), read.get("rim")
        if "arranged" in read:
            arranged[role] = read["arranged"].taken(reading)
        if "reserve" in read:
            reserved[role] = read["reserve"]
        if "else" in read:
            elses[role], spot = read["else"]
            reading.mentions.append(Mention("display", elses[role], spot))
        if "name" in read:
            roles[role] = read["name"]
        elif item.is_map or item.is_empty:
            remedy = "give the connector's name: {name: DP-1}"
            reading.found.append(finding("JK106", key.spot, what=f"display {role}", key="name", remedy=remedy))
    config = reading.config
    reading.config = config._replace(
        displays={**config.displays, **roles},
        gaps={**config.gaps, **gaps},
        elses={**config.elses, **elses},
        reserved={**config.reserved, **reserved},
        arranged_displays={**config.arranged_displays, **arranged},
    )


@with_schema(lambda: by_name(any_of(TEXT, table_schema(PLACE_KEYS, needed=["place"]))))
def _places(value: Value, reading: ConfigReading) -> None:
    places: dict[str, Place] = {}
    for key, name, item in fields.mapping(value, "places", reading.found):
        if not good_name(key, name, "place", reading):
            continue
        places[name] = _place(item, name, reading) or Place(FullPlace())  # keeps the name known
    reading.config = reading.config._replace(places={**reading.config.places, **places})


def _place(item: Value, name: str, reading: ConfigReading) -> Place | None:
    """Read what a name stands for: a place; or a mapping with it, a note, and other forms on some displays."""
    if not item.is_map:
        return _own_place(item, name, reading)
    before = len(reading.found)
    read = fields.fields(item, f"place {name}", PLACE_KEYS, reading.found)
    place = _own_place(read["place"], name, reading) if "place" in read else None
    if "place" not in read and len(reading.found) == before:
        remedy = "add one: {place: left 2/3}"
        reading.found.append(finding("JK106", item.spot, what=f"place {name}", key="place", remedy=remedy))
    varied = []
    for key, role, value in _elsewhere(read, name, reading):
        reading.mentions.append(Mention("display", role, key.spot))
        other = _own_place(value, name, reading)
        if other and (other.display or other.then):
            _no_place(value, f"on {role} there can be one place, and no other display", reading)
        elif other:
            varied.append((role, other.form))
    return place and place._replace(varied=tuple(varied), note=read.get("note", ""))


def _elsewhere(read: Mapping[str, Any], name: str, reading: ConfigReading) -> list[tuple[Value, str, Value]]:
    """Return the displays on which a place is another one, with that."""
    what = f"displays of place {name}"
    return fields.mapping(read["displays"], what, reading.found) if "displays" in read else []


def _own_place(item: Value, name: str, reading: ConfigReading) -> Place | None:
    """Read a place that stands by itself: it names no other, and not one that a window already has."""
    read = fields.place(item, f"place {name}", reading.found)
    if read is None:
        return None
    for one in read.alternatives:
        if isinstance(one.form, NamedPlace | SamePlace):
            problem = f"a place cannot be defined by another name ({one.form})"
            if isinstance(one.form, SamePlace):
                problem = "the same place is another one for each window"
            _no_place(item, problem, reading)
            return None
    for kind, named, start, end in named_in(item.text or ""):
        reading.mentions.append(Mention(kind, named, item.part(start, end)))
    return read


def _no_place(item: Value, problem: str, reading: ConfigReading) -> None:
    remedy = "write the place itself, such as left 2/3"
    reading.found.append(finding("JK303", item.spot, problem=problem, remedy=remedy))


PLACE_KEYS: Final[Table] = {"place": fields.as_text, "note": fields.text, "displays": fields.later(by_name(TEXT))}

# A new section is one entry here.
SECTIONS: Final[Mapping[str, Callable[[Value, ConfigReading], None]]] = {
    "settings": _settings,
    "displays": _displays,
    "workspaces": read_workspaces,
    "apps": read_apps,
    "places": _places,
    "bindings": read_bindings,
    "layers": read_layers,
    "macros": read_macros,
    "events": read_events,
    "trials": read_trials,
    "words": read_words,
    "reserved": read_reserved,
}
INCLUDE: Final = "include"


_UNREAD: Final = frozenset({"JK102", "JK110"})  # the findings of a file that could not be read at all


def read_config(path: Path, shown: str, programs: Programs, here: MachineContext = NOWHERE) -> ConfigReading:
    """Read a config file and all that it includes; every fault is in the reading's `found`.

    `programs`: what there is to launch. `here`: the machine and keyboards it is read for.
    """
    reading = ConfigReading(programs, shown, here)
    _read_file(ConfigFile(path, shown), reading, ())
    if any(one.code in _UNREAD for one in reading.found):
        reading.broken.update(SECTIONS)  # a part that was not read may define anything
    config = reading.config
    bindings = tuple(bound.binding for bound in reading.every_bound() if bound.binding)
    reading.config = config._replace(bindings=bindings)
    look_into(reading)
    return reading


def _read_file(part: ConfigFile, reading: ConfigReading, trail: tuple[Path, ...]) -> None:
    """Read a file: first the parts that it includes, so that it has the last word, then its sections."""
    reading.own.add(part.shown)
    source = read_source(part.path, part.shown, reading.found)
    if source is None:
        return
    reading.sources[part.shown] = source
    reading.files[part.shown] = part.path
    reading.parts += 1
    _refuse_if_others_write(part, reading)
    values = _sections(source, reading)
    trail = (*trail, part.path.resolve())
    for name, _, value in values:
        if name == "settings":  # parts can be for one keyboard, which is named here
            _settings(value, reading)
    for name, _, value in values:
        if name == INCLUDE:
            for other in parts_of(value, part, trail, reading):
                _read_file(other, reading, trail)
    for name, key, value in values:
        build = SECTIONS.get(name)
        if name in (INCLUDE, "settings"):
            continue
        if build is None:
            known = [*SECTIONS, INCLUDE]
            near = did_you_mean(name, known, f"sections are {either(known)}")
            remedy = _indented(name) or fields.renamed(name, known) or near
            reading.found.append(finding("JK103", key.spot, name=name, remedy=remedy))
        elif not value.is_empty:
            build(value, reading)


def _refuse_if_others_write(part: ConfigFile, reading: ConfigReading) -> None:
    """Report where other users can change a part of the config, or put another file in its place."""
    exposed = exposed_file(part.path, part.shown) if part.path.exists() else None  # an editor's text may have no file
    reading.found += [exposed] if exposed else []
    reading.found += exposed_folders(part.path.parent, reading.path)


def _indented(name: str) -> str:
    """Return the remedy for a chord that stands where sections do; empty for anything else."""
    try:
        parse_keys(name)
    except SentenceError:
        return ""
    return "indent it, as it is one of `bindings`" if "+" in name else ""


def _sections(source: SourceFile, reading: ConfigReading) -> list[tuple[str, Value, Value]]:
    """Return the sections of a file: name, key and value. One that is there twice is reported, and left out."""
    spots: dict[str, Spot] = {}
    values: list[tuple[str, Value, Value]] = []
    for root in documents(source, reading.found, reading.broken):
        if not root.is_map and not root.is_empty:
            fields.mapping(root, "the file", reading.found)
        for key, value in root.pairs() if root.is_map else ():
            name = key.text or ""
            if name in spots:
                also = ((spots[name], "the first one"),)
                reading.found.append(finding("JK107", key.spot, also, name=name, inside="the file"))
                continue
            spots[name] = key.spot
            values.append((name, key, value))
    return values
