"""Which desks there are here, what each is called, and how it is opened: all that `--desk` and the environment mean.

A new kind of desk is one entry in `KINDS`, and one in `jaklet.locations.HERE` if the environment tells of it.
"""

import os
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Final, NamedTuple

from jaklet.core.values.errors import DeskError, UsageError
from jaklet.core.values.words import either, listed
from jaklet.locations import (
    GNOME,
    PLASMA,
    X11,
    gnome_here,
    gnome_listener,
    no_listener,
    plasma_here,
    plasma_listener,
    unknown_session,
    x11_here,
    x11_listener,
)

if TYPE_CHECKING:
    from jaklet.core.actions.ports.desktop import Desktop
    from jaklet.core.actions.ports.surface import Surface
    from jaklet.core.values.desk_abilities import Abilities

TABLETOP: Final = "tabletop"
OF_X_ALONE: Final = "programs of X alone are seen and heard"


class Address(NamedTuple):
    """A desk that can be opened. `where`: the X server's display, or the file of a tabletop."""

    kind: str
    where: str

    @property
    def file(self) -> Path | None:
        """The file of a simulated desk; None for a real one."""
        return Path(self.where) if self.kind == TABLETOP else None

    @property
    def listener(self) -> str:
        """The name under which its listener is found; empty where no keys are heard."""
        return KINDS[self.kind].listener(self.where)

    def limits(self) -> str:
        """Return the limits that this session sets to the desk, in words; empty for none."""
        limits = KINDS[self.kind].limits
        return limits(os.environ) if limits else ""

    def open(self, state: Callable[[], Path]) -> "Desktop":
        """Open it; raises `DeskError`. `state`: returns the folder for what is to last."""
        return KINDS[self.kind].open(self.where, state)

    def grants(self) -> Iterable[str]:
        """Yield lines on what its user can let Jaklet do besides."""
        told = KINDS[self.kind].grants
        return told() if told else ()

    def tidy(self, state: Callable[[], Path]) -> Iterable[str]:
        """Give back what a listener has left behind that was killed; yield lines that say what. None may run."""
        tidy = KINDS[self.kind].tidy
        return tidy(state) if tidy else ()

    def left(self, state: Callable[[], Path]) -> Iterable[str]:
        """Yield lines on what a listener has left behind that was killed."""
        left = KINDS[self.kind].left
        return left(state) if left else ()

    def surface(self) -> "Surface":
        """Return the command of the overlay for a desk; raises `DeskError`."""
        show = KINDS[self.kind].surface
        if show is None:
            raise DeskError("nothing can be shown over the windows of this desk")
        return show()

    @property
    def abilities(self) -> "Abilities":
        """What one of its kind can do at the most, as far as that is known before it is opened."""
        return KINDS[self.kind].abilities()


class DeskKind(NamedTuple):
    """A kind of desk: what it is, and how it is written.

    `here`: where one is in this environment, empty for nowhere, which `missing` explains; None for one in a file.
    `abilities`: what one can do at the most. `surface`: what shows things over its windows; None for nothing.
    `grants`: lines on what its user can let Jaklet do besides. `tidy`: gives back what a listener has left behind that
    was killed, and says so; `left`: says what is left behind still. `limits`: those that a session sets, in words.
    `set_up`: does what is needed once, and `take_out` undoes that; both say what they did. None: nothing is needed.
    """

    help: str
    written: str
    here: Callable[[Mapping[str, str]], str] | None
    missing: str
    listener: Callable[[str], str]
    open: Callable[[str, Callable[[], Path]], "Desktop"]
    abilities: Callable[[], "Abilities"]
    surface: "Callable[[], Surface] | None" = None
    grants: Callable[[], Iterable[str]] | None = None
    tidy: Callable[[Callable[[], Path]], Iterable[str]] | None = None
    left: Callable[[Callable[[], Path]], Iterable[str]] | None = None
    limits: Callable[[Mapping[str, str]], str] | None = None
    set_up: Callable[[], Iterable[str]] | None = None
    take_out: Callable[[], Iterable[str]] | None = None


def _x11_limits(environment: Mapping[str, str]) -> str:
    is_inside = environment.get("XDG_SESSION_TYPE") == "wayland"
    return f"this is the X server of a session on Wayland: {OF_X_ALONE}" if is_inside else ""


def _x11(where: str, state: Callable[[], Path]) -> "Desktop":
    from jaklet.desktops.x11 import connect

    return connect(where, state)


def _x11_abilities() -> "Abilities":
    from jaklet.desktops.x11.abilities import KEYS, MOST

    return MOST | KEYS


def _x11_surface() -> "Surface":
    from jaklet.desktops.xcb_library import loading_xcb

    with loading_xcb():
        from jaklet.desktops.x11.surface import X11Surface

    return X11Surface()


def _wayland_surface() -> "Surface":
    from jaklet.desktops.wayland.surface import WaylandSurface

    return WaylandSurface()


def _tabletop_abilities() -> "Abilities":
    from jaklet.core.values.desk_abilities import EVERY

    return EVERY


def _tabletop(where: str, _state: Callable[[], Path]) -> "Desktop":
    from jaklet.desktops.tabletop.desktop import Tabletop

    return Tabletop.open(Path(where))


def _plasma(_where: str, state: Callable[[], Path]) -> "Desktop":
    from jaklet.desktops.plasma import connect

    return connect(state)


def _plasma_grants() -> Iterable[str]:
    from jaklet.desktops.plasma.grants import grant_lines

    return grant_lines()


def _plasma_left(state: Callable[[], Path]) -> Iterable[str]:
    from jaklet.desktops.plasma.leftovers import left_behind

    return left_behind(state)


