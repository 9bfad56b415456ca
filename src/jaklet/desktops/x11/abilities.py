"""What an X11 desk can do: by what its window manager says that it supports, and by the server's extensions."""

from collections.abc import Callable, Mapping
from typing import Final

from jaklet.core.values.desk_abilities import OF_DESKS, OF_KEYS, Abilities, Ability

# What a window manager has to list in _NET_SUPPORTED (EWMH, "Root Window Properties").
BY_ATOMS: Final[Mapping[Ability, tuple[str, ...]]] = {
    Ability.SHAPE: ("_NET_WM_STATE",),
    Ability.ABOVE: ("_NET_WM_STATE_ABOVE",),
    Ability.WORKSPACES: ("_NET_CURRENT_DESKTOP", "_NET_WM_DESKTOP"),
    Ability.MAKE_WORKSPACES: ("_NET_NUMBER_OF_DESKTOPS",),
}
BY_EXTENSIONS: Final[Mapping[Ability, str]] = {Ability.TYPE: "XTEST", Ability.IDLE: "MIT-SCREEN-SAVER"}
NEVER: Final = frozenset({Ability.PLACE_UNSEEN})  # a client sees a window when it is mapped, and not before
MOST: Final[Abilities] = OF_DESKS - NEVER
# X refuses a grab that another client has, and does not tell which, nor can it be taken from it (X protocol, GrabKey).
KEYS: Final[Abilities] = OF_KEYS - {Ability.OWNER, Ability.HAND_OVER}


def abilities_of(supports: Callable[[str], bool], has_extension: Callable[[str], bool]) -> Abilities:
    """Return the abilities of a desk. `supports`: whether the manager lists an atom; `has_extension`: the server."""
    lacks = {one for one, atoms in BY_ATOMS.items() if not all(supports(atom) for atom in atoms)}
    lacks |= {one for one, name in BY_EXTENSIONS.items() if not has_extension(name)}
    return MOST - lacks
