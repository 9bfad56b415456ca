"""The slots of actions' grammars: how an app, a place, a side or a number is read.

`ACTION` is read where the verbs are (`core.verbs`), as it can be any of them.
"""

import re
from collections.abc import Callable, Mapping
from typing import Final

from jaklet.core.cursor import NAME, Cursor
from jaklet.core.directions import SIDES
from jaklet.core.errors import SentenceError
from jaklet.core.keys.chords import parse_keys
from jaklet.core.layouts.layouts import LAST, name_fault
from jaklet.core.places.places import FORMS, parse_length, read_place
from jaklet.core.sentences import Name, Ref
from jaklet.core.words import did_you_mean, either

MISSING: Final = "is missing here"
MOST_WORKSPACES: Final = 36  # more than anybody has; a slip of the finger makes no hundred of them
# Words that sentences need for themselves, and which therefore cannot name an app or a place.
RESERVED: Final = frozenset(
    {
        *("last", "next", "previous", "backwards", "or", "all", "of", "on", "off", "window"),
        *("to", "display", "workspace", "above", *SIDES, *FORMS),
    }
)


def _app(cursor: Cursor) -> Ref:
    """APP := NAME"""
    remedy = "name an app from the section `apps`"
    if cursor.peek() in RESERVED:
        raise cursor.fault(f"{cursor.peek()!r} cannot be an app's name", remedy)
    return _one_name("APP", cursor, remedy)


def _one_name(kind: str, cursor: Cursor, remedy: str) -> Ref:
    """Take a word that is a name as a whole."""
    word, start = cursor.peek(), cursor.at
    found = cursor.take(NAME)
    if not found or len(found.group()) != len(word):
        cursor.at = start
        what = kind.lower()
        raise cursor.fault(f"{word!r} is no {what}'s name" if word else f"which {what}?", remedy)
    return Ref(kind, found.group(), found.start(), found.end())


def _place(cursor: Cursor) -> Ref:
    start, known = cursor.at, len(cursor.named)
    place = read_place(cursor)
    end = start + len(cursor.text[start : cursor.at].rstrip())
    named = tuple(Name(*one) for one in cursor.named[known:])
    return Ref("PLACE", cursor.text[start:end], start, end, place, named=named)


def _length(cursor: Cursor) -> Ref:
    """LENGTH := as in a place: 1/3, 10%, 40px"""
    start = cursor.at
    length = parse_length(cursor)
    end = start + len(cursor.text[start : cursor.at].rstrip())
    return Ref("LENGTH", cursor.text[start:end], start, end, length=length)


def _share(cursor: Cursor) -> Ref:
    """SHARE := LENGTH, but not the whole"""
    ref = _length(cursor)
    if ref.length and ref.length.share == 1:
        raise SentenceError("nothing would be left for the other window", ref.start, ref.end, "write less, such as 2/3")
    return ref


def _display(cursor: Cursor) -> Ref:
    """DISPLAY := ["display"] NAME"""
    cursor.keyword("display")
    return _one_name("DISPLAY", cursor, "write next, or its name")


def _number(cursor: Cursor) -> Ref:
    """N := a workspace's number"""
    found = cursor.take(_N)
    if not found:
        raise cursor.fault("which workspace?", "write its number, next or previous")
    if not 1 <= int(found[1]) <= MOST_WORKSPACES:
        raise SentenceError(
            f"there is no workspace {found[1]}", found.start(1), found.end(1), f"count from 1 to {MOST_WORKSPACES}"
        )
    return Ref("N", found[1], found.start(1), found.end(1))


def _layout(cursor: Cursor) -> Ref:
    """LAYOUT := NUMBER | last | home | name to the end of the sentence"""
    if cursor.peek() == LAST and cursor.text[cursor.at :].strip() == LAST:
        word, start, end = cursor.word()
        return Ref("LAYOUT", word, start, end)
    return _name(cursor)._replace(kind="LAYOUT")


def _name(cursor: Cursor) -> Ref:
    """NAME := a layout's number or name, which need not exist yet, to the end of the sentence"""
    if cursor.done:
        raise cursor.fault("which layout?", "end with a layout's name or number")
    name, start, end = cursor.rest()
    fault = None if name.isdigit() else name_fault(name)
    if fault:
        raise SentenceError(f"{name!r} is no layout's name: {fault}", start, end, "use a name such as departures")
    return Ref("NAME", name, start, end)


def _layer(cursor: Cursor) -> Ref:
    """LAYER := NAME, of the section `layers`"""
    return _one_name("LAYER", cursor, "name one of `layers`")


def _chords(cursor: Cursor) -> Ref:
    """CHORDS := chord {space chord}, to the end of the sentence"""
    if cursor.done:
        raise cursor.fault("which chord?", "write one such as ctrl+p")
    text, start, end = cursor.rest()
    try:
        keys = parse_keys(text)
    except SentenceError as fault:
        raise SentenceError(fault.message, start + fault.start, start + fault.end, fault.remedy) from fault
    return Ref("CHORDS", text, start, end, keys=keys)


def _word(kind: str, *words: str) -> Callable[[Cursor], Ref]:
    """Return a reader of one of these words."""

    def read(cursor: Cursor) -> Ref:
        if cursor.peek() not in words:
            near = did_you_mean(cursor.peek(), words, "", 0.75)
            raise cursor.fault(f"{cursor.peek()!r} means nothing here" if near else f"{either(words)} {MISSING}", near)
        word, start, end = cursor.word()
        return Ref(kind, word, start, end)

    return read


def _side(cursor: Cursor) -> Ref:
    """SIDE := left | right | up | down, or top | bottom, which are the same"""
    ref = _word("SIDE", *SIDES, "top", "bottom")(cursor)
    return ref._replace(name={"top": "up", "bottom": "down"}.get(ref.name, ref.name))


def _window(cursor: Cursor) -> Ref:
    """WINDOW := a window's id, as X tools write it"""
    found = cursor.take(_ID)
    if not found:
        raise cursor.fault("which window?", "write its id, such as 0x1a00003; `jaklet pick windows --print` shows them")
    return Ref("WINDOW", found.group(), found.start(), found.end())


_N: Final = re.compile(r"(\d{1,3})(?!\S)")
_ID: Final = re.compile(r"0x[0-9a-f]{1,8}(?!\S)|[0-9]{1,10}(?!\S)", re.IGNORECASE)
# A new slot is one entry here.
PLAIN_SLOTS: Final[Mapping[str, Callable[[Cursor], Ref]]] = {
    "APP": _app,
    "PLACE": _place,
    "LAYOUT": _layout,
    "NAME": _name,
    "SIDE": _side,
    "STEP": _word("STEP", "next", "previous"),
    "BACKWARDS": _word("BACKWARDS", "backwards"),
    "ALL": _word("ALL", "all"),
    "WINDOW": _window,
    "LAYER": _layer,
    "CHORDS": _chords,
    "LENGTH": _length,
    "SHARE": _share,
    "DISPLAY": _display,
    "N": _number,
    "SWITCH": _word("SWITCH", "on", "off"),
    "WAY": _word("WAY", "columns", "rows", "grid"),
}
# How the slots that stand for words are written.
WRITTEN: Final = {
    "SIDE": "left/right/up/down",
    "STEP": "next/previous",
    "BACKWARDS": "backwards",
    "ALL": "all",
    "SWITCH": "on/off",
    "WAY": "columns/rows/grid",
}
