"""Colour by role. Plain ink leaves text as it is.

Findings and drawings are coloured here and not by a library, because `check` runs at every save of an editor and has
no time for a large import; tables, which are shown to people only, use one.
"""

# SGR parameters (ECMA-48 8.3.117). The eight named colours follow the user's own terminal palette.
_ROLES = {
    "error": "1;31",
    "warning": "1;33",
    "good": "32",
    "strong": "1",
    "faint": "2",
    "caret": "1;31",
    "active": "1;36",
    "window": "36",
}


class Ink:
    """Paints text by role, or does not."""

    def __init__(self, coloured: bool = False) -> None:
        self.coloured = coloured

    def __call__(self, text: str, role: str) -> str:
        """Return text in the colour of its role."""
        return f"\033[{_ROLES[role]}m{text}\033[0m" if self.coloured and role in _ROLES and text else text


PLAIN = Ink()
