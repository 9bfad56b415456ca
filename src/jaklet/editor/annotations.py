"""What an editor shows in a text of its own accord: hints, what the words of actions are, and what can be folded."""

from collections.abc import Iterator, Sequence
from typing import Final, NamedTuple

from jaklet.config.families import MEMBERS, family_marks
from jaklet.config.reading import WrittenAction
from jaklet.core.actions.placing.window_stands import stand_of
from jaklet.core.language.verbs import VERBS
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.places import Place, resolve_place
from jaklet.core.values.regexes import regex
from jaklet.core.values.sentences import Action
from jaklet.core.values.spans import Spot
from jaklet.editor.config_index import ConfigIndex

VERB, WORD, NUMBER, MARK = "function", "keyword", "number", "parameter"
# What names of each kind are called, by the types of the protocol (LSP 3.17, Semantic Tokens).
NAMES: Final = {
    "app": "class", "place": "property", "display": "variable", "layout": "struct", "layer": "namespace",
    "macro": "method", "workspace": "variable",
}  # fmt: skip
TYPES: Final = (VERB, WORD, NUMBER, MARK, *dict.fromkeys(NAMES.values()))
_WORDS: Final = regex(r"<[\w-]+>|[^\s,<>]+")
_SIZED: Final = regex(r"[\d.]+(?:[/%]\d*|px|ms|s|m|h)?$")


class Hint(NamedTuple):
    """A text to be shown behind a place that is not in the file. `more`: what else there is to it."""

    spot: Spot
    text: str
    more: str = ""


class Token(NamedTuple):
    """Some characters of a line, and which of `TYPES` they are."""

    spot: Spot
    type: str


def frames(place: Place, desk: Desk, config: Config, inside: str | None = None) -> Iterator[str]:
    """Yield the frame that a place has, a line for each display that it can be on. `inside`: the display to be on.

    A place with alternatives has those of the first one that is there.
    """
    for display in desk.displays:
        name = config.role_of(display)
        for one in resolve_place(place, config.places).alternatives:
            wanted = one.display or inside
            if wanted and config.display(wanted, desk) != display:
                continue
            stand = stand_of(one._replace(display=None), None, Desk((display,)), config)
            if stand:
                left, top, width, height = stand.whole
                yield f"{width}x{height}+{left}+{top} on {name}"
                break


def hints(book: ConfigIndex, shown: str, desk: Desk | None) -> Iterator[Hint]:
    """Yield the values of `<n>` and `<side>` in a file, and the frames that its places have on a desk.

    `shown`: the file, as it is called in spots.
    """
    reading = book.checked.reading
    keys = {bound.spot: bound.key.text or "" for bound in reading.every_bound() if bound.spot.path == shown}
    for spot, text in keys.items():
        for mark in family_marks(text):
            members = MEMBERS[mark]
            plain = f"{members[0]}…{members[-1]}" if len(members) > 4 else ", ".join(members)
            yield Hint(spot, f"{mark}: {plain}", ", ".join(members))
    if desk is None:
        return
    for (kind, name), spot in reading.spots.items():
        if kind == "place" and spot.path == shown and name in reading.config.places:
            yield from _framed([reading.config.places[name]], spot, desk, reading.config)
    for laid in reading.laid:
        for one, spots in zip(laid.layout.arrangements, laid.entry_spots, strict=True):
            for entry, spot in zip(one.entries, spots, strict=True):
                if entry.place and spot.path == shown:
                    yield from _framed([entry.place], spot, desk, reading.config)
    for deed in reading.deeds:
        if deed.value.spot.path == shown and not deed.family:  # of a family each member would have another one
            yield from _framed(places_of(deed.action), deed.value.spot, desk, reading.config)


def places_of(action: Action) -> list[Place]:
    """Return the places that an action names or spells out."""
    return [ref.place for one in action.every() for ref in one.refs if ref.place]


def _framed(places: Sequence[Place], spot: Spot, desk: Desk, config: Config) -> Iterator[Hint]:
    lines = [line for place in places for line in frames(place, desk, config)]
    if lines:
        primary = f"on {config.role_of(desk.primary)}"
        yield Hint(spot, next((line for line in lines if line.endswith(primary)), lines[0]), "\n".join(lines))


def tokens(book: ConfigIndex, shown: str) -> list[Token]:
    """Return the token types of the words in a file's actions, in their order."""
    found: dict[Spot, Token] = {}
    reading = book.checked.reading
    for deed in reading.deeds:
        if deed.value.spot.path == shown:
            for one in _of_action(deed, reading.sources[shown].line(deed.value.spot.line)):
                found.setdefault(one.spot, one)
    return sorted(found.values())


def _of_action(deed: WrittenAction, line: str) -> Iterator[Token]:
    spot = deed.value.spot
    written = line[spot.column - 1 : spot.end - 1]
    names = {(one.start, one.end): one.kind for one in deed.action.names()}
    begins = True
    for found in _WORDS.finditer(written):
        start, end = found.span()
        word, place = found.group(), spot._replace(column=spot.column + start, end=spot.column + end)
        kind = next((kind for (first, last), kind in names.items() if first <= start and end <= last), "")
        if word in MEMBERS or (word.startswith("<") and word.endswith(">")):
            yield Token(place, MARK)
        elif begins and word.lower() in VERBS:
            yield Token(place, VERB)
        elif kind in NAMES:
            yield Token(place, NAMES[kind])
        elif _SIZED.match(word):
            yield Token(place, NUMBER)
        elif word.isalpha() and word.islower():
            yield Token(place, WORD)
        begins = word.lower() == "or"


def folds(lines: Sequence[str]) -> list[tuple[int, int]]:
    """Return the ranges that can be folded: from a line to the last deeper one below it, both from 0."""
    found: list[tuple[int, int]] = []
    outer: list[tuple[int, int]] = []  # the lines that this one is below, and their depths
    last = 0
    for number, line in enumerate([*lines, "end"]):
        plain = line.lstrip(" ")
        if not plain.strip() or plain.startswith("#"):
            continue
        # An item of a list may stand as deep as the key above it, and is below it.
        depth = 2 * (len(line) - len(plain)) + plain.startswith("- ") if number < len(lines) else -1
        while outer and outer[-1][1] >= depth:
            first, _ = outer.pop()
            if last > first:
                found.append((first, last))
        outer.append((number, depth))
        last = number
    return sorted(found)


def tidied(text: str) -> str:
    """Return a text without space at the ends of lines, and with one line end at its own."""
    return "\n".join(line.rstrip(" \t") for line in text.split("\n")).rstrip("\n") + "\n"
