"""The sections `bindings` and `layers`: what chords do, under headings, in families, in layers."""

from typing import Final, NamedTuple

from jaklet.config.bound_actions import DOING_KEYS, action_text, read_done
from jaklet.config.families import MEMBERS, family_marks, members
from jaklet.config.reading import BoundKeys, ConfigReading, Mention, WrittenAction, good_name
from jaklet.core.keys.conflicts import can_meet
from jaklet.core.values.chords import Keys, parse_keys
from jaklet.core.values.config import Binding, Layer
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.findings import finding
from jaklet.core.values.json_schema import TEXT, Schema, any_of, by_name, some
from jaklet.core.values.scopes import EVERYWHERE, Scope
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import either
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import table_schema, with_schema

DROP, PASS_ON = "drop", "leave and pass on"


class _Apps(NamedTuple):
    """The apps of a scope, each with the value that names it."""

    named: tuple[tuple[str, Value], ...]


@with_schema(some(TEXT))
def _apps(value: Value, what: str, found: Found) -> _Apps | None:
    items = [*value.items()] if value.is_list else [value]
    read = [(fields.text(item, f"an app in {what}", found), item) for item in items]
    if not read:
        found.append(finding("JK105", value.spot, what=what, wanted="apps", found="empty", remedy="name an app"))
    return _Apps(tuple((name, item) for name, item in read if name is not None)) if read else None


SCOPE_KEYS: Final[Table] = {"only in": _apps, "not in": _apps}
BINDING_KEYS: Final[Table] = {
    **DOING_KEYS,
    "off": fields.truth,
    **SCOPE_KEYS,
    "repeat": fields.truth,
    "on release": fields.truth,
    "instead": fields.truth,
}


def _chords_schema() -> Schema:
    """Return the schema of chords with their actions, also below headings."""
    bound = any_of(TEXT, table_schema(BINDING_KEYS, needed=["do"], of="binding"))
    # Only a name without a plus can be a heading.
    return {**by_name(any_of(some(bound), by_name(some(bound)))), "patternProperties": {r"\+": some(bound)}}


class _Room(NamedTuple):
    """Where bindings stand: a layer, empty for none, and a heading."""

    layer: str = ""
    heading: str = ""


@with_schema(_chords_schema)
def read_bindings(value: Value, reading: ConfigReading) -> None:
    """Read the section `bindings`: chords, and headings with chords below them."""
    _read(value, "bindings", "", reading)


def _read(value: Value, what: str, layer: str, reading: ConfigReading) -> None:
    headings: dict[str, Spot] = {}
    room = _Room(layer)
    for key, item in value.pairs() if value.is_map else ():
        if item.text is not None or not _is_heading(key, item):
            _binding(key, item, room, reading)
            continue
        name = key.text or ""
        if name in headings:
            also = ((headings[name], "the first one"),)
            reading.found.append(finding("JK107", key.spot, also, name=name, inside=what))
        headings.setdefault(name, key.spot)
        for chord, below in item.pairs():
            if _is_heading(chord, below):
                problem = f"{chord.text!r} is a heading below a heading"
                reading.found.append(finding("JK108", chord.spot, problem=problem, remedy="write it at the left, too"))
            else:
                _binding(chord, below, _Room(layer, name), reading)
    if not value.is_map and not value.is_empty:
        fields.mapping(value, what, reading.found)


def _is_heading(key: Value, item: Value) -> bool:
    """True for a name with bindings below it: no chord, nor like one, and with no key of a binding in it."""
    if not item.is_map:
        return False
    name = key.text or ""
    if "+" in name or any(inner.text in BINDING_KEYS for inner, _ in item.pairs()):
        return False
    try:
        parse_keys(name)
    except SentenceError:
        return True
    return False


def _binding(key: Value, item: Value, room: _Room, reading: ConfigReading) -> None:
    """Read a binding, all that a family stands for, or a list of those with other scopes."""
    text, does = key.text or "", item.text
    if does is not None and "<" not in text and "<" not in does:  # nearly all are as plain as that
        keys, action = fields.keys(key, "a chord", reading.found), fields.action(item, "an action", reading.found)
        if action:
            reading.deeds.append(WrittenAction(action, item, sure=False, off=False, family=False))
        if keys:
            layer, spot = room.layer, key.spot
            binding = Binding(keys, action, spot, "", False, room.heading, False, None, layer) if action else None
            bound = BoundKeys(keys, spot, does, layer, EVERYWHERE, False, False, key, binding)
            reading.bound.setdefault((layer, keys), []).append(bound)
        return
    if item.is_list:
        for one in item.items():
            if one.is_list:  # an alias could even put a list into itself
                remedy = "write each binding as {do: ACTION, only in: APPS}"
                reading.found.append(
                    finding("JK105", one.spot, what="this binding", wanted="an action", found="a list", remedy=remedy)
                )
            else:
                _binding(key, one, room, reading)
        return
    written = action_text(item)
    if "<" not in text and "<" not in written:
        _one(fields.keys(key, "a chord", reading.found), key, item, written, False, room, reading)
        return
    own = family_marks(text)
    if not _marks_agree(key, written, own, reading):
        return
    for name, one in members(key, item):
        _one(fields.keys(name, "a chord", reading.found), key, one, written, bool(own), room, reading)


