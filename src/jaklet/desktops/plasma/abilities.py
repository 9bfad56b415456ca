"""What Plasma lets Jaklet do: no key is given back to a program.

A window is raised by giving it the focus; for an order, one after another has it for some milliseconds.
"""

from typing import Final

from jaklet.core.values.abilities import OF_KEYS, Abilities, Ability

MOST: Final[Abilities] = frozenset(
    {
        Ability.SEE, Ability.MOVE, Ability.SHAPE, Ability.MINIMISE, Ability.FOCUS, Ability.STACK, Ability.ABOVE,
        Ability.CLOSE, Ability.KILL, Ability.WORKSPACES,
    }
)  # fmt: skip
KEYS: Final[Abilities] = OF_KEYS - {Ability.PASS_ON}
