"""Layouts: a saved, named arrangement of windows for a task, as values."""

from collections.abc import Iterable, Mapping
from fractions import Fraction
from types import MappingProxyType
from typing import Final, NamedTuple

from jaklet.core.values.desk import WindowShape
from jaklet.core.values.places import Place
from jaklet.core.values.sentences import Action
from jaklet.core.values.sharings import Sharing
from jaklet.core.values.words import did_you_mean, listed

MAX_NAME: Final = 60
LAST, HOME = "last", "home"  # what `recall` understands beside names and numbers

PLACE, WORKSPACE, ORDER, FOCUS, STATE = "place", "workspace", "order", "focus", "state"
PARTS: Final = (PLACE, WORKSPACE, ORDER, FOCUS, STATE)
ALL_PARTS: Final = frozenset(PARTS)

# What becomes of an entry whose window is not there.
LAUNCH, WAIT, SKIP = "launch", "wait", "skip"
MISSING: Final = (LAUNCH, WAIT, SKIP)

LEAVE, MINIMISE, CLOSE, SEND = "leave", "minimise", "close", "workspace"


class LayoutEntry(NamedTuple):
    """One window of a layout. It is known by its app, or by its class where no app claims it.

    `title` (which may be a pattern), `role` and `nth` tell windows of one app apart, `nth` counting them from 1 in the
    order in which they opened. `place` carries its display; None: it stays where it is. `workspace`: its number, or
    name; None: on all.
    `missing`: what becomes of it where it is not open. `after`: what is done with the window once it stands.
    """

    app: str | None
    cls: str | None
    title: str | None
    place: Place | None
    workspace: "Where | None" = 1
    shape: WindowShape = WindowShape.NORMAL
    minimised: bool = False
    above: bool = False
    role: str | None = None
    nth: int | None = None
    missing: str = LAUNCH
    after: tuple[Action, ...] = ()

    @property
    def label(self) -> str:
        """What the entry is called in messages and in `focus`."""
        return self.app or self.cls or "?"

    @property
    def display(self) -> str | None:
        """The display that it names."""
        return self.place.display if self.place else None


Where = int | str  # a workspace by its number, or by its name of the config


class SharedDisplay(NamedTuple):
    """How windows of a layout share a display, as others come and go.

    `order`: indices of entries; `shares`: what each has beside the others, empty where all have the same.
    """

    display: str
    form: Sharing
    order: tuple[int, ...]
    shares: tuple[Fraction, ...] = ()
    workspace: Where = 1

    def __str__(self) -> str:
        return f"{self.form} on {self.display}"


class OtherWindows(NamedTuple):
    """What becomes of windows in view that are not in a layout. `workspace`: where they are sent to, if they are."""

    what: str
    workspace: Where = 0

    def __str__(self) -> str:
        return f"{self.what} {self.workspace}" if self.what == SEND else self.what


class Arrangement(NamedTuple):
    """Windows from front to back on one set of displays; `focus` is an index into them.

    `arranged`: displays that windows share.
    `displays`: name to whole rectangle as text, such as `1920x1080+0+0`; empty: for whatever displays there are.
    """

    displays: Mapping[str, str] = MappingProxyType({})
    workspace: Where = 1
    focus: int | None = None
    entries: tuple[LayoutEntry, ...] = ()
    arranged: tuple[SharedDisplay, ...] = ()


