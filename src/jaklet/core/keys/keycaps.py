"""The keys of a keyboard as they are drawn: where each is, and what it does with some modifiers held."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.keys.keyboards import AMERICAN, CONTORTION, Keyboard
from jaklet.core.keys.reserved import ReservedChord
from jaklet.core.keys.strokes import Stroke
from jaklet.core.values.chords import MODIFIERS, Modifier, key_name, letter_of
from jaklet.core.values.config import Binding

BOUND, BEGINS, OWNED, FREE, HELD, MODIFIER = "bound", "begins", "owned", "free", "held", "modifier"
HARD: Final = 6.0  # a strain from which on the hand reaches a key badly
LEFT_EDGE, RIGHT_EDGE = -0.5, 14.5  # of the main block
# The keys that are wider than a letter: they reach from the key before to the key behind, or to the edge of the block.
WIDE: Final = frozenset(("BKSP", "TAB", "BKSL", "CAPS", "RTRN", "LFSH", "RTSH"))
# The lowest row: left edge and width, as most keyboards have it.
_LOWEST: Final = {
    "LCTL": (-0.5, 1.25), "LWIN": (0.75, 1.25), "LALT": (2.0, 1.25), "SPCE": (3.25, 6.25), "RALT": (9.5, 1.25),
    "RWIN": (10.75, 1.25), "COMP": (12.0, 1.25), "RCTL": (13.25, 1.25),
}  # fmt: skip
_JAPANESE: Final = {"MUHE": (3.25, 1.25), "SPCE": (4.5, 2.5), "HENK": (7.0, 1.25), "HKTG": (8.25, 1.25)}
MEDIA_ROW: Final = -2.0  # above it are keys that laptops have somewhere
_HOLDS: Final[Mapping[str, Modifier]] = {
    "LFSH": Modifier.SHIFT, "RTSH": Modifier.SHIFT, "LCTL": Modifier.CTRL, "RCTL": Modifier.CTRL,
    "LWIN": Modifier.SUPER, "RWIN": Modifier.SUPER, "LALT": Modifier.ALT, "RALT": Modifier.ALT,
}  # fmt: skip
_PAD: Final = {
    **{f"KP{n}": str(n) for n in range(10)}, "KPEN": "Enter", "KPAD": "+", "KPSU": "-", "KPMU": "*", "KPDV": "/",
    "KPDL": ".", "NMLK": "Num",
}  # fmt: skip
_DEAD: Final = {
    "grave": "`", "acute": "´", "circumflex": "^", "tilde": "~", "diaeresis": "¨", "cedilla": "¸", "caron": "ˇ",
    "breve": "˘", "abovedot": "˙", "abovering": "°", "doubleacute": "˝", "ogonek": "˛", "macron": "¯",
}  # fmt: skip
_SHORT: Final = {
    "return": "Enter", "backspace": "Back", "escape": "Esc", "pageup": "PgUp", "pagedown": "PgDn", "insert": "Ins",
    "delete": "Del", "caps_lock": "Caps", "space": "Space", "print": "Print", "left": "←", "right": "→", "up": "↑",
    "down": "↓", "zenkaku_hankaku": "Zen/Han", "muhenkan": "Muhen", "henkan_mode": "Henkan", "henkan": "Henkan",
    "hiragana_katakana": "Kana", "eisu_toggle": "Eisu", "prior": "PgUp", "next": "PgDn",
    "num_lock": "Num", "scroll_lock": "Scroll", "pause": "Pause", "menu": "Menu", "tab": "Tab",
}  # fmt: skip


class Box(NamedTuple):
    """Where a key is, in widths of a letter key: its left and top edge, and its size."""

    x: float
    y: float
    width: float
    height: float = 1.0


class Keycap(NamedTuple):
    """One key. `state`: one of the words above; `text`: what it does; `owner`: who else has it; `chord`: as written.

    `strain`: how hard it is to reach with these modifiers (`Keyboard.strain_of`). `bindings`: that it does or begins.
    """

    name: str
    box: Box
    label: str
    state: str
    text: str = ""
    owner: str = ""
    chord: str = ""
    strain: float = 0.0
    bindings: tuple[Binding, ...] = ()

    @property
    def is_hard(self) -> bool:
        """True if the hand reaches it badly."""
        return self.strain >= HARD

    @property
    def is_contortion(self) -> bool:
        """True if hardly anybody would press it twice."""
        return self.strain >= CONTORTION


def boxes_of(keyboard: Keyboard) -> dict[str, Box]:
    """Return where the keys of a keyboard are that are drawn: all but media keys. None covers another."""
    is_japanese = keyboard.name.name == "jp"
    lowest = {**_LOWEST, **_JAPANESE} if is_japanese else _LOWEST
    rows: dict[tuple[float, bool], list[tuple[float, str]]] = {}
    boxes: dict[str, Box] = {}
    for name, spot in keyboard.spots.items():
        if name in lowest:
            boxes[name] = Box(lowest[name][0], spot.y, lowest[name][1])
        elif spot.y > MEDIA_ROW and name not in _JAPANESE:
            rows.setdefault((spot.y, spot.x < RIGHT_EDGE), []).append((spot.x, name))
    for (y, is_main), row in rows.items():
        row.sort()
        for at, (x, name) in enumerate(row):
            left, right = x - 0.5, x + 0.5
            if is_main and name in WIDE:
                left = row[at - 1][0] + 0.5 if at else LEFT_EDGE
                right = row[at + 1][0] - 0.5 if at + 1 < len(row) else RIGHT_EDGE
            boxes[name] = Box(left, y, right - left)
    if keyboard.name.name not in AMERICAN and {"BKSL", "RTRN"} <= boxes.keys():  # Enter is two rows high (ISO 9995-2)
        boxes |= {"BKSL": Box(12.25, 2, 1.0), "RTRN": Box(13.25, 1, 1.25, 2.0)}
    return boxes


def keycaps(
    keyboard: Keyboard,
    bindings: Iterable[Binding],
    reserved: Iterable[ReservedChord],
    modifiers: int = 0,
    layer: str = "",
) -> list[Keycap]:
    """Return all keys as they are with these modifiers held, in a layer or without one."""
    doing: dict[str, list[Binding]] = {}
    for one in bindings:
        if one.layer == layer:
            for name in _keys_of(keyboard.strokes(one.keys[0]), modifiers):
                doing.setdefault(name, []).append(one)
    owners: dict[str, list[str]] = {}
    for its in () if layer else reserved:  # in a layer all keys are ours
        for name in _keys_of(keyboard.strokes(its.keys[0]), modifiers):
            owners.setdefault(name, []).append(its.owner)
    boxes = boxes_of(keyboard)
    return [
        _cap(name, box, keyboard, modifiers, doing.get(name, ()), owners.get(name, ())) for name, box in boxes.items()
    ]


def boards(
    keyboard: Keyboard,
    bindings: Sequence[Binding],
    reserved: Sequence[ReservedChord],
    held: int | None = None,
    layer: str = "",
) -> list[tuple[str, list[Keycap]]]:
    """Return keyboards with their titles: with these modifiers held, or one for each set of them that is in use."""
    sets = [held] if held is not None else sets_in_use(bindings, layer)
    return [(_titled(one, layer, keyboard), keycaps(keyboard, bindings, reserved, one, layer)) for one in sets]


def _titled(held: int, layer: str, keyboard: Keyboard) -> str:
    names = [name for name, flag in MODIFIERS.items() if held & flag and name != "control"]
    return f"{'+'.join(names) or 'no modifier'}{f' in layer {layer}' if layer else ''}, on keyboard {keyboard}"


def _keys_of(strokes: Iterable[Stroke[str]], modifiers: int) -> list[str]:
    return [stroke.key for stroke in strokes if stroke.modifiers == modifiers]


def _cap(
    name: str, box: Box, keyboard: Keyboard, modifiers: int, bindings: Sequence[Binding], owners: Sequence[str]
) -> Keycap:
    label = label_of(name, keyboard.keys[name])
    if name in _HOLDS:
        held = bool(modifiers & _HOLDS[name]) or (
            name == "RALT" and keyboard.has_altgr and bool(modifiers & Modifier.ALTGR)
        )
        return Keycap(name, box, label, HELD if held else MODIFIER)
    strain = keyboard.strain_of(Stroke(name, modifiers))
    owner = ", ".join(dict.fromkeys(owners))
    if not bindings:
        return Keycap(name, box, label, OWNED if owner else FREE, "", owner, "", strain)
    whole = [one for one in bindings if len(one.keys) == 1]
    text = " / ".join(dict.fromkeys(one.note or one.action.text for one in whole)) or f"{len(bindings)} follow"
    state = BOUND if whole else BEGINS
    return Keycap(name, box, label, state, text, owner, str(bindings[0].keys[0]), strain, tuple(bindings))


def label_of(name: str, row: Sequence[int]) -> str:
    """Return the legend of a key: its letter, or its name."""
    keysym = row[0] if row else 0
    called, letter = key_name(keysym), letter_of(keysym)
    if name in _HOLDS:
        return {"control": "Ctrl", "iso": "AltGr"}.get(called.partition("_")[0], called.partition("_")[0].capitalize())
    if name in _PAD:
        return _PAD[name]
    if called.startswith("dead_"):
        return _DEAD.get(called.removeprefix("dead_"), called.removeprefix("dead_"))
    if letter and not letter.isspace():
        return letter.upper() if len(letter.upper()) == 1 else letter
    return _SHORT.get(called, called.replace("_", " ").capitalize())


def sets_in_use(bindings: Iterable[Binding], layer: str = "") -> list[int]:
    """Return the sets of modifiers with which something is bound in a layer or without one, the most used first."""
    counts: dict[int, int] = {}
    for one in bindings:
        if one.layer == layer:
            counts[one.keys[0].modifiers] = counts.get(one.keys[0].modifiers, 0) + 1
    return sorted(counts, key=lambda held: (-counts[held], held))
