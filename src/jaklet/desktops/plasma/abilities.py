"""What Plasma lets Jaklet do: no key is given back to a program, and none is pressed for one without a grant.

A window is raised by giving it the focus; for an order, one after another has it for some milliseconds.
"""

import os
from pathlib import Path
from typing import Final

from jaklet.core.values.desk_abilities import OF_KEYS, Abilities, Ability

MOST_OF_PLASMA: Final[Abilities] = frozenset(
    {
        Ability.SEE, Ability.MOVE, Ability.SHAPE, Ability.MINIMISE, Ability.FOCUS, Ability.ORDER, Ability.ABOVE,
        Ability.CLOSE, Ability.KILL, Ability.WORKSPACES, Ability.MAKE_WORKSPACES,
        Ability.IDLE,
    }
)  # fmt: skip
KEYS: Final[Abilities] = OF_KEYS - {Ability.PASS_ON, Ability.HOLD}
GRANT: Final = "jaklet-presses-keys.desktop"  # a desktop entry that asks KWin for it, for the program that runs Jaklet


def grant_file() -> Path:
    """Return where the user grants that keys are pressed for programs (XDG base directories)."""
    data = os.environ.get("XDG_DATA_HOME", "")
    return (Path(data) if os.path.isabs(data) else Path.home() / ".local/share") / "applications" / GRANT


def abilities_here() -> Abilities:
    """Return the abilities of this session."""
    granted = {Ability.TYPE} if grant_file().exists() else set()
    return MOST_OF_PLASMA | KEYS | granted