class Layout(NamedTuple):
    """Windows from front to back, on the displays that they were saved on; `focus` is an index into them.

    `holds`: which of `PARTS` it sets; the rest of the desk stays as it is. `others`: None where nothing is said.
    `absent`: apps that must not be in view. `home`: it is the one to return to. `base`: the layout that it builds on.
    `only_on`: what other displays show is none of its business. `variants`: what it is on other sets of displays.
    """

    name: str
    number: int | None = None
    note: str = ""
    workspace: Where = 1
    focus: int | None = None
    displays: Mapping[str, str] = MappingProxyType({})
    entries: tuple[LayoutEntry, ...] = ()
    holds: frozenset[str] = ALL_PARTS
    others: OtherWindows | None = None
    absent: tuple[str, ...] = ()
    home: bool = False
    base: str | None = None
    only_on: tuple[str, ...] = ()
    variants: tuple[Arrangement, ...] = ()
    arranged: tuple[SharedDisplay, ...] = ()

    @property
    def launches(self) -> bool:
        """True if it brings windows to a place or a state: only then is what is missing launched."""
        return bool(self.holds & {PLACE, STATE})

    @property
    def arrangement(self) -> Arrangement:
        """The arrangement that stands first."""
        return Arrangement(self.displays, self.workspace, self.focus, self.entries, self.arranged)

    @property
    def arrangements(self) -> tuple[Arrangement, ...]:
        """All arrangements, each for another set of displays."""
        return (self.arrangement, *self.variants)

    def as_on(self, chosen: Arrangement) -> "Layout":
        """Return this layout with one of its arrangements alone."""
        return self._replace(**chosen._asdict(), variants=())

    @property
    def rule(self) -> OtherWindows:
        """What becomes of other windows: where it is whole, and has no windows of its own, it clears the desk."""
        return self.others or OtherWindows(LEAVE if self.entries or self.holds != ALL_PARTS else MINIMISE)


class PastVersion(NamedTuple):
    """A version of a layout: its number (None: the one that is in use), when it was replaced, and what it says."""

    number: int | None
    saved: str
    layout: Layout | None


def label_ranks(entries: Iterable[LayoutEntry]) -> list[int]:
    """Return for each entry which one of its label it is, counted from 1."""
    seen: dict[str, int] = {}
    found = []
    for entry in entries:
        seen[entry.label] = seen.get(entry.label, 0) + 1
        found.append(seen[entry.label])
    return found


def names_of(entries: tuple[LayoutEntry, ...]) -> list[str]:
    """Return the names of the entries; those that share a label have their rank, too."""
    return [
        entry.label if rank == 1 else f"{entry.label} {rank}"
        for entry, rank in zip(entries, label_ranks(entries), strict=True)
    ]


MOST_DIGITS: Final = 9


def name_fault(name: str) -> str | None:
    """Return the fault in a layout's name, which is also its file's; None if there is none."""
    if not name:
        return "the name is missing"
    if len(name) > MAX_NAME:
        return f"the name is longer than {MAX_NAME} characters"
    if name.isdigit():
        return "a number alone is not a name, as digits recall by number"
    if name == LAST or name != " ".join(name.split()):
        return "that name is taken for something else" if name == LAST else "the name has space at an end"
    wrong = sorted({c for c in name if not (c.isalnum() or c in " -_.")})
    if wrong:
        return f"a name is made of letters, digits, spaces, - _ and ., not {listed([repr(c) for c in wrong])}"
    return "the name begins with a dot" if name.startswith(".") else None


def no_such_name(name: str, fault: str) -> tuple[str, str]:
    """Return the message for a name that no layout can have: the fault, and the remedy."""
    return f"{name!r} cannot be a layout's name: {fault}", "use a name such as departures"


def number_of(word: str) -> int | None:
    """Return the number that a word is, None for any other word: digits of other scripts and long rows are none."""
    return int(word) if word.isascii() and word.isdigit() and len(word) <= MOST_DIGITS else None


def no_such_layout(word: str, names: Iterable[str]) -> tuple[str, str]:
    """Return the message for a name or number that no layout has: the fault, and the remedy."""
    if number_of(word) is not None:
        return f"no layout has number {word}", f"save one with: jaklet layout save NAME --number {word}"
    if word == HOME:
        return "no layout is the one to return to", "write `home: true` in one of them"
    typed = f'"{word}"' if " " in word else word
    return f"no layout is called {word!r}", did_you_mean(word, names, f"save one with: jaklet layout save {typed}")
