"""What Plasma lets Jaklet do. Its keys are not heard yet, nothing is pressed for programs, no order is asked for."""

from typing import Final

from jaklet.core.values.abilities import Abilities, Ability

MOST: Final[Abilities] = frozenset(
    {
        Ability.SEE, Ability.MOVE, Ability.SHAPE, Ability.MINIMISE, Ability.FOCUS, Ability.ABOVE,
        Ability.CLOSE, Ability.KILL, Ability.WORKSPACES,
    }
)  # fmt: skip
