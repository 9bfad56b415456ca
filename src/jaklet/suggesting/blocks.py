"""What moves together: bindings that begin with one chord, a family, or one key with several sets of modifiers.

A block has one place in the keys. It is its first chord; or, for a family such as `super+<n>`, the modifiers of all its
first chords; or, for `super+n: focus next` and `super+shift+n: focus previous`, their key. Some blocks are not moved,
with the reason.
"""

from collections.abc import Iterable, Iterator, Mapping
from typing import Final, NamedTuple

from jaklet.config.families import family_marks
from jaklet.config.reading import BoundKeys, ConfigReading
from jaklet.config.rebase import rebased_chords
from jaklet.core.keys.keyboards import Keyboard
from jaklet.core.keys.shapes import BLOCKS
from jaklet.core.values.chords import Chord, key_name, letter_of, parse_keys
from jaklet.core.values.directions import SIDES
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.spans import Spot

# Why a block stays where it is.
PRESSED: Final = "something presses it"
OWN_KEY: Final = "a key of its own"
SAYS_KEY: Final = "what it does names the key"
SIDED: Final = "one of several sides"
TANGLED: Final = "its keys are written in two ways"
KEPT: Final = "it is to be kept"
HEADING: Final = "under another heading"
NO_KEY: Final = "on no key of a keyboard"
CHORD, MODIFIERS, KEY = "chord", "modifiers", "key"  # what of its first chords a block can change
_WAYS: Final = frozenset(("next", "previous", "backwards", *SIDES))
_TYPED: Final = frozenset(BLOCKS["main"]) - {"ESC"}  # the keys among which one chooses by letter


class BindingBlock(NamedTuple):
    """Bindings of one layer that keep their first chords' place together.

    `first`: the chords that they begin with; `changes`: what of these can change. `stays`: why it is not moved; empty
    if it may be.
    """

    layer: str
    first: tuple[Chord, ...]
    bounds: tuple[BoundKeys, ...]
    changes: str = CHORD
    stays: str = ""

    @property
    def written(self) -> str:
        """Its keys as they are written, once each."""
        return ", ".join(dict.fromkeys(" ".join(_words(bound)) for bound in self.bounds))

    @property
    def does(self) -> str:
        """What it is for, in a few words."""
        return "; ".join(dict.fromkeys(_what(bound) for bound in self.bounds))

    @property
    def is_held(self) -> bool:
        """True if something in it ends when the modifiers of its key are let go of: it has to have some."""
        bindings = [bound.binding for bound in self.bounds if bound.binding]
        return any(one.named("HELD") for binding in bindings for one in binding.action.every())

    def moved(self, to: Chord) -> tuple[Chord, ...]:
        """Return the chords that it begins with at another place: the chord, or the modifiers or the key of it."""
        return tuple(self.at(chord, to) for chord in self.first)

    def at(self, chord: Chord, to: Chord) -> Chord:
        """Return one of its first chords as it is at another place."""
        if self.changes == MODIFIERS:
            return chord._replace(modifiers=to.modifiers)
        return chord._replace(keysym=to.keysym) if self.changes == KEY else to


def _what(bound: BoundKeys) -> str:
    if bound.binding is None:
        return bound.text
    return bound.binding.note or (bound.binding.family[1] if bound.binding.family else bound.text)


def blocks(
    reading: ConfigReading,
    live: Iterable[BoundKeys],
    keyboards: Iterable[Keyboard],
    heading: str | None = None,
    kept: Iterable[Chord] = (),
) -> list[BindingBlock]:
    """Return all blocks of a config, in the order of its files. `heading`: only what is under it may move."""
    groups: dict[tuple[str, Chord], list[BoundKeys]] = {}
    for bound in live:
        groups.setdefault((bound.layer, bound.keys[0]), []).append(bound)
    boards, pressed, keep = list(keyboards), _pressed(reading), frozenset(kept)
    found, done = [], set[int]()
    for (layer, first), bounds in groups.items():
        if id(bounds[0]) in done:
            continue
        own = [family_marks(_words(bound)[0]) for bound in bounds]
        if any(own):
            block = _family(layer, bounds, groups, all(own))
        else:
            chords = [first, *_relatives(layer, first, groups)]
            every = tuple(bound for chord in chords for bound in groups[layer, chord])
            block = BindingBlock(layer, tuple(chords), every, KEY if len(chords) > 1 else CHORD)
        done |= {id(bound) for bound in block.bounds}
        found.append(block._replace(stays=block.stays or _stays(block, boards, pressed, heading, keep)))
    return _with_their_sides(found)


