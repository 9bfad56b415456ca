"""The slots of actions' grammars: how an app, a place, a side or a number is read.

`ACTION` is read where the verbs are (`core.language.verbs`), as it can be any of them.
"""

import re
from collections.abc import Callable, Mapping
from typing import Final

from jaklet.core.language.cursor import NAME, Cursor
from jaklet.core.language.place_grammar import FORMS, parse_length, read_place
from jaklet.core.values.chords import parse_keys
from jaklet.core.values.directions import SIDES
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.kinds import ALL, KIND_NAMES
from jaklet.core.values.layouts import LAST, name_fault, number_of
from jaklet.core.values.regexes import regex
from jaklet.core.values.sentences import Name, Ref
from jaklet.core.values.sharings import PLAIN_FORMS, WAYS
from jaklet.core.values.words import either

MOST_WORKSPACES: Final = 36  # more than anybody has; a slip of the finger makes no hundred of them
# Words that sentences need for themselves, and which therefore cannot name an app or a place.
RESERVED: Final = frozenset(
    {
        *("last", "next", "previous", "backwards", "or", "all", "of", "on", "off", "window"),
        *("by", "to", "display", "workspace", "above", *SIDES, *FORMS),
        "others",
        *("front", "windows", "displays", "layout", "layer", "not", "and", "is", "up", "into", "none"),
    }
)


def name_problem(name: str) -> str:
    """Return why sentences could not use a name; empty if they can."""
    if not NAME.fullmatch(name):
        return f"{name!r} cannot be a name: it should be one word of letters, digits, - and _"
    return f"{name!r} cannot be a name: sentences need that word" if name.lower() in RESERVED else ""


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
    """N := a workspace's number, or its NAME, of the section `workspaces`"""
    found = cursor.take(_N)
    if not found:
        if cursor.done or cursor.peek() in RESERVED or cursor.peek().isdigit():
            raise cursor.fault("which workspace?", "write its number or name, next, previous or last")
        return _one_name("WORKSPACE", cursor, "name one of `workspaces`, or write its number")
    if not 1 <= int(found[1]) <= MOST_WORKSPACES:
        raise SentenceError(
            f"there is no workspace {found[1]}", found.start(1), found.end(1), f"count from 1 to {MOST_WORKSPACES}"
        )
    return Ref("N", found[1], found.start(1), found.end(1))


def _how_many(cursor: Cursor) -> Ref:
    """HOWMANY := one | 1 to 9"""
    word, start, end = cursor.word() if not cursor.done else ("", cursor.at, cursor.at + 1)
    number = 1 if word == "one" else int(word) if word in "123456789" and word else 0
    if not number:
        remedy = f"write {either([*PLAIN_FORMS, 'one large left 2/3', 'in left, right'])}"
        raise SentenceError(f"{word!r} is no form" if word else "which form?", start, end, remedy)
    return Ref("HOWMANY", word, start, end, amount=number)


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
    fault = None if number_of(name) is not None else name_fault(name)
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
        raise fault.moved(start) from fault
    return Ref("CHORDS", text, start, end, keys=keys)


def _time(cursor: Cursor) -> Ref:
    """TIME := 200ms | 1.5s | 2m | 1h"""
    found = cursor.take(_TIME)
    if not found:
        raise cursor.fault("how long?", "write a time such as 200ms, 10s or 5m")
    amount = float(found[1]) * UNITS[found[2].lower()]
    if amount > LONGEST:
        raise SentenceError("that is more than a day", found.start(), found.end(2), "write less")
    return Ref("TIME", found[0].strip(), found.start(), found.end(2), amount=amount)


def _text(cursor: Cursor) -> Ref:
    """TEXT := words in quotes, where an n or t behind a backslash is Enter or Tab; else all to the end"""
    if cursor.done:
        raise cursor.fault("which text?", 'write it in quotes: "Port Ellery"')
    quoted = cursor.take(_QUOTED)
    if quoted:
        start, end = quoted.span(1)
        inside = _ESCAPED.sub(lambda one: _MEANT.get(one[1], one[1]), quoted[3])
        if not inside:
            raise SentenceError("this text is empty", start, end, "write something between the quotes")
        return Ref("TEXT", inside, start, end)
    if cursor.text[cursor.at] in "\"'":
        fault = cursor.fault("this quote is not closed", "end the text with the same quote")
        fault.quote = cursor.text[cursor.at]
        raise fault
    _, start, end = cursor.rest()
    return Ref("TEXT", cursor.text[start:end], start, end)


def _macro(cursor: Cursor) -> Ref:
    """MACRO := NAME {NAME} ["with" NAME=VALUE {"," NAME=VALUE}], to the end of the sentence"""
    if cursor.done:
        raise cursor.fault("which macro?", "end with the name of a macro")
    _, start, end = cursor.rest()
    name, sign, given = cursor.text[start:end].partition(f" {WITH} ")
    arguments: list[tuple[str, str]] = []
    at = start + len(name) + len(f" {WITH} ")
    for one in given.split(",") if sign else ():
        key, equals, value = one.partition("=")
        if not (equals and NAME.fullmatch(key.strip()) and value.strip()):
            remedy = "write it like: run tile with app=ledger, side=left"
            raise SentenceError(f"{one.strip()!r} gives nothing a value", at, at + len(one), remedy)
        arguments.append((key.strip(), value.strip()))
        at += len(one) + 1
    name = name.rstrip()
    return Ref("MACRO", " ".join(name.split()), start, start + len(name), arguments=tuple(arguments))


