"""Actions as sentences: a verb, and what it names. The verbs are in `core.language.verbs`.

action := VERB form
"""

from functools import lru_cache
from typing import Final

from jaklet.core.language.conditions import read_condition
from jaklet.core.language.cursor import Cursor
from jaklet.core.language.grammar import Slots, faults_of, first_fit, most_telling, written_form
from jaklet.core.language.sharings import read_sharing
from jaklet.core.language.slots import PLAIN_SLOTS
from jaklet.core.language.verbs import VERBS, Verb, traits_of
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.sentences import Action, Ref
from jaklet.core.values.words import did_you_mean, either

KEPT: Final = 4096  # actions that are remembered by how they are written: many keys do the same
MOST_NESTED: Final = 4


def _action(cursor: Cursor) -> Ref:
    """ACTION := any action, to the end of the sentence"""
    start = cursor.at
    if cursor.depth + 1 > MOST_NESTED:
        raise cursor.fault("this says `or` too often", "one or two are enough")
    cursor.depth += 1
    try:
        action = _read(cursor)
    finally:
        cursor.depth -= 1
    if traits_of(action).by_key:
        raise SentenceError(
            f"{action.verb} can only stand by itself", start, len(cursor.text), "give it a key of its own"
        )
    end = len(cursor.text.rstrip())
    return Ref("ACTION", action.text, start, end, action=action)


def _condition(cursor: Cursor) -> Ref:
    """CONDITION := as `conditions.read_condition`"""
    start = cursor.at
    condition = read_condition(cursor)
    end = start + len(cursor.text[start : cursor.at].rstrip())
    return Ref("CONDITION", " ".join(cursor.text[start:end].split()), start, end, condition=condition)


def _form(cursor: Cursor) -> Ref:
    """FORM := as `sharings.read_sharing`, to the end of the sentence"""
    return read_sharing(cursor)


SLOTS: Final[Slots] = {**PLAIN_SLOTS, "ACTION": _action, "CONDITION": _condition, "FORM": _form}


@lru_cache(KEPT)
def parse_action(text: str) -> Action:
    """action := VERB form; raises `SentenceError` with the offsets of the word at fault."""
    return _read(Cursor(text))


def _read(cursor: Cursor) -> Action:
    if cursor.done:
        raise cursor.fault("an action is missing here", f"write one such as {next(iter(VERBS.values())).example}")
    begins = cursor.at
    word, start, end = cursor.word()
    verb = VERBS.get(word)
    if verb is None:
        remedy = did_you_mean(word, VERBS, f"actions begin with {either(list(VERBS))}")
        raise SentenceError(f"no action is called {word!r}", start, end, remedy, unknown=word)
    found = first_fit(verb.grammar, cursor, SLOTS)
    if found:
        return Action(verb.name, found[1], " ".join(cursor.text[begins:].split()))
    remedy = f"write it like: {action_usage(verb)}"
    worst = most_telling(faults_of(verb.grammar, cursor, SLOTS, remedy, whose=f"for {verb.name}"))
    if worst.remedy:
        raise worst
    raise SentenceError(worst.message, worst.start, worst.end, remedy)


def action_usage(verb: Verb) -> str:
    """Return how a verb is written, its forms joined by `or`."""
    return " or ".join(f"{verb.name} {written_form(form)}".strip() for form in verb.grammar.split(";"))
