"""The rules that need the whole configuration. Each takes it and yields findings; a new one is one entry in `RULES`."""

from collections.abc import Callable, Iterable, Iterator
from typing import Final, NamedTuple, Protocol

from jaklet.config.build import Reading
from jaklet.core.chords import Chord
from jaklet.core.findings import Finding, finding
from jaklet.core.layouts import no_such_layout
from jaklet.core.places import unknown_place
from jaklet.core.spans import Spot
from jaklet.core.words import did_you_mean, either, nearest


class Programs(Protocol):
    """Which programs there are to launch."""

    def has(self, program: str) -> bool:
        """True if this program can be launched."""
        ...

    def names(self) -> Iterable[str]:
        """Return the names of all that can."""
        ...


class Case(NamedTuple):
    """What a rule may look at."""

    reading: Reading
    programs: Programs


def chord_twice(case: Case) -> Iterator[Finding]:
    """JK203: the same chord bound twice, however it is spelt."""
    first: dict[Chord, tuple[Spot, str]] = {}
    for chord, spot, action in case.reading.chords:
        there, bound = first.setdefault(chord, (spot, action))
        if there != spot:
            yield finding("JK203", spot, ((there, "bound here first"),), chord=str(chord), action=bound)


def unknown_names(case: Case) -> Iterator[Finding]:
    """JK302 to JK305: apps, places, displays and layouts that are named and not defined."""
    reading = case.reading
    config = reading.config
    layouts = {*reading.layouts, *(str(number) for number in reading.layouts.values() if number is not None)}
    # A layout that a key saves can come to be at any time, so that the key to recall it is no mistake.
    layouts |= {ref.name for binding in reading.bindings if (ref := binding.action.named("NAME"))}
    for kind, name, spot in reading.mentions:
        if (kind, name) in reading.spots or f"{kind}s" in reading.broken:
            continue  # a section that does not parse may well define it
        match kind:
            case "app":
                yield finding("JK302", spot, name=name, remedy=_remedy(name, config.apps, "apps"))
            case "place":
                problem = f"no place is called {name!r}"
                yield finding("JK303", spot, problem=problem, remedy=unknown_place(name, config.places))
            case "display":
                yield finding("JK304", spot, name=name, remedy=_remedy(name, config.displays, "displays"))
            case _:
                if name in layouts:
                    continue
                problem, remedy = no_such_layout(name, reading.layouts)
                yield finding("JK305", spot, problem=problem, remedy=remedy)


def _remedy(name: str, known: Iterable[str], section: str) -> str:
    names = sorted(known)
    otherwise = f"add it to `{section}`, or use {either(names)}" if names else f"add it to `{section}`"
    return did_you_mean(name, names, otherwise)


def program_not_found(case: Case) -> Iterator[Finding]:
    """JK401: a launch command that is not on PATH."""
    for program, spot in case.reading.commands:
        if case.programs.has(program):
            continue
        # PATH holds thousands of names, so that something is always a little alike.
        near = nearest(program, case.programs.names(), likeness=0.75)
        remedy = f"did you mean {either(near)}?" if near else "install it, or write its whole path"
        yield finding("JK401", spot, program=program, remedy=remedy)


def same_windows(case: Case) -> Iterator[Finding]:
    """JK402: two apps whose rules are the same, so that neither can have the window."""
    first: dict[tuple[tuple[str, str], ...], str] = {}
    for name, app in case.reading.config.apps.items():
        if not all(value for _, value in app.rule.parts):
            continue
        other = first.setdefault(app.rule.parts, name)
        if other != name:
            spot = case.reading.spots["app", name]
            also = ((case.reading.spots["app", other], f"{other} is here"),)
            yield finding("JK402", spot, also, app=name, other=other, rule=str(app.rule))


RULES: Final[tuple[Callable[[Case], Iterator[Finding]], ...]] = (
    chord_twice,
    unknown_names,
    program_not_found,
    same_windows,
)
