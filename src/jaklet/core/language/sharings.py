"""Forms of sharing as they are written: `columns`, `rows`, `grid`, `stack`, `one large left 2/3`."""

from typing import Final

from jaklet.core.language.cursor import Cursor
from jaklet.core.language.places import parse_length
from jaklet.core.values.directions import SIDES
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.sharings import LARGE, PLAIN_FORMS, Sharing
from jaklet.core.values.words import did_you_mean, either

ONE: Final = "one"
EXAMPLE: Final = f"{ONE} {LARGE} left 2/3"


def read_sharing(cursor: Cursor) -> Sharing:
    """form := columns | rows | grid | stack | (one | N) large [SIDE [SHARE]]; raises `SentenceError`"""
    word = cursor.peek()
    remedy = f"write {either([*PLAIN_FORMS, EXAMPLE])}"
    if not word:
        raise cursor.fault("which form?", remedy)
    if word in PLAIN_FORMS:
        cursor.word()
        return Sharing(word)
    number = 1 if word == ONE else int(word) if word.isascii() and word.isdigit() and len(word) == 1 else 0
    if not number:
        raise cursor.fault(f"{word!r} is no form", did_you_mean(word, PLAIN_FORMS, remedy))
    cursor.word()
    if not cursor.keyword(LARGE):
        raise cursor.fault(f"{LARGE!r} is missing here", f"write it like: {EXAMPLE}")
    if cursor.done:
        return Sharing(LARGE, number)
    side = cursor.peek()
    if side not in SIDES:
        raise cursor.fault(f"{side!r} is no side", did_you_mean(side, SIDES, f"write {either(SIDES)}"))
    cursor.word()
    if cursor.done:
        return Sharing(LARGE, number, side)
    at = cursor.at
    share = parse_length(cursor)
    if share.share is not None and not 0 < share.share < 1:
        raise SentenceError("nothing would be left for the others", at, cursor.at, "write less, such as 2/3")
    if not cursor.done:
        raise cursor.fault(f"{cursor.peek()!r} is too much here", f"write it like: {EXAMPLE}")
    return Sharing(LARGE, number, side, share)


def parse_sharing(text: str) -> Sharing:
    """Return the form of a whole text; raises `SentenceError`."""
    cursor = Cursor(text)
    found = read_sharing(cursor)
    if not cursor.done:
        raise cursor.fault(f"{cursor.peek()!r} is too much here", "a form ends before it")
    return found