def _one(
    keys: Keys | None, key: Value, one: Value, written: str, is_family: bool, room: _Room, reading: ConfigReading
) -> None:
    """Read one member of a family, or a binding with more than an action. `written`: its action as it stands there."""
    spot = key.spot
    done = read_done(one, spot, "this binding", BINDING_KEYS, reading, family=is_family)
    read = done.read if done else {}
    if keys is None:
        return
    scope, off = read_scope(one, read, reading) if read else EVERYWHERE, read.get("off", False)
    on_release, repeat = read.get("on release", False), read.get("repeat", False)
    binding = None
    if done:
        family = (key.text or "", written) if is_family else None
        note, sure = read.get("note", ""), read.get("sure", False)
        binding = Binding(
            keys, done.action, spot, note, sure, room.heading, off, family, room.layer, scope, repeat, on_release
        )
    text = binding.action.text if binding else written
    bound = BoundKeys(keys, spot, text, room.layer, scope, on_release, off, key, binding)
    if repeat and on_release:
        problem, remedy = "a binding cannot both repeat and wait for the key's release", "keep one of the two"
        reading.found.append(finding("JK108", spot, problem=problem, remedy=remedy))
    if read.get("instead") and not _take_away(bound, reading):
        reading.found.append(finding("JK210", spot, chord=" ".join((key.text or "").split())))
    reading.bound.setdefault((room.layer, keys), []).append(bound)


def read_scope(item: Value, read: dict[str, object], reading: ConfigReading) -> Scope:
    """Return the apps that `only in` or `not in` name."""
    only, without = read.get("only in"), read.get("not in")
    if only and without:
        spot = next(key.spot for key, _ in item.pairs() if key.text == "not in")
        problem = "it has either `only in` or `not in`"
        reading.found.append(finding("JK108", spot, problem=problem, remedy="keep one of the two"))
    apps = only or without
    if not isinstance(apps, _Apps):
        return EVERYWHERE
    for name, value in apps.named:
        reading.mentions.append(Mention("app", name, value.spot))
    return Scope(frozenset(name for name, _ in apps.named), only=bool(only))


def _take_away(bound: BoundKeys, reading: ConfigReading) -> bool:
    """Take away the earlier bindings that one with `instead: true` replaces; False if there is none."""
    former = reading.bound.get((bound.layer, bound.keys), [])
    kept = [one for one in former if not can_meet(one, bound)]
    reading.bound[bound.layer, bound.keys] = kept
    return len(kept) < len(former)


def _marks_agree(key: Value, written: str, own: list[str], reading: ConfigReading) -> bool:
    """Report marks that stand in the action and not in the chord, and chords with more than one."""
    strange = [mark for mark in family_marks(written) if mark not in own]
    if len(own) > 1:
        problem, remedy = f"this has {either(own)}, and a family has one of them", "write a family for each"
    elif strange:
        problem = f"{strange[0]} stands in the action and not in the chord"
        remedy = f"write it in both, as in super+{strange[0]}; it stands for {either(MEMBERS[strange[0]])}"
    else:
        if own and not family_marks(written):
            keys = f"{len(MEMBERS[own[0]])} keys of {key.text}"
            reading.found.append(finding("JK222", key.spot, keys=keys, action=written, mark=own[0]))
        return True
    reading.found.append(finding("JK301", key.spot, problem=problem, remedy=remedy))
    return False


LAYER_KEYS: Final[Table] = {
    "stays": fields.truth,
    "ends after": fields.seconds,
    "other keys": fields.choice(DROP, PASS_ON),
    "note": fields.text,
    "bindings": fields.later(_chords_schema),
}


@with_schema(lambda: by_name(table_schema(LAYER_KEYS, needed=["bindings"], of="layer")))
def read_layers(value: Value, reading: ConfigReading) -> None:
    """Read the section `layers`."""
    layers = {**reading.config.layers}
    for key, name, item in fields.mapping(value, "layers", reading.found):
        if not good_name(key, name, "layer", reading):
            continue
        read = fields.fields(item, f"layer {name}", LAYER_KEYS, reading.found)
        passes_on = read.get("other keys", DROP) == PASS_ON
        layers[name] = Layer(name, read.get("stays", False), read.get("ends after"), passes_on, read.get("note", ""))
        inside: Value | None = read.get("bindings")
        if inside is None or inside.is_empty:
            remedy = f"write {name}: {{bindings: {{b: go berths}}}}"
            reading.found.append(finding("JK106", key.spot, what=f"layer {name}", key="bindings", remedy=remedy))
        else:
            _read(inside, f"layer {name}", name, reading)
    reading.config = reading.config._replace(layers=layers)
