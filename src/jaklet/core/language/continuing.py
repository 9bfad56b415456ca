"""How an action that is half written can go on, word by word, from the grammars of the verbs."""

from collections.abc import Iterable, Iterator, Mapping
from typing import Final

from jaklet.core.language.actions import MOST_NESTED, SLOTS
from jaklet.core.language.cursor import Cursor
from jaklet.core.language.grammar import forms_of
from jaklet.core.language.place_grammar import FORMS
from jaklet.core.language.verbs import VERBS
from jaklet.core.values.directions import SIDES
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.sharings import PLAIN_FORMS

Names = Mapping[str, Iterable[str]]  # by kind: app, place, display, layout, layer, macro, workspace
# What can stand for a slot beside its own words: kinds of names, and words.
_NAMES: Final[Mapping[str, tuple[str, ...]]] = {
    "APP": ("app",), "PLACE": ("place",), "LAYOUT": ("layout",), "NAME": ("layout",), "STANDING": ("layout",),
    "LAYER": ("layer",), "MACRO": ("macro",), "DISPLAY": ("display",), "N": ("workspace",),
}  # fmt: skip
_WORDS: Final[Mapping[str, tuple[str, ...]]] = {
    "PLACE": (*SIDES[:2], "top", "bottom", *FORMS), "SIDE": (*SIDES,), "LAYOUT": ("last", "home"),
    "FORM": (*PLAIN_FORMS, "one", "in"),
}  # fmt: skip


def split_at_word(text: str) -> tuple[str, str]:
    """Return the text before the word that is being written, with its space, and that word."""
    said, space, word = text.rpartition(" ")
    return said + space, word


def continuations(text: str, names: Names) -> list[str]:
    """Return the words that can come next. `text`: what stands there, without the word that is being written."""
    return list(dict.fromkeys(_next(text, names, 0)))


def _next(text: str, names: Names, depth: int) -> Iterator[str]:
    cursor = Cursor(text)
    if cursor.done:
        yield from VERBS
        return
    verb = VERBS.get(cursor.word()[0])
    if verb is None or depth > MOST_NESTED:
        return
    begins = cursor.at
    for form in forms_of(verb.grammar):
        cursor.at = begins
        for slot in form:
            if cursor.done:
                yield from _proposed(slot, names)
                break
            if slot == "ACTION":
                yield from _next(cursor.text[cursor.at :], names, depth + 1)
                break
            try:
                if slot in SLOTS:
                    SLOTS[slot](cursor)
                elif not cursor.keyword(slot):
                    break
            except SentenceError:
                break


def _proposed(slot: str, names: Names) -> Iterator[str]:
    if slot not in SLOTS:
        yield slot
        return
    yield from getattr(SLOTS[slot], "words", ())
    for kind in _NAMES.get(slot, ()):
        yield from names.get(kind, ())
    yield from _WORDS.get(slot, ())
    if slot == "ACTION":
        yield from VERBS
