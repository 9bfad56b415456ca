"""The grammars of actions and conditions: forms of slots and words, and the telling fault where none fits."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import lru_cache
from typing import Final

from jaklet.core.language.cursor import MISSING, Cursor, MissingError
from jaklet.core.language.slots import WRITTEN
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.regexes import regex
from jaklet.core.values.sentences import Ref

Slots = Mapping[str, Callable[[Cursor], Ref]]
_PARTS: Final = regex(r"\[([^]]*)\]|(\S+)")
_SLOT: Final = regex("[A-Z]+")
LONG: Final = 4  # letters of a word from which on it can be a slip of another one


@lru_cache(200)
def forms_of(grammar: str) -> tuple[tuple[str, ...], ...]:
    """Return every form of a grammar, each a row of slots and words.

    Forms are parted by `;`. What stands in brackets may be left out; `|` parts slots of which one stands there.
    """
    forms: list[tuple[str, ...]] = []
    for form in grammar.split(";"):
        rows: list[tuple[str, ...]] = [()]
        for optional, part in _PARTS.findall(form):
            choices = [(choice,) for choice in part.split("|")] if part else [(), tuple(optional.split())]
            rows = [(*row, *choice) for row in rows for choice in choices]
        forms += rows
    return tuple(forms)


def read_form(form: Iterable[str], cursor: Cursor, slots: Slots) -> tuple[Ref, ...]:
    """Read what a form has, slot by slot; raises `SentenceError`."""
    refs: list[Ref] = []
    for slot in form:
        reader = slots.get(slot)
        if reader:
            refs.append(reader(cursor))
        elif not cursor.keyword(slot):
            raise cursor.missing(repr(slot), (slot,) if len(cursor.peek()) >= LONG else (), 0.7)
    return tuple(refs)


Fit = tuple[tuple[str, ...], tuple[Ref, ...]]  # a form, and what is named in its slots


def first_fit(grammar: str, cursor: Cursor, slots: Slots, ends: Iterable[str] = ()) -> Fit | None:
    """Read the first form that fits, to the end or up to one of the words `ends`; return it with what it names.

    None, with the cursor where it was, if none fits: `faults_of` tells why.
    """
    at, text = cursor.at, cursor.text.lower()
    for form, words in _with_words(grammar):
        if all(word in text for word in words):  # most forms have a word that is not there at all
            fit = _tried(form, cursor, slots, ends)
            if fit:
                return fit
            cursor.at = at
    return None


def faults_of(
    grammar: str, cursor: Cursor, slots: Slots, remedy: str, ends: Iterable[str] = (), whose: str = "here"
) -> Iterator[SentenceError]:
    """Yield the fault of each form, where none fits. `remedy`: of one that has too much behind it."""
    at = cursor.at
    for form in forms_of(grammar):
        try:
            if not _tried(form, cursor, slots, ends, raises=True):
                yield cursor.fault(f"{cursor.peek()!r} is too much {whose}", remedy)
        except SentenceError as fault:
            yield fault
        cursor.at = at


def _tried(
    form: tuple[str, ...], cursor: Cursor, slots: Slots, ends: Iterable[str], raises: bool = False
) -> Fit | None:
    try:
        refs = read_form(form, cursor, slots)
    except SentenceError:
        if raises:
            raise
        return None
    return (form, refs) if cursor.done or cursor.peek() in ends else None


@lru_cache(200)
def _with_words(grammar: str) -> tuple[tuple[tuple[str, ...], tuple[str, ...]], ...]:
    """Return every form, and the words in it that have to stand there."""
    return tuple((form, tuple(part for part in form if not part.isupper())) for form in forms_of(grammar))


def most_telling(faults: Iterable[SentenceError]) -> SentenceError:
    """Return the fault of the form that was meant most likely.

    A near miss of a known word; else the form that got furthest, and of those the last, which is the most general, but
    not one that only lacks a word of its own.
    """

    def telling(fault: SentenceError) -> tuple[bool, int, bool]:
        return fault.remedy.startswith("did you mean"), fault.start, not fault.message.endswith(MISSING)

    looked_into = [fault.looked_into() if isinstance(fault, MissingError) else fault for fault in faults]
    return max(reversed(looked_into), key=telling)


def written_form(form: str) -> str:
    """Return a form with the words that a slot stands for."""
    return _SLOT.sub(lambda slot: WRITTEN.get(slot[0], slot[0]), form.strip()).replace("|", "/")
