"""A keyboard: what is on its keys, where they are, and how hard a chord is to reach on it."""

from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from typing import Final, NamedTuple, Protocol, TypeVar

from jaklet.core.keys.effort import FAR, TOGETHER, effort_parts
from jaklet.core.keys.shapes import SHAPES, KeySpot, finger_way, spots_of
from jaklet.core.keys.strokes import KeyTable, Stroke
from jaklet.core.values.chords import MODIFIERS, Chord, Modifier, key_name
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.words import did_you_mean, either, listed

# The national keyboards of which there is a table, made by tools/make_keyboards.py.
NAMES: Final = (
    "be", "br", "ca", "ch", "colemak", "cz", "de", "dk", "dvorak", "es", "fi", "fr", "gb", "hu", "it", "jp", "latam",
    "nl", "no", "pl", "pt", "se", "tr", "us",
)  # fmt: skip
THIS: Final = "this"  # the one of the running X server
FULL: Final = SHAPES[0].words
MEDIA, NO_MEDIA = "with media keys", "without media keys"
AMERICAN: Final = ("us", "dvorak", "colemak")  # they lack the key beside the left Shift
DEAD_KEYS: Final = range(0xFE50, 0xFE94)
CONTORTION: Final = 10.0  # a strain from which on hardly anybody would press a chord twice
NEXT_TO: Final = 1.2  # key widths between the middles of keys beside each other


class WithKey(Protocol):
    """Something with a key of a keyboard."""

    @property
    def stroke(self) -> Stroke[str]:
        """The key, with its modifiers."""
        ...


C = TypeVar("C", bound=WithKey)


class KeyboardName(NamedTuple):
    """A keyboard as settings name it: `fr`, `de small laptop without media keys`."""

    name: str
    shape: str = FULL
    media: bool = True

    def __str__(self) -> str:
        shape = f" {self.shape}" if self.shape != FULL else ""
        return f"{self.name}{shape}{'' if self.media else f' {NO_MEDIA}'}"


def parse_keyboard(text: str, this: bool = False) -> KeyboardName:
    """Keyboard := NAME [shape] [with or without media keys]; commas do not matter. `this`: a name, too."""
    words = text.replace(",", " ").lower().split()
    name = words[0] if words else ""
    if name not in NAMES and not (this and name == THIS):
        remedy = did_you_mean(name, NAMES, f"there are {either(NAMES)}")
        raise SentenceError(f"no keyboard is called {name!r}", 0, max(len(name), 1), remedy, unknown=name)
    rest = " ".join(words[1:])
    media = NO_MEDIA not in rest
    shape = " ".join(rest.replace(NO_MEDIA, "").replace(MEDIA, "").split()) or FULL
    shapes = [one.words for one in SHAPES]
    if shape not in shapes:
        remedy = did_you_mean(shape, shapes, f"shapes are {either(shapes)}, and then {MEDIA} or {NO_MEDIA}")
        raise SentenceError(f"no keyboard has the shape {shape!r}", len(name), len(text), remedy)
    return KeyboardName(name, shape, media)


