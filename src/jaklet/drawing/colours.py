"""The colour of an app: the same in every picture of a config. And what of a window's words can be seen."""

from collections.abc import Iterable
from typing import Final
from zlib import crc32

from jaklet.core.values.config import Config
from jaklet.core.values.geometry import Rect

# Told apart with the usual deficiencies of sight, and in grey; white can be read on each.
FILLS: Final = ("#4477aa", "#bb4455", "#228833", "#8a7a1f", "#2a7f9e", "#aa3377", "#66702a", "#5a4a8a")


def colour_of(name: str, config: Config) -> str:
    """Return the colour of an app, by its place in the config; for what no app claims, by its class."""
    apps = [*config.apps]
    at = apps.index(name) if name in config.apps else crc32(name.encode())
    return FILLS[at % len(FILLS)]


def room_for_words(frame: Rect, above: Iterable[Rect], height: float) -> Rect:
    """Return the part at the top of a frame, as high as given, where its words are not behind other windows.

    It begins at the left edge, or to the right of what covers that; of no width where nothing is seen.
    """
    high = max(1, min(frame.height, round(height)))
    left, right = frame.x, frame.right
    for other in sorted(above, key=lambda rect: rect.x):
        if other.y >= frame.y + high or other.bottom <= frame.y or other.right <= left or other.x >= right:
            continue
        if other.x - left >= right - other.right:
            right = min(right, other.x)
        else:
            left = max(left, other.right)
    return Rect(left, frame.y, max(0, right - left), high)
