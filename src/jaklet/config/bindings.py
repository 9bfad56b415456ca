"""The sections `bindings` and `words`: what a chord or a typed word does."""

from dataclasses import replace
from typing import Any, Final, NamedTuple

from jaklet.config import fields
from jaklet.config.families import MEMBERS, marks, members
from jaklet.config.fields import Found, Table
from jaklet.config.reader import Value
from jaklet.config.reading import Mention, Reading, good_name, mention_display
from jaklet.core.chords import parse_keys
from jaklet.core.config import Binding, Word
from jaklet.core.errors import SentenceError
from jaklet.core.findings import finding
from jaklet.core.forms import Named
from jaklet.core.sentences import Action
from jaklet.core.spans import Spot
from jaklet.core.verbs import VERBS
from jaklet.core.words import either


class _ReadAction(NamedTuple):
    action: Action
    value: Value


def _action(value: Value, what: str, found: Found) -> _ReadAction | None:
    read = fields.action(value, what, found)
    return _ReadAction(read, value) if read else None


DOING_KEYS: Final[Table] = {"do": _action, "note": fields.text, "sure": fields.truth}
BINDING_KEYS: Final[Table] = {**DOING_KEYS, "off": fields.truth}


def read_bindings(value: Value, reading: Reading) -> None:
    """Read the section `bindings`: chords, and headings with chords below them."""
    headings: dict[str, Spot] = {}
    for key, item in value.pairs() if value.is_map else ():
        if not _is_heading(key, item):
            _binding(key, item, "", reading)
            continue
        name = key.text or ""
        if name in headings:
            also = ((headings[name], "the first one"),)
            reading.found.append(finding("JK107", key.spot, also, name=name, inside="bindings"))
        headings.setdefault(name, key.spot)
        for chord, below in item.pairs():
            if _is_heading(chord, below):
                problem = f"{chord.text!r} is a heading below a heading"
                reading.found.append(finding("JK108", chord.spot, problem=problem, remedy="write it at the left, too"))
            else:
                _binding(chord, below, name, reading)
    if not value.is_map:
        fields.mapping(value, "bindings", reading.found)
    reading.config = replace(reading.config, bindings=tuple(reading.bindings))


def _is_heading(key: Value, item: Value) -> bool:
    """True for a name with bindings below it: no chord, nor like one, and with no key of a binding in it."""
    name = key.text or ""
    if not item.is_map or "+" in name or any(inner.text in BINDING_KEYS for inner, _ in item.pairs()):
        return False
    try:
        parse_keys(name)
    except SentenceError:
        return True
    return False


def _binding(key: Value, item: Value, heading: str, reading: Reading) -> None:
    """Read a binding, or all that a family stands for."""
    family = key.text if marks(key.text or "") else ""
    if not _marks_agree(key, item, reading):
        return
    for name, one in members(key, item):
        chords = fields.keys(name, "a chord", reading.found)
        done = _done(one, key.spot, "this binding", BINDING_KEYS, reading, family=bool(family))
        if chords and not (done and done.off):
            reading.chords.append((chords, key.spot, _action_text(item)))
        if chords and done:
            word = done.word
            binding = Binding(chords, word.action, key.spot, word.note, word.sure, heading, done.off)
            written = (family, _action_text(item)) if family else None
            reading.bindings.append(binding._replace(family=written))


def _marks_agree(key: Value, item: Value, reading: Reading) -> bool:
    """Report marks that stand in the action and not in the chord, and chords with more than one."""
    own = marks(key.text or "")
    strange = [mark for mark in marks(_action_text(item)) if mark not in own]
    if len(own) > 1:
        problem, remedy = f"this has {either(own)}, and a family has one of them", "write a family for each"
    elif strange:
        problem = f"{strange[0]} stands in the action and not in the chord"
        remedy = f"write it in both, as in super+{strange[0]}; it stands for {either(MEMBERS[strange[0]])}"
    else:
        return True
    reading.found.append(finding("JK301", key.spot, problem=problem, remedy=remedy))
    return False


class _Done(NamedTuple):
    word: Word
    off: bool


def _done(item: Value, spot: Spot, what: str, keys: Table, reading: Reading, family: bool = False) -> _Done | None:
    """Read what a chord or a word does: an action, or a mapping with `do`."""
    read: dict[str, Any] = {}
    if item.is_map:
        read = fields.fields(item, what, keys, reading.found)
        if not any(name.text == "do" for name, _ in item.pairs()):
            remedy = "add one: {do: go berths}"
            reading.found.append(finding("JK106", spot, what=what, key="do", remedy=remedy))
    action = read.get("do") if item.is_map else _action(item, "an action", reading.found)
    if action is None:
        return None
    sure, off = read.get("sure", False), read.get("off", False)
    _mention_action(action.action, action.value, family, reading)
    if not off:
        reading.guarded.append((action.action, sure, action.value.spot))
    return _Done(Word(action.action, read.get("note", ""), sure), off)


def _action_text(item: Value) -> str:
    """Return a binding's action as it is written, in either form."""
    if item.is_map:
        item = next((value for key, value in item.pairs() if key.text == "do"), item)
    return item.text or "nothing"


def _mention_action(action: Action, value: Value, family: bool, reading: Reading) -> None:
    for ref in action.refs:
        spot = value.part(ref.start, ref.end)
        if ref.action:
            _mention_action(ref.action, value, family, reading)
        elif ref.kind in ("APP", "LAYOUT"):
            reading.mentions.append(Mention(ref.kind.lower(), ref.name, spot, family))
        elif ref.place:
            if isinstance(ref.place.form, Named):
                name = ref.place.form.name
                reading.mentions.append(Mention("place", name, value.part(ref.start, ref.start + len(name))))
            if ref.place.display:
                mention_display(ref.place, value, ref.end, reading)


def read_words(value: Value, reading: Reading) -> None:
    """Read the section `words`."""
    words: dict[str, Word] = {}
    small: dict[str, Spot] = {}
    for key, name, item in fields.mapping(value, "words", reading.found):
        done = _done(item, key.spot, f"word {name}", DOING_KEYS, reading)
        if name.lower() in VERBS:
            problem = f"{name!r} is what an action begins with"
            reading.found.append(finding("JK108", key.spot, problem=problem, remedy="choose another word"))
            continue
        if name.lower() in small and good_name(key, name, "word", reading):
            also = ((small[name.lower()], "the first one"),)
            reading.found.append(finding("JK107", key.spot, also, name=name, inside="words"))
        elif done and good_name(key, name, "word", reading):
            words[name] = done.word
        small.setdefault(name.lower(), key.spot)
    reading.config = replace(reading.config, words=words)
