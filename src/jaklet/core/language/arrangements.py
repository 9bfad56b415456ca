"""Arrangements as they are written: `columns`, `rows`, `grid`, `stack`, `one large left 2/3`."""

from typing import Final

from jaklet.core.language.cursor import Cursor
from jaklet.core.language.places import parse_length
from jaklet.core.values.arrangements import LARGE, PLAIN_FORMS, Arrangement
from jaklet.core.values.directions import SIDES
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.words import did_you_mean, either

ONE: Final = "one"
EXAMPLE: Final = f"{ONE} {LARGE} left 2/3"


def read_arrangement(cursor: Cursor) -> Arrangement:
    """arrangement := columns | rows | grid | stack | (one | N) large [SIDE [SHARE]]; raises `SentenceError`"""
    word = cursor.peek()
    remedy = f"write {either([*PLAIN_FORMS, EXAMPLE])}"
    if not word:
        raise cursor.fault("which arrangement?", remedy)
    if word in PLAIN_FORMS:
        cursor.word()
        return Arrangement(word)
    number = 1 if word == ONE else int(word) if word.isascii() and word.isdigit() and len(word) == 1 else 0
    if not number:
        raise cursor.fault(f"{word!r} is no arrangement", did_you_mean(word, PLAIN_FORMS, remedy))
    cursor.word()
    if not cursor.keyword(LARGE):
        raise cursor.fault(f"{LARGE!r} is missing here", f"write it like: {EXAMPLE}")
    if cursor.done:
        return Arrangement(LARGE, number)
    side = cursor.peek()
    if side not in SIDES:
        raise cursor.fault(f"{side!r} is no side", did_you_mean(side, SIDES, f"write {either(SIDES)}"))
    cursor.word()
    if cursor.done:
        return Arrangement(LARGE, number, side)
    at = cursor.at
    share = parse_length(cursor)
    if share.share is not None and not 0 < share.share < 1:
        raise SentenceError("nothing would be left for the others", at, cursor.at, "write less, such as 2/3")
    if not cursor.done:
        raise cursor.fault(f"{cursor.peek()!r} is too much here", f"write it like: {EXAMPLE}")
    return Arrangement(LARGE, number, side, share)


def parse_arrangement(text: str) -> Arrangement:
    """Return the arrangement of a whole text; raises `SentenceError`."""
    cursor = Cursor(text)
    found = read_arrangement(cursor)
    if not cursor.done:
        raise cursor.fault(f"{cursor.peek()!r} is too much here", "an arrangement ends before it")
    return found