def _layout_named(cursor: Cursor) -> Ref:
    """STANDING := a layout's name or number, up to `and`, `or`, `up`, `is` or the end"""
    start, words = cursor.at, list[str]()
    while not cursor.done and cursor.peek() not in _JOINTS:
        word_start = cursor.at
        _, _, end = cursor.word()
        words.append(cursor.text[word_start:end])
    if not words:
        raise cursor.fault("which layout?", "name one, or write none")
    name = " ".join(words)
    fault = None if number_of(name) is not None else name_fault(name)
    if fault:
        raise SentenceError(f"{name!r} is no layout's name: {fault}", start, end, "use a name such as departures")
    return Ref("LAYOUT", name, start, end)


def _compared(cursor: Cursor) -> Ref:
    """COMPARED := > | < | >= | <= | = and a number, or the number alone"""
    found = cursor.take(_COMPARED)
    if not found:
        raise cursor.fault("how many?", "compare with a number, such as > 1")
    return Ref("COMPARED", found[1] or "=", found.start(), found.end(2), amount=int(found[2]))


def _word(kind: str, *words: str) -> Callable[[Cursor], Ref]:
    """Return a reader of one of these words."""

    def read(cursor: Cursor) -> Ref:
        if cursor.peek() not in words:
            raise cursor.missing(either(words), words, 0.75)
        word, start, end = cursor.word()
        return Ref(kind, word, start, end)

    read.words = words  # type: ignore[attr-defined]  # what can be written there, for whoever completes it
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


def _cells(cursor: Cursor) -> Ref:
    """CELLS := columns x rows, such as 6x4, as many as there are letters and digits at most"""
    found = cursor.take(_CELLS)
    if not found:
        raise cursor.fault("how many cells?", "write columns and rows, such as 6x4")
    count = int(found[1]) * int(found[2])
    if not 1 <= count <= MOST_CELLS:
        raise SentenceError(
            f"{found[0]} are {count} cells, and each has a letter or a digit of its own",
            found.start(), found.end(2), f"write at most {MOST_CELLS}, such as 6x4",
        )  # fmt: skip
    return Ref("CELLS", f"{int(found[1])}x{int(found[2])}", found.start(), found.end(2))


_CELLS: Final = regex(r"(\d{1,2})x(\d{1,2})(?!\S)")
MOST_CELLS: Final = 36
_N: Final = regex(r"(\d{1,3})(?!\S)")
_TIME: Final = regex(r"(\d{1,6}(?:\.\d{1,3})?)\s*(ms|s|m|h)(?![^\s,])", re.IGNORECASE)
_QUOTED: Final = regex(r"((?P<quote>[\"'])((?:\\.|(?!(?P=quote)).)*)(?P=quote))", re.DOTALL)
_ESCAPED: Final = regex(r"\\(.)", re.DOTALL)
_MEANT: Final = {"n": "\n", "t": "\t"}
_COMPARED: Final = regex(r"(>=|<=|>|<|=)?\s*(\d{1,4})(?!\S)")
_JOINTS: Final = frozenset({"and", "or", "up", "is"})
UNITS: Final = {"ms": 0.001, "s": 1.0, "m": 60.0, "h": 3600.0}
LONGEST: Final = 24 * 3600.0  # seconds
WITH: Final = "with"
_ID: Final = regex(r"0x[0-9a-f]{1,8}(?!\S)|[0-9]{1,10}(?!\S)", re.IGNORECASE)
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
    "TIME": _time,
    "TEXT": _text,
    "MACRO": _macro,
    "STANDING": _layout_named,
    "COMPARED": _compared,
    "NONE": _word("NONE", "none"),
    "LENGTH": _length,
    "SHARE": _share,
    "DISPLAY": _display,
    "N": _number,
    "LAST": _word("LAST", LAST),
    "OFF": _word("OFF", "off"),
    "BACK": _word("BACK", "back"),
    "OTHERS": _word("OTHERS", "others"),
    "LARGEST": _word("LARGEST", "largest"),
    "PLAIN": _word("PLAIN", *PLAIN_FORMS),
    "HOWMANY": _how_many,
    "SWITCH": _word("SWITCH", "on", "off"),
    "LETTER": _word("LETTER", "letter"),
    "GRID": _word("GRID", "grid"),
    "CELLS": _cells,
    "KIND": _word("KIND", *KIND_NAMES, ALL),
    "HELD": _word("HELD", "held"),
    "WAY": _word("WAY", *WAYS),
}
# How the slots that stand for words are written.
WRITTEN: Final = {
    "SIDE": "left/right/up/down",
    "STEP": "next/previous",
    "BACKWARDS": "backwards",
    "ALL": "all",
    "LAST": LAST,
    "OFF": "off",
    "FORM": "columns/rows/grid/stack/halves/one large SIDE SHARE/in PLACE, PLACE",
    "BACK": "back",
    "OTHERS": "others",
    "LARGEST": "largest",
    "SWITCH": "on/off",
    "WAY": "/".join(WAYS),
    "LETTER": "letter",
    "GRID": "grid",
    "HELD": "held",
    "KIND": "/".join((*KIND_NAMES, ALL)),
}
