"""What GNOME Shell lets Jaklet do, by the extension: nearly all that X11 does."""

from typing import Final

from jaklet.core.values.desk_abilities import OF_KEYS, Abilities, Ability

MOST_OF_GNOME: Final[Abilities] = frozenset(
    {
        Ability.SEE, Ability.MOVE, Ability.SHAPE, Ability.MINIMISE, Ability.FOCUS, Ability.STACK, Ability.ORDER,
        Ability.ABOVE, Ability.CLOSE, Ability.KILL, Ability.WORKSPACES, Ability.MAKE_WORKSPACES, Ability.TYPE,
        Ability.IDLE,
    }
)  # fmt: skip
KEYS: Final[Abilities] = OF_KEYS - {Ability.PASS_ON, Ability.HOLD}
