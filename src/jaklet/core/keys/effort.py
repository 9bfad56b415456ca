"""What it costs a hand to press keys. Docs: docs/development/effort.md, with the sources.

The unit is the press of a key under a resting index finger, about 0.28 s (Card, Moran and Newell, 1980: K). What makes
one press harder than another is from studies of typing; how much it counts is ours, in the order that they found.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.keys.shapes import LOWER_ROW, KeySpot, finger_way
from jaklet.core.keys.strokes import Stroke
from jaklet.core.values.chords import Modifier
from jaklet.core.values.hands import BOTH_FREE, INDEX, LEFT, LITTLE, MIDDLE, RIGHT, RING, THUMB, Finger, Hands

PRESS: Final = 1.0
# Fingers differ in strength and speed (Dvorak and others, 1936; Kinkead, 1975).
FINGER: Final = {LITTLE: 0.5, RING: 0.2, MIDDLE: 0.0, INDEX: 0.0, THUMB: 0.0}
LOWEST_ROW: Final = 0.3  # fingers bend to it; the row above the resting one is reached by stretching (Dvorak)
MODIFIER: Final = {
    Modifier.SUPER: 1.0, Modifier.CTRL: 1.0, Modifier.ALT: 1.0, Modifier.SHIFT: 1.0, Modifier.ALTGR: 1.5,
}  # fmt: skip
MANY: Final = {0: 0.0, 1: 0.0, 2: 1.0, 3: 3.5, 4: 7.0, 5: 10.0}  # for so many modifiers at once
SAME_HAND: Final = 0.5  # a hand that holds a modifier and presses the key; more if it has to leave its place
SAME_HAND_FAR: Final = 1.5
SAME_FINGER: Final = 2.5  # a finger that would have to do both
ALTGR_HAND, ALTGR_HAND_FAR = 2.0, 4.0  # its thumb is bent under the palm
FAR: Final = 4.0  # key widths from which on a hand has to leave its place
TO_THE_MOUSE: Final = 2.9  # there and back, 0.4 s each way (Card, Moran and Newell: H), in presses
SPARED: Final = 3.0  # for a finger that the user wants spared
# From one key of a sequence to the next: hands that take turns are fastest, one finger after itself is slowest
# (Kinkead, 1975; Rumelhart and Norman, 1982).
HAND_AGAIN, FINGER_AGAIN = 0.3, 1.0


class _Holder(NamedTuple):
    """A modifier, and the keys that hold it with their fingers, where the keyboard has them. Numbers, for speed."""

    flag: int
    name: str
    cost: float
    keys: tuple[tuple[str, Finger], ...]


def _pair(left: str, right: str, finger: str) -> tuple[tuple[str, Finger], ...]:
    return (left, Finger(LEFT, finger)), (right, Finger(RIGHT, finger))


_HOLDERS: Final = tuple(
    _Holder(int(modifier), str(modifier.name).lower(), MODIFIER[modifier], keys)
    for modifier, keys in (
        (Modifier.SUPER, _pair("LWIN", "RWIN", THUMB)),
        (Modifier.CTRL, _pair("LCTL", "RCTL", LITTLE)),
        (Modifier.ALT, _pair("LALT", "RALT", THUMB)),
        (Modifier.SHIFT, _pair("LFSH", "RTSH", LITTLE)),
        (Modifier.ALTGR, (("RALT", Finger(RIGHT, THUMB)),)),
    )
)
_ALT, _ALTGR = int(Modifier.ALT), int(Modifier.ALTGR)


KEY, HOLD, TOGETHER, MOUSE, SPARE = "key", "hold", "together", "mouse", "spare"  # what a part is about


class EffortPart(NamedTuple):
    """One of the things that make a press harder: of which kind (above), in words, and what it costs."""

    kind: str
    why: str
    cost: float


class _HeldModifiers(NamedTuple):
    finger: Finger
    parts: tuple[EffortPart, ...]
    cost: float


def effort_parts(
    spots: Mapping[str, KeySpot], has_altgr: bool, stroke: Stroke[str], hands: Hands = BOTH_FREE
) -> tuple[EffortPart, ...]:
    """Return all that a stroke costs beside the press itself, what costs nothing left out.

    `spots`: the keys of the keyboard. Of the two keys that hold a modifier, the one is taken that costs less.
    """
    spot = spots[stroke.key]
    finger = Finger(spot.hand, spot.finger)
    found = [EffortPart(KEY, str(finger), FINGER[spot.finger]), EffortPart(KEY, "the way to the key", finger_way(spot))]
    found += [EffortPart(KEY, "the lowest row of letters", LOWEST_ROW)] if spot.y == LOWER_ROW else []
    found += [EffortPart(SPARE, f"the {finger} is to be spared", SPARED)] if finger in hands.spare else []
    far, count = finger_way(spot) >= FAR, 0
    at_mouse = hands.mouse == spot.hand
    for holder in _HOLDERS:
        if stroke.modifiers & holder.flag:
            count += 1
            held = _held(holder, spots, has_altgr, spot, far, hands, at_mouse)
            found += [EffortPart(HOLD, holder.name, holder.cost), *held.parts]
            at_mouse = at_mouse or hands.mouse == held.finger.hand
    found += [EffortPart(HOLD, f"{count} modifiers at once", MANY[count])]
    if at_mouse and hands.mouse:
        found.append(EffortPart(MOUSE, f"the {hands.mouse} hand leaves the mouse", TO_THE_MOUSE))
    return tuple(one for one in found if one.cost)


def _held(
    holder: _Holder,
    spots: Mapping[str, KeySpot],
    has_altgr: bool,
    spot: KeySpot,
    far: bool,
    hands: Hands,
    at_mouse: bool,
) -> _HeldModifiers:
    """Return how a modifier is held with least effort beside a key."""
    best = _HeldModifiers(Finger("", ""), (), 0.0)
    least = float("inf")
    for key, finger in holder.keys:
        if key not in spots or (key == "RALT" and holder.flag == _ALT and has_altgr):
            continue
        found = []
        if finger.hand == spot.hand:
            if holder.flag == _ALTGR:
                found.append(EffortPart(TOGETHER, "altgr is on the same side", ALTGR_HAND_FAR if far else ALTGR_HAND))
            elif finger.name == spot.finger:
                found.append(EffortPart(TOGETHER, f"the {finger} for both", SAME_FINGER))
            else:
                found.append(EffortPart(TOGETHER, "one hand for both", SAME_HAND_FAR if far else SAME_HAND))
        if finger in hands.spare:
            found.append(EffortPart(SPARE, f"the {finger} is to be spared", SPARED))
        leaves = TO_THE_MOUSE if hands.mouse == finger.hand and not at_mouse else 0.0
        cost = leaves + sum([one.cost for one in found])
        if cost < least:
            best, least = _HeldModifiers(finger, tuple(found), cost), cost
    return best


def of_sequence(
    spots: Mapping[str, KeySpot], has_altgr: bool, strokes: Sequence[Stroke[str]], hands: Hands = BOTH_FREE
) -> float:
    """Return the cost of strokes one after another, each with its press; a hand leaves the mouse once at most."""
    every = [part for stroke in strokes for part in effort_parts(spots, has_altgr, stroke, hands)]
    total = PRESS * len(strokes) + sum([part.cost for part in every if part.kind != MOUSE])
    leaves = max([part.cost for part in every if part.kind == MOUSE], default=0.0)
    return total + leaves + ways_between(spots, [stroke.key for stroke in strokes])


def ways_between(spots: Mapping[str, KeySpot], keys: Iterable[str]) -> float:
    """Return the cost of the ways from key to key of a sequence."""
    total, former = 0.0, None
    for key in keys:
        spot = spots[key]
        if former and former.hand == spot.hand:
            total += FINGER_AGAIN if former.finger == spot.finger else HAND_AGAIN
        former = spot
    return total
