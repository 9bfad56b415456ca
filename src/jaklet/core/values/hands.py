"""What the user's hands are about: which of them is at the mouse, and which fingers are to be spared."""

from typing import Final, NamedTuple

LEFT, RIGHT = "left", "right"
HAND_SIDES: Final = (LEFT, RIGHT)
LITTLE, RING, MIDDLE, INDEX, THUMB = "little", "ring", "middle", "index", "thumb"
FINGERS: Final = (LITTLE, RING, MIDDLE, INDEX, THUMB)


class Finger(NamedTuple):
    """One finger of one hand."""

    hand: str
    name: str

    def __str__(self) -> str:
        return f"{self.hand} thumb" if self.name == THUMB else f"{self.hand} {self.name} finger"


class Hands(NamedTuple):
    """`mouse`: the hand that is at it, empty for neither; `spare`: fingers that are to have little to do."""

    mouse: str = ""
    spare: frozenset[Finger] = frozenset()


BOTH_FREE: Final = Hands()


def parse_finger(text: str) -> Finger | None:
    """finger := left | right, then one of `FINGERS`; None for anything else."""
    words = text.lower().removesuffix(" finger").split()
    if len(words) == 2 and words[0] in HAND_SIDES and words[1] in FINGERS:
        return Finger(words[0], words[1])
    return None
