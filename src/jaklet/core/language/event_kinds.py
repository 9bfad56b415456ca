"""Events as they are written: what happens on a desk, and may start an action.

An event is one entry in `EVENTS`, and what makes it happen: in `core.actions.desk_events`, or in the listener.
"""

from collections.abc import Mapping
from typing import Final, NamedTuple

from jaklet.core.language.cursor import Cursor
from jaklet.core.language.grammar import Slots, faults_of, first_fit, most_telling, written_form
from jaklet.core.language.slots import PLAIN_SLOTS
from jaklet.core.values.desk_abilities import Ability
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.sentences import Ref
from jaklet.core.values.words import either

OPENS, CLOSES, TITLE, FOCUS = "opens", "closes", "title", "focus"
SHOWN, SENT, CARRIED, HIDES, APPEARS = "shown", "sent", "carried", "hides", "appears"
COMES, GOES, STARTS, RECALLED, IDLE, CLOCK = "comes", "goes", "starts", "recalled", "idle", "clock"
DAY: Final = 24 * 3600.0  # seconds


class EventKind(NamedTuple):
    """One event: its grammar, help and example.

    `of`: the slot of what it is about, `to`: of where it moves to; empty for nothing.
    `needs`: what a desktop has to be able to do, so that it is told of; None for nothing.
    """

    grammar: str
    needs: Ability | None
    of: str
    help: str
    example: str
    to: str = ""


def _clock(cursor: Cursor) -> Ref:
    """CLOCK := HH:MM"""
    word, start, end = cursor.word()
    hours, sign, minutes = word.partition(":")
    fits = word.isascii() and len(hours) <= 2 and sign and hours.isdigit() and minutes.isdigit() and len(minutes) == 2
    if not fits or int(hours) > 23 or int(minutes) > 59:
        raise SentenceError(f"{word!r} is no time of day", start, max(end, start + 1), "write one such as 08:30")
    return Ref("CLOCK", f"{int(hours):02}:{minutes}", start, end, amount=int(hours) * 3600.0 + int(minutes) * 60)


SLOTS: Final[Slots] = {**PLAIN_SLOTS, "CLOCK": _clock}
EVENTS: Final[Mapping[str, EventKind]] = {
    OPENS: EventKind("window [of APP] opens", Ability.SEE, "APP", "a window came", "window of radio opens"),
    CLOSES: EventKind("window [of APP] closes", Ability.SEE, "APP", "a window is gone", "window of letters closes"),
    TITLE: EventKind(
        "title of APP changes", Ability.SEE, "APP", "a window of it is called something else", "title of charts changes"
    ),
    FOCUS: EventKind("focus moves [to APP]", Ability.SEE, "APP", "another window is in front", "focus moves to ledger"),
    SHOWN: EventKind("workspace [N] is shown", Ability.WORKSPACES, "N", "another is in view", "workspace 2 is shown"),
    SENT: EventKind(
        "window [of APP] moves to workspace N",
        Ability.WORKSPACES,
        "APP",
        "it was sent there",
        "window of letters moves to workspace 2",
        "N",
    ),
    CARRIED: EventKind(
        "window [of APP] moves to display DISPLAY",
        Ability.SEE,
        "APP",
        "most of it is there now",
        "window of charts moves to display quay",
        "DISPLAY",
    ),
    HIDES: EventKind(
        "window [of APP] is minimised", Ability.SEE, "APP", "it went out of view", "window of radio is minimised"
    ),
    APPEARS: EventKind(
        "window [of APP] is shown", Ability.SEE, "APP", "it is no longer minimised", "window of radio is shown"
    ),
    COMES: EventKind("display [DISPLAY] comes", None, "DISPLAY", "a display was connected", "display quay comes"),
    GOES: EventKind("display [DISPLAY] goes", None, "DISPLAY", "a display is gone", "display quay goes"),
    STARTS: EventKind("listener starts", None, "", "the listener was started", "listener starts"),
    RECALLED: EventKind(
        "layout [STANDING] is recalled", None, "LAYOUT", "a recall is done", "layout departures is recalled"
    ),
    IDLE: EventKind("idle for TIME", Ability.IDLE, "", "no key and no pointer was used for so long", "idle for 10m"),
    CLOCK: EventKind("at CLOCK", None, "", "a time of day", "at 08:30"),
}


class WrittenEvent(NamedTuple):
    """An event as it is written: which, and what it names."""

    kind: str
    refs: tuple[Ref, ...]
    text: str


def parse_event(text: str) -> WrittenEvent:
    """event := as `EVENTS` says; raises `SentenceError`."""
    for kind, event in EVENTS.items():
        found = first_fit(event.grammar, Cursor(text), SLOTS)
        if found:
            return WrittenEvent(kind, found[1], " ".join(text.split()))
    worst = most_telling(
        fault
        for event in EVENTS.values()
        for fault in faults_of(event.grammar, Cursor(text), SLOTS, f"write: {written_form(event.grammar)}")
    )
    if worst.remedy and worst.start > 0:
        raise worst
    known = either([event.example for event in EVENTS.values()])
    plain = text.strip()
    start = text.index(plain) if plain else 0
    raise SentenceError(f"{plain!r} is no event", start, start + len(plain), f"events are such as {known}")
