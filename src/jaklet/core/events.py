"""Events: what happens on a desk and may start an action; and what actions make happen, so that circles are seen.

An event is one entry in `EVENTS`: how it is written, and what it is matched with.
"""

from collections.abc import Callable, Iterator, Mapping
from typing import Final, NamedTuple

from jaklet.core.config import Config
from jaklet.core.cursor import Cursor
from jaklet.core.desk import Desk, Window
from jaklet.core.errors import SentenceError
from jaklet.core.grammar import Slots, first_fit, most_telling, written
from jaklet.core.macros.steps import Parse, actions_in, steps_of
from jaklet.core.on import On
from jaklet.core.sentences import Action, Ref
from jaklet.core.slots import PLAIN_SLOTS
from jaklet.core.words import either

OPENS, CLOSES, TITLE, FOCUS = "opens", "closes", "title", "focus"
COMES, GOES, STARTS, RECALLED, IDLE, CLOCK = "comes", "goes", "starts", "recalled", "idle", "clock"
DAY: Final = 24 * 3600.0  # seconds
DEEPEST: Final = 20  # macros within macros, when their effects are looked for


class Happening(NamedTuple):
    """Something that happened: which event, of what (an app, display or layout), and the window that it is about."""

    kind: str
    name: str = ""
    window: int | None = None


class Effect(NamedTuple):
    """What an action can make happen; a name of None stands for any."""

    kind: str
    name: str | None = None


class Kind(NamedTuple):
    """One event: its grammar, help and example. `of`: the slot of what it is about, empty for nothing."""

    grammar: str
    of: str
    help: str
    example: str


def _clock(cursor: Cursor) -> Ref:
    """CLOCK := HH:MM"""
    word, start, end = cursor.word()
    hours, sign, minutes = word.partition(":")
    fits = word.isascii() and len(hours) <= 2 and sign and hours.isdigit() and minutes.isdigit() and len(minutes) == 2
    if not fits or int(hours) > 23 or int(minutes) > 59:
        raise SentenceError(f"{word!r} is no time of day", start, max(end, start + 1), "write one such as 08:30")
    return Ref("CLOCK", f"{int(hours):02}:{minutes}", start, end, amount=int(hours) * 3600.0 + int(minutes) * 60)


SLOTS: Final[Slots] = {**PLAIN_SLOTS, "CLOCK": _clock}
# A new event is one entry here, and what makes it happen in `happened` or in the listener.
EVENTS: Final[Mapping[str, Kind]] = {
    OPENS: Kind("window [of APP] opens", "APP", "a window came", "window of radio opens"),
    CLOSES: Kind("window [of APP] closes", "APP", "a window is gone", "window of letters closes"),
    TITLE: Kind("title of APP changes", "APP", "a window of it is called something else", "title of charts changes"),
    FOCUS: Kind("focus moves [to APP]", "APP", "another window is in front", "focus moves to ledger"),
    COMES: Kind("display [DISPLAY] comes", "DISPLAY", "a display was connected", "display quay comes"),
    GOES: Kind("display [DISPLAY] goes", "DISPLAY", "a display is gone", "display quay goes"),
    STARTS: Kind("listener starts", "", "the listener was started", "listener starts"),
    RECALLED: Kind("layout [STANDING] is recalled", "LAYOUT", "a recall is done", "layout departures is recalled"),
    IDLE: Kind("idle for TIME", "", "no key and no pointer was used for so long", "idle for 10m"),
    CLOCK: Kind("at CLOCK", "", "a time of day", "at 08:30"),
}


class Heard(NamedTuple):
    """An event as it is written: which, and what it names."""

    kind: str
    refs: tuple[Ref, ...]
    text: str


def parse_event(text: str) -> Heard:
    """event := as `EVENTS` says; raises `SentenceError`."""
    faults = list[SentenceError]()
    for kind, event in EVENTS.items():
        found = first_fit(event.grammar, Cursor(text), SLOTS, faults, f"write: {written(event.grammar)}")
        if found:
            return Heard(kind, found[1], " ".join(text.split()))
    worst = most_telling(faults)
    if worst.remedy and worst.start > 0:
        raise worst
    known = either([event.example for event in EVENTS.values()])
    plain = text.strip()
    start = text.index(plain) if plain else 0
    raise SentenceError(f"{plain!r} is no event", start, start + len(plain), f"events are such as {known}")


