"""Chords: modifiers plus one key, and their text in one canonical form."""

import re
from enum import IntFlag
from functools import lru_cache
from typing import Final, NamedTuple

from jaklet.core.values.errors import SentenceError
from jaklet.core.values.keysyms import KEYSYMS
from jaklet.core.values.regexes import regex
from jaklet.core.values.words import did_you_mean


class Modifier(IntFlag):
    """The modifiers a chord may hold, in the order in which they are written."""

    SUPER = 1
    CTRL = 2
    ALT = 4
    ALTGR = 8
    SHIFT = 16


MODIFIERS: Final[dict[str, Modifier]] = {
    "super": Modifier.SUPER,
    "ctrl": Modifier.CTRL,
    "control": Modifier.CTRL,
    "alt": Modifier.ALT,
    "altgr": Modifier.ALTGR,
    "shift": Modifier.SHIFT,
}

# Short names beside the X keysym names; the first one for a keysym is the canonical one.
SHORT_NAMES: Final[dict[str, str]] = {
    "pageup": "prior",
    "pagedown": "next",
    "enter": "return",
    "esc": "escape",
    "del": "delete",
    "ins": "insert",
    "spacebar": "space",
    "printscreen": "print",
    "plus": "plus",
    "dot": "period",
    "volumeup": "audioraisevolume",
    "volumedown": "audiolowervolume",
    "mute": "audiomute",
    "play": "audioplay",
}
_CANONICAL: Final = {"prior": "pageup", "next": "pagedown", "page_up": "pageup", "page_down": "pagedown"}
_UNICODE: Final = 0x01000000  # Latin-1 keysyms are their code points; others carry this (X protocol, appendix A)
_MEDIA_PREFIX: Final = "xf86"
MODIFIER_KEYS: Final = range(0xFFE1, 0xFFEF)  # Shift_L to Hyper_R


class Chord(NamedTuple):
    """Modifiers and one key, by its keysym. Two spellings of the same chord are equal."""

    modifiers: int
    keysym: int

    def __str__(self) -> str:
        modifiers = int(self.modifiers)  # a flag of an enumeration takes three calls for each bit
        held = [name for name, flag in _WRITTEN if modifiers & flag]
        return "+".join([*held, key_name(self.keysym)])


_WRITTEN: Final = [(name, int(flag)) for name, flag in MODIFIERS.items() if name != "control"]
_names: dict[int, str] = {}


def key_name(keysym: int) -> str:
    """Return the canonical name of a keysym."""
    if not _names:  # built on first need: only messages and saved files ask for it
        for name, number in KEYSYMS.items():
            _names.setdefault(number, _CANONICAL.get(name, name))
    return _names.get(keysym) or (letter_of(keysym) if keysym > _UNICODE else "") or f"{keysym:#x}"


def letter_of(keysym: int) -> str:
    """Return the letter that a keysym stands for by its number; empty for one that stands for none."""
    if 0x20 <= keysym <= 0x7E or 0xA0 <= keysym <= 0xFF:
        return chr(keysym)
    return chr(keysym - _UNICODE) if _UNICODE + 0x100 <= keysym <= _UNICODE + 0x10FFFF else ""


def keysym_of_letter(letter: str) -> int:
    """Return the keysym of a letter."""
    code = ord(letter)
    return code if code < 0x100 else _UNICODE + code


def keysym_of(name: str) -> int | None:
    """Return the keysym of a key name in any case, a short name or a single character; None if unknown."""
    small = name.lower()
    small = SHORT_NAMES.get(small, small)
    found = KEYSYMS.get(small)
    if found is None and small.startswith(_MEDIA_PREFIX):
        found = KEYSYMS.get(small.removeprefix(_MEDIA_PREFIX))
    if found is None and len(name) == 1 and name.isprintable() and not name.isspace():
        found = keysym_of_letter(name.lower() if len(name.lower()) == 1 else name)
    return found


# What modifiers are called elsewhere: on other systems, on their keys, and as bits (X protocol, Mod1 and Mod4).
_ELSEWHERE: Final = {
    **dict.fromkeys(("win", "windows", "mod4", "cmd", "command", "meta", "logo", "hyper"), "super"),
    **dict.fromkeys(("mod1", "option", "opt"), "alt"),
    **dict.fromkeys(("mod5", "alt_gr", "iso_level3_shift"), "altgr"),
    **dict.fromkeys(("control_l", "ctl", "strg"), "ctrl"),
}


