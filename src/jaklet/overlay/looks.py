"""How cards look: colours, each with a sign beside it, and sizes by the display's scale."""

from collections.abc import Mapping
from typing import Final, NamedTuple

from jaklet.core.values.cards import FAILED, FAINT, KEY, MARK, PLAIN, STRONG

Colour = tuple[int, int, int]


class Look(NamedTuple):
    """Colours of a card. `ink`: by role, on the paper; `chosen`: paper and ink of the chosen line."""

    paper: Colour
    edge: Colour
    ink: Mapping[str, Colour]
    chosen: tuple[Colour, Colour]


class Sizes(NamedTuple):
    """All lengths of a card, in pixels of the display."""

    text: int
    line: int  # from one line to the next
    margin: int
    between: int  # two cells
    edge: int
    underline: int


# Each contrast with its paper is 7:1 or more (WCAG 2.1, 1.4.6); a test holds them to it.
DARK: Final = Look(
    (24, 33, 39),
    (150, 166, 174),
    {
        PLAIN: (240, 244, 244), STRONG: (255, 255, 255), FAINT: (176, 190, 196), KEY: (168, 218, 220),
        MARK: (255, 221, 136), FAILED: (255, 178, 165),
    },
    ((219, 230, 232), (14, 22, 27)),
)  # fmt: skip
LIGHT: Final = Look(
    (250, 249, 245),
    (84, 98, 106),
    {
        PLAIN: (26, 35, 41), STRONG: (0, 0, 0), FAINT: (72, 84, 91), KEY: (0, 80, 92), MARK: (104, 62, 0),
        FAILED: (146, 22, 16),
    },
    ((29, 58, 70), (255, 255, 255)),
)  # fmt: skip
LOOKS: Final[Mapping[str, Look]] = {"dark": DARK, "light": LIGHT}
TEXT: Final[Mapping[str, int]] = {"small": 12, "normal": 15, "large": 30}  # pixels at scale 1


def sizes_at(scale: float, size: str = "normal") -> Sizes:
    """Return the lengths for a display. `scale`: 1 for 96 pixels to the inch; `size`: one of `TEXT`."""
    text = max(8, round(TEXT[size] * scale))
    return Sizes(
        text, round(text * 1.55), round(text * 0.9), round(text * 1.1), max(1, round(scale)), max(1, round(text / 12))
    )


def contrast(one: Colour, other: Colour) -> float:
    """Return the contrast of two colours, 1 to 21 (WCAG 2.1, contrast ratio)."""
    lighter, darker = sorted((_luminance(one), _luminance(other)), reverse=True)
    return (lighter + 0.05) / (darker + 0.05)


def _luminance(colour: Colour) -> float:
    parts = (value / 255 for value in colour)
    red, green, blue = (part / 12.92 if part <= 0.03928 else ((part + 0.055) / 1.055) ** 2.4 for part in parts)
    return float(0.2126 * red + 0.7152 * green + 0.0722 * blue)