def _with_their_sides(found: list[BindingBlock]) -> list[BindingBlock]:
    """Return blocks, those that stay which do one thing to several sides: their keys lie as the sides do."""
    groups: dict[tuple[object, ...], list[BindingBlock]] = {}
    for block in found:
        texts = {bound.text for bound in block.bounds}
        if block.changes == CHORD and any(word in SIDES for text in texts for word in text.split()):
            does = _whatever_way(block.bounds)
            groups.setdefault((block.layer, block.first[0].modifiers, does), []).append(block)
    sided = {id(block) for (_, _, does), its in groups.items() if does and len(its) > 1 for block in its}
    return [block._replace(stays=block.stays or SIDED) if id(block) in sided else block for block in found]


def _family(
    layer: str, bounds: list[BoundKeys], groups: Mapping[tuple[str, Chord], list[BoundKeys]], alone: bool
) -> BindingBlock:
    """Return a family with its mark in the first chord as a block; it is not moved if others share its chords."""
    spots = {bound.spot for bound in bounds}
    members = {
        chord: its for (its_layer, chord), its in groups.items()
        if its_layer == layer and any(bound.spot in spots for bound in its)
    }  # fmt: skip
    alone = alone and all(bound.spot in spots for its in members.values() for bound in its)
    every = tuple(bound for its in members.values() for bound in its)
    return BindingBlock(layer, tuple(members), every, MODIFIERS, "" if alone else TANGLED)


def _relatives(layer: str, first: Chord, groups: Mapping[tuple[str, Chord], list[BoundKeys]]) -> list[Chord]:
    """Return the later chords of the same key with other modifiers that do the same the other way."""
    does = _whatever_way(groups[layer, first])
    found = list(groups)
    return [
        chord
        for its_layer, chord in found[found.index((layer, first)) + 1 :]
        if its_layer == layer
        and chord.keysym == first.keysym
        and does
        and _whatever_way(groups[layer, chord]) == does
        and not any(family_marks(_words(bound)[0]) for bound in groups[layer, chord])
    ]


def _whatever_way(bounds: Iterable[BoundKeys]) -> str:
    """Return the action of bindings without the words for a direction; empty if they have several actions."""
    texts = {" ".join(word for word in bound.text.split() if word not in _WAYS) for bound in bounds}
    return texts.pop() if len(texts) == 1 else ""


def _words(bound: BoundKeys) -> list[str]:
    """Return the chords as they are written, with the marks of families."""
    family = bound.binding.family if bound.binding else None
    return (family[0] if family else bound.key.text or "").split()


def _stays(
    block: BindingBlock, keyboards: list[Keyboard], pressed: set[Chord], heading: str | None, kept: frozenset[Chord]
) -> str:
    """Return why a block stays; empty if it may be moved."""
    if not kept.isdisjoint(block.first):
        return KEPT
    if heading is not None and any(
        (bound.binding.heading if bound.binding else "") != heading for bound in block.bounds
    ):
        return HEADING
    if not block.layer and not pressed.isdisjoint(block.first):
        return PRESSED
    if any(board.stroke(chord) is None for bound in block.bounds for chord in bound.keys for board in keyboards):
        return NO_KEY
    strokes = [board.stroke(chord) for board in keyboards for chord in block.first]
    is_plain = not block.layer and not all(chord.modifiers for chord in block.first)
    is_typed = block.changes == MODIFIERS or any(stroke.key in _TYPED for stroke in strokes if stroke)
    if not is_typed or is_plain:
        return OWN_KEY
    named = (key_name(block.first[0].keysym), letter_of(block.first[0].keysym))
    words = {word for bound in block.bounds for word in bound.text.split() if not word.isalpha() or len(word) > 1}
    return SAYS_KEY if block.changes == CHORD and not words.isdisjoint(named) else ""


def _pressed(reading: ConfigReading) -> set[Chord]:
    """Return all chords that actions, programs or trials press by themselves."""
    return {
        *chords_sent(reading),
        *(chord for trial in reading.trials for text in trial.press for chord in _chords(text)),
    }


def chords_sent(reading: ConfigReading) -> set[Chord]:
    """Return the chords that actions send to programs: a binding of one of them would take it away."""
    return {chord for deed in reading.deeds for action in deed.action.every() for chord in action.presses}


def _chords(text: str) -> Iterator[Chord]:
    try:
        yield from parse_keys(text)
    except SentenceError:  # `wait 5s`, or something that `check` tells of
        return


def changed_texts(block: BindingBlock, to: Chord) -> dict[Spot, str]:
    """Return the new texts of a block's chords at another place, by their spots."""
    found: dict[Spot, str] = {}
    for bound in block.bounds:
        first, *rest = _words(bound)
        old = bound.keys[0]
        is_family = block.changes == MODIFIERS
        new = rebased_chords(first, old.modifiers, to.modifiers) if is_family else str(block.at(old, to))
        found[bound.key.spot] = " ".join((new, *rest))
    return found


def written_at(block: BindingBlock, to: Chord) -> str:
    """Return a block's keys as they would be written at another place."""
    return ", ".join(dict.fromkeys(changed_texts(block, to).values()))