def parse_chord(text: str) -> Chord:
    """Chord := {modifier "+"} key, with offsets of the part at fault in the error."""
    stripped = text.strip()
    offset = text.index(stripped) if stripped else 0
    if not stripped:
        raise SentenceError("a chord is missing here", 0, 1, "write one such as super+l")
    if stripped[0] == "<" or "-" in stripped[1:-1]:
        _refuse_other_writing(stripped, offset)
    pieces = stripped.split("+")
    if len(pieces) > 2 and pieces[-1] == "" == pieces[-2]:
        pieces[-2:] = ["+"]  # `super++`: the plus key itself
    elif stripped == "+":
        pieces = ["+"]
    modifiers, at = 0, offset
    for piece in pieces[:-1]:
        word = piece.strip()
        flag = MODIFIERS.get(word.lower())
        end = at + len(piece)
        if flag is None:
            raise _bad_modifier(word, at, end)
        if modifiers & flag:
            raise SentenceError(f"{word.lower()} is named twice", at, end, "leave one of them out")
        modifiers |= flag
        at = end + 1
    key = pieces[-1].strip()
    return Chord(modifiers, _key(key, at, offset + len(stripped), pieces))


_IN_BRACKETS: Final = regex(r"((?:<\w+>)+)(\w+)")
_OF_A_MOUSE: Final = regex(
    r"(?:mouse|button|btn|wheel|scroll)[ _-]?(?:\d+|up|down|left|right)?|(?:left|middle|right)[ _-]?(?:click|button)"
)


def _refuse_other_writing(text: str, offset: int) -> None:
    """Raise where a chord is written as other programs write it: `<super>e`, `ctrl-alt-x`."""
    found = _IN_BRACKETS.fullmatch(text)
    parts = [*found[1].strip("<>").split("><"), found[2]] if found else text.split("-")
    names = [_ELSEWHERE.get(part.lower(), part.lower()) for part in parts[:-1]]
    if len(parts) < 2 or not parts[-1] or any(name not in MODIFIERS for name in names):
        return
    meant = "+".join([*(name.replace("control", "ctrl") for name in names), parts[-1]])
    raise SentenceError(f"{text!r} is no chord here", offset, offset + len(text), f"join its parts with +: {meant}")


def _key(key: str, start: int, end: int, pieces: list[str]) -> int:
    if not key:
        raise SentenceError("the key is missing after +", start, end, "end the chord with a key: super+l")
    if key.lower() in MODIFIERS:
        remedy = f"put {key.lower()} first and end with a key: {key.lower()}+{pieces[0].strip() or 'l'}"
        if len(pieces) == 1 or pieces[0].strip().lower() in MODIFIERS:
            remedy = "end the chord with a key: super+l"
        raise SentenceError(f"{key.lower()} is a modifier, and a chord ends with a key", start, end, remedy)
    if any(space in key for space in " \t"):
        raise SentenceError("there is a space inside the chord", start, end, "join modifiers and key with +")
    found = keysym_of(key)
    if found is None and _OF_A_MOUSE.fullmatch(key.lower()):
        remedy = "only keys of a keyboard can be bound, and no buttons or wheels"
        raise SentenceError(f"no key is called {key!r}", start, end, remedy, unknown=key)
    if found is None:
        raise SentenceError(f"no key is called {key!r}", start, end, lambda: _keys_like(key), unknown=key)
    if found in MODIFIER_KEYS:
        raise SentenceError(f"{key} is a modifier key, and a chord ends with another key", start, end)
    return found


def _keys_like(key: str) -> str:
    return did_you_mean(key, [*KEYSYMS, *SHORT_NAMES], "use the X keysym name, as `xev` prints it")


def _bad_modifier(word: str, start: int, end: int) -> SentenceError:
    names = list(MODIFIERS)
    if not word:
        return SentenceError("there is nothing before +", start, end, "write the modifier's name before +")
    remedy = did_you_mean(word, names, f"modifiers are {', '.join(n for n, _ in _WRITTEN)}")
    if keysym_of(word) is not None:
        return SentenceError(f"{word} is a key, and only the last part of a chord is a key", start, end, remedy)
    meant = _ELSEWHERE.get(word.lower())
    if meant:
        remedy = f"did you mean {meant}?"
    return SentenceError(f"{word!r} is no modifier", start, end, remedy)


KEPT: Final = 4096  # chords that are remembered by how they are written: layers use the same ones again and again
Keys = tuple[Chord, ...]  # a chord, or the chords of a sequence
MOST_CHORDS: Final = 4
_PARTED: Final = regex(r"\S(?:.*?\S)??(?=(?<!\+)\s+(?!\+)|\s*$)", re.DOTALL)


@lru_cache(KEPT)
def parse_keys(text: str) -> Keys:
    """Keys := chord {space chord}, such as `super+w h`: a sequence, one chord after the other."""
    if not text.strip():
        return (parse_chord(text),)
    chords = []
    for found in _PARTED.finditer(text):
        try:
            chords.append(parse_chord(found.group()))
        except SentenceError as fault:
            raise fault.moved(found.start()) from fault
        if len(chords) > MOST_CHORDS:
            raise SentenceError(
                f"this has more than {MOST_CHORDS} chords", 0, len(text), "press fewer, one after another"
            )
    return tuple(chords)


def keys_written(keys: Keys) -> str:
    """Return chords as they are written, one after the other."""
    return " ".join(str(chord) for chord in keys)