class Keyboard:
    """What is on the keys of one keyboard. `rows`: keysyms of up to four levels, by XKB key name."""

    def __init__(self, name: KeyboardName, rows: Mapping[str, Sequence[int]]) -> None:
        self.name = name
        spots = spots_of(name.shape, name.media)
        lacks = {"LSGT"} if name.name in AMERICAN else set()
        self.spots: Mapping[str, KeySpot] = {
            key: spot for key, spot in spots.items() if key in rows and key not in lacks
        }
        self._table = KeyTable({key: rows[key] for key in self.spots})
        self._rows = rows
        self.has_altgr = bool(set(rows.get("RALT", ())) & {0xFE03, 0xFF7E})  # ISO_Level3_Shift, Mode_switch
        self._strokes: dict[Chord, tuple[Stroke[str], ...]] = {}
        self._strains: dict[Stroke[str], float] = {}

    def __str__(self) -> str:
        return str(self.name)

    @property
    def keys(self) -> Mapping[str, Sequence[int]]:
        """The keysyms on each key that this keyboard has."""
        return self._table.levels

    @cached_property
    def _full(self) -> KeyTable[str]:
        """The same national keyboard in its full size; only faults ask for it."""
        return KeyTable(self._rows)

    def strokes(self, chord: Chord) -> tuple[Stroke[str], ...]:
        """Return the keys that a chord can be here, with the modifiers to be held; none if it cannot be pressed."""
        known = self._strokes.get(chord)
        if known is None:
            known = tuple(self._table.strokes(chord))
            if not self.has_altgr:
                known = tuple(stroke for stroke in known if not stroke.modifiers & Modifier.ALTGR)
            self._strokes[chord] = known
        return known

    def lacks(self, chord: Chord) -> str:
        """Return why a chord cannot be pressed here; empty if it can."""
        if self.strokes(chord):
            return ""
        key = str(Chord(0, chord.keysym))
        if self._table.strokes(chord):
            return "no AltGr key"
        if self._full.strokes(chord):
            return f"no key {key} in its shape ({self.name.shape}{'' if self.name.media else f', {NO_MEDIA}'})"
        return f"no key with {key} on it"

    def stroke(self, chord: Chord) -> Stroke[str] | None:
        """Return the way to press a chord here that strains least; None if it cannot be pressed."""
        return min(self.strokes(chord), key=self.strain_of, default=None)

    def typed(self, chord: Chord) -> int:
        """Return the keysym of the character that a chord types here with at most Shift and AltGr held; else 0."""
        for stroke in self.strokes(chord):
            if stroke.modifiers & ~(Modifier.SHIFT | Modifier.ALTGR):
                continue
            row = self.keys[stroke.key]
            level = bool(stroke.modifiers & Modifier.SHIFT) + 2 * bool(stroke.modifiers & Modifier.ALTGR)
            if level < len(row) and is_character(row[level]):
                return row[level]
        return 0

    def beside(self, key: str) -> list[str]:
        """Return the keys to the left and right of a key."""
        here = self.spots[key]
        return [other for other, spot in self.spots.items() if spot.y == here.y and 0 < abs(spot.x - here.x) <= NEXT_TO]

    def hand(self, chord: Chord) -> str:
        """Return the hand that presses a chord's key: `left`, `right`, or empty if it cannot be pressed."""
        stroke = self.stroke(chord)
        return self.spots[stroke.key].hand if stroke else ""

    def strain(self, chord: Chord) -> float:
        """Return how hard a chord is to press: 0 for a key under a finger; infinity for one that is not there."""
        stroke = self.stroke(chord)
        return self.strain_of(stroke) if stroke else float("inf")

    def strain_of(self, stroke: Stroke[str]) -> float:
        """Return how hard a stroke is for two hands that are free."""
        known = self._strains.get(stroke)
        if known is None:
            known = self._strains[stroke] = sum(
                [part.cost for part in effort_parts(self.spots, self.has_altgr, stroke)]
            )
        return known

    def effort(self, chord: Chord) -> str:
        """Return in words what makes a chord hard or easy to press."""
        stroke = self.stroke(chord)
        if stroke is None:
            return self.lacks(chord)
        spot = self.spots[stroke.key]
        held = [name for name, flag in MODIFIERS.items() if stroke.modifiers & flag and name != "control"]
        words = [f"{spot.hand} {spot.finger} finger" if spot.finger != "thumb" else f"{spot.hand} thumb"]
        words += (
            ["far away"]
            if finger_way(spot) >= FAR
            else ["one row off"]
            if finger_way(spot) >= 1.4
            else ["where it rests"]
        )
        words += [f"{len(held)} modifiers at once"] if len(held) > 2 else []
        words += [part.why for part in effort_parts(self.spots, self.has_altgr, stroke) if part.kind == TOGETHER]
        grades = ((3.5, "easy"), (6.0, "fair"), (CONTORTION, "hard"))
        grade = next((name for limit, name in grades if self.strain_of(stroke) < limit), "a contortion")
        return f"{grade}: {', '.join(words)}"


def is_character(keysym: int) -> bool:
    """True for a keysym that types a character, or is a dead key (X protocol, appendix A)."""
    return (
        0x20 <= keysym <= 0x7E
        or 0xA0 <= keysym <= 0xFF
        or 0x100 < keysym < 0xFD00
        or (keysym >= 0x01000000 and not 0x1008FE00 <= keysym <= 0x1008FFFF)
        or keysym in DEAD_KEYS
    )


def writes(chord: Chord) -> bool:
    """True if a chord is text for a program that takes typing, or sends off or changes what was written."""
    plain = not chord.modifiers & (Modifier.CTRL | Modifier.ALT | Modifier.SUPER)
    return plain and (is_character(chord.keysym) or key_name(chord.keysym) in WRITING)


WRITING: Final = frozenset(
    {"return", "enter", "tab", "space", "backspace", "delete", "kp_enter", *(f"kp_{digit}" for digit in range(10))}
)


def keyboards_text(names: Sequence[str]) -> str:
    """Return keyboards for a message: `on fr`, `on de and fr`."""
    return f"on {listed([f'{name} keyboard' if name == THIS else name for name in names])}"


AROUND: Final = 2.3  # key widths that count as near


def near_to(keyboard: Keyboard, chord: Chord, candidates: Iterable[C]) -> list[C]:
    """Return the candidates whose keys are around a chord's, the nearest first."""
    stroke = keyboard.stroke(Chord(0, chord.keysym))
    if stroke is None:
        return []
    here = keyboard.spots[stroke.key]
    found = []
    for one in candidates:
        spot = keyboard.spots[one.stroke.key]
        far = ((spot.x - here.x) ** 2 + (spot.y - here.y) ** 2) ** 0.5
        if far <= AROUND:
            found.append((far, one))
    return [one for _, one in sorted(found, key=lambda pair: pair[0])]
