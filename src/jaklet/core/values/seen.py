"""Where a window can be seen: what is to stand on it has to find room beside the windows that are before it."""

from collections.abc import Iterable, Sequence
from itertools import product

from jaklet.core.values.geometry import Rect


def seen_corner(frame: Rect, above: Iterable[Rect], size: tuple[int, int], within: Sequence[Rect]) -> Rect | None:
    """Return room of a size in what is seen of a frame, as far up and then as far left as there is; None for none.

    `above`: the frames of what stands before it; `within`: the displays.
    """
    wide, high = size
    others = [other for other in above if other.overlap(frame)]
    across = {frame.x, *(other.right for other in others), *(display.x for display in within)}
    down = {frame.y, *(other.bottom for other in others), *(display.y for display in within)}
    for y, x in product(sorted(down), sorted(across)):
        room = Rect(x, y, wide, high)
        inside = frame.x <= x and frame.y <= y and room.right <= frame.right and room.bottom <= frame.bottom
        if (
            inside
            and not any(room.overlap(other) for other in others)
            and any(room.overlap(display) == wide * high for display in within)
        ):
            return room
    return None