def _plasma_tidied(state: Callable[[], Path]) -> Iterable[str]:
    from jaklet.desktops.plasma.leftovers import given_back

    return given_back(state)


def _plasma_abilities() -> "Abilities":
    from jaklet.desktops.plasma.abilities import abilities_here

    return abilities_here()


def _gnome(_where: str, state: Callable[[], Path]) -> "Desktop":
    from jaklet.desktops.gnome import connect

    return connect(state)


def _gnome_abilities() -> "Abilities":
    from jaklet.desktops.gnome.abilities import KEYS, MOST_OF_GNOME

    return MOST_OF_GNOME | KEYS


def _gnome_surface() -> "Surface":
    from jaklet.desktops.gnome.surface import GnomeSurface

    return GnomeSurface()


def _gnome_state() -> Iterable[str]:
    from jaklet.desktops.gnome.set_up import state_lines

    return state_lines()


def _gnome_left(state: Callable[[], Path]) -> Iterable[str]:
    from jaklet.desktops.gnome.shortcuts import left_behind, lent_file

    return left_behind(lent_file(state))


def _gnome_tidied(state: Callable[[], Path]) -> Iterable[str]:
    from jaklet.desktops.gnome.shortcuts import given_back, lent_file

    return given_back(lent_file(state))


def _gnome_set_up() -> Iterable[str]:
    from jaklet.desktops.gnome.set_up import set_up

    return set_up()


def _gnome_taken_out() -> Iterable[str]:
    from jaklet.desktops.gnome.set_up import take_out

    return take_out()


KINDS: Final[Mapping[str, DeskKind]] = {
    GNOME: DeskKind(
        "GNOME's on Wayland, with real windows and keys",
        "gnome",
        gnome_here,
        "this is no session of GNOME on Wayland",
        gnome_listener,
        _gnome,
        _gnome_abilities,
        _gnome_surface,
        _gnome_state,
        _gnome_tidied,
        _gnome_left,
        set_up=_gnome_set_up,
        take_out=_gnome_taken_out,
    ),
    PLASMA: DeskKind(
        "Plasma's on Wayland, with real windows and keys",
        "plasma",
        plasma_here,
        "this is no session of Plasma on Wayland",
        plasma_listener,
        _plasma,
        _plasma_abilities,
        _wayland_surface,
        _plasma_grants,
        _plasma_tidied,
        _plasma_left,
    ),
    X11: DeskKind(
        "the X server's, with real windows and keys",
        "x11",
        x11_here,
        "DISPLAY is not set",
        x11_listener,
        _x11,
        _x11_abilities,
        _x11_surface,
        limits=_x11_limits,
    ),
    TABLETOP: DeskKind(
        "a simulated one, in a file",
        "tabletop:FILE",
        None,
        "wherever its file is; `jaklet tabletop new FILE` makes one",
        no_listener,
        _tabletop,
        _tabletop_abilities,
    ),
}
TRY_A_TABLETOP: Final = "try a tabletop: `jaklet demo --write FOLDER`, then add --desk tabletop:FOLDER/tabletop.yaml"


def address_of(desk: str | None) -> Address | None:
    """Return the desk that is asked for, or that is here; None where a real one is meant and there is none.

    `desk`: as `--desk` and JAKLET_DESK say it, None for what is here. Raises `UsageError` for what is no desk.
    """
    if desk is None and unknown_session(os.environ):
        return None
    for name, one in KINDS.items():
        if one.here and desk in (None, name) and (where := one.here(os.environ)):
            return Address(name, where)
    if desk is None or (desk in KINDS and KINDS[desk].here):
        return None
    kind, _, where = desk.partition(":")
    if kind != TABLETOP or not where:
        ways = either([f"--desk {one.written}" for one in KINDS.values()])
        raise UsageError(f"there is no desk called {desk!r}", f"write {ways}")
    path = Path(where).expanduser()
    if not path.is_file():
        raise UsageError(f"there is no tabletop at {path}", "`jaklet demo --write FOLDER` makes one")
    return Address(TABLETOP, str(path))


class DeskPresence(NamedTuple):
    """A kind of desk, for people. `here`: where one is; else `missing` says why none is.

    `can` and `cannot`: the words of abilities, with what is meant by each that it has not.
    """

    written: str
    help: str
    here: str
    missing: str
    can: tuple[str, ...]
    cannot: Mapping[str, str]


def known_desks() -> list[DeskPresence]:
    """Return every kind of desk, and whether there is one here."""
    from jaklet.core.values.desk_abilities import EVERY, in_order

    found = []
    for kind in KINDS.values():
        here, can = kind.here(os.environ) if kind.here else "", kind.abilities()
        cannot = {one.word: one.value for one in in_order(EVERY - can)}
        words = tuple(one.word for one in in_order(can))
        found.append(DeskPresence(kind.written, kind.help, here, "" if here else kind.missing, words, cannot))
    return found


def address_here(desk: str | None, remedy: str = TRY_A_TABLETOP) -> Address:
    """Return the same; raises `DeskError` where there is none."""
    found = address_of(desk)
    session = unknown_session(os.environ) if desk is None else ""
    if session:
        why = f"Jaklet cannot see the windows of this session, {session} on Wayland, nor hear its keys"
        raise DeskError(why, f"`--desk x11` (or JAKLET_DESK=x11) is the X server in it: {OF_X_ALONE}; or {remedy}")
    if found is None:
        asked = KINDS.get(desk or "")
        why = asked.missing if asked else listed([one.missing for one in KINDS.values() if one.here])
        raise DeskError(f"there is no desk here, as {why}", remedy)
    return found


def file_of(desk: str | None) -> Path | None:
    """Return the file of a simulated desk; None where a real one is meant. Raises `UsageError`."""
    found = address_of(desk)
    return found.file if found else None