def happened(before: Desk, now: Desk, config: Config) -> Iterator[Happening]:
    """Yield what happened between two looks at a desk."""
    claims = config.claims
    if before.windows is not now.windows:
        for window in now.windows:
            former = before.by_id.get(window.id)
            if former is None:
                yield Happening(OPENS, claims.app_of(window, now) or "", window.id)
            elif former.title != window.title:
                yield Happening(TITLE, claims.app_of(window, now) or "", window.id)
        for window in before.windows:
            if window.id not in now.by_id:
                yield Happening(CLOSES, claims.app_of(window, before) or "")
    if before.active != now.active and now.active is not None:
        front = now.by_id.get(now.active)
        yield Happening(FOCUS, _app(front, now, config), now.active)
    if before.displays != now.displays:
        were, are = ({config.role_of(display) for display in desk.displays} for desk in (before, now))
        yield from (Happening(COMES, name) for name in sorted(are - were))
        yield from (Happening(GOES, name) for name in sorted(were - are))


def _app(window: Window | None, desk: Desk, config: Config) -> str:
    return (config.claims.app_of(window, desk) or "") if window else ""


def answers(on: On, happening: Happening) -> bool:
    """Return whether what happened is what an entry waits for; `idle` and `at` are asked of the clock instead."""
    if on.kind != happening.kind:
        return False
    wanted = next((ref.name for ref in on.refs if ref.kind == EVENTS[on.kind].of), None)
    return wanted is None or wanted == happening.name


ANYTHING: Final = tuple(Effect(kind) for kind in (OPENS, CLOSES, TITLE, FOCUS))
_OWN: Final[Mapping[str, Callable[[str | None], tuple[Effect, ...]]]] = {
    "go": lambda app: (Effect(OPENS, app), Effect(FOCUS, app)),
    "launch": lambda app: (Effect(OPENS, app), Effect(FOCUS, app)),
    "focus": lambda app: (Effect(FOCUS, app),),
    "close": lambda app: (Effect(CLOSES, app), Effect(FOCUS)),
    "kill": lambda app: (Effect(CLOSES, app), Effect(FOCUS)),
    "minimise": lambda _app: (Effect(FOCUS),),
    "workspace": lambda _app: (Effect(FOCUS),),
    "sweep": lambda _app: (Effect(CLOSES), Effect(FOCUS)),
    # What a program makes of keys, and a command of a shell, cannot be known.
    "press": lambda _app: ANYTHING,
    "type": lambda _app: ANYTHING,
    "shell": lambda _app: ANYTHING,
}


def effects(action: Action, config: Config, parse: Parse, depth: int = 0) -> frozenset[Effect]:
    """Return what an action, and those in it, can make happen. `parse`: reads an action."""
    found: set[Effect] = set()
    for one in action.every():
        if one.verb == "recall":
            layout = one.named("LAYOUT")
            found |= {*ANYTHING[:2], Effect(FOCUS), Effect(RECALLED, _layout(layout))}
        elif one.verb in _OWN:
            app = one.named("APP")
            found |= {*_OWN[one.verb](app.name if app else None)}
        macro = config.macros.get(one.refs[0].name) if one.verb == "run" else None
        if macro and depth < DEEPEST:
            try:
                steps = steps_of(macro, one.refs[0].arguments, parse)
            except SentenceError:
                continue
            for inner in actions_in(steps):
                found |= effects(inner, config, parse, depth + 1)
    return frozenset(found)


def _layout(ref: Ref | None) -> str | None:
    """Return the name of a layout, None where it is said by number, or as the last one."""
    return None if ref is None or ref.name.isdigit() or ref.name in ("last", "home") else ref.name


def leads_to(made: frozenset[Effect], on: On) -> bool:
    """Return whether what an action makes happen is what an entry waits for."""
    return any(answers(on, Happening(one.kind, one.name or "")) or _any(one, on) for one in made)


def _any(effect: Effect, on: On) -> bool:
    return effect.name is None and effect.kind == on.kind


def circle_of(start: On, config: Config, parse: Parse) -> tuple[On, ...]:
    """Return the shortest way on which an entry leads back to itself; empty if there is none."""
    made = {on: effects(on.action, config, parse) for on in config.events}
    ways: list[tuple[On, ...]] = [(start,)]
    seen = {start}
    while ways:
        way = ways.pop(0)
        for on in config.events:
            if not leads_to(made[way[-1]], on):
                continue
            if on == start:
                return way
            if on not in seen:
                seen.add(on)
                ways.append((*way, on))
    return ()
