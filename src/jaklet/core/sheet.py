"""The sheet of keys: every binding and word in the order of the file, a family as one line."""

from collections.abc import Iterable, Iterator
from typing import Final, NamedTuple

from jaklet.core.chords import Keys, keys_written
from jaklet.core.config import Config
from jaklet.core.sentences import Action

TYPED: Final = "typed words"  # the heading of what is no key
OFF: Final = "off"


class Line(NamedTuple):
    """One line of the sheet: keys and action as they are written, for all the chords that they stand for.

    `dead`: why it does nothing; empty if it is live.
    """

    keys: str
    action: str
    note: str
    heading: str
    dead: str
    chords: tuple[Keys, ...]
    actions: tuple[Action, ...]


def sheet(config: Config) -> list[Line]:
    """Return all lines; what stands under no heading comes first, then heading by heading."""
    lines: dict[object, Line] = {}
    for number, binding in enumerate(config.bindings):
        keys, action = binding.family or (binding.written, binding.action.text)
        one = Line(
            keys, action, binding.note, binding.heading, OFF if binding.off else "", (binding.keys,), (binding.action,)
        )
        # The members of a family stand at one place of one file.
        place = (binding.spot, keys) if binding.family else number
        former = lines.get(place)
        lines[place] = one if former is None else former._replace(
            chords=former.chords + one.chords, actions=former.actions + one.actions
        )  # fmt: skip
    found = [*lines.values(), *_words(config)]
    order = list(dict.fromkeys(["", *(line.heading for line in found)]))
    return sorted(found, key=lambda line: order.index(line.heading))


def _words(config: Config) -> Iterator[Line]:
    for name, word in config.words.items():
        yield Line(name, word.action.text, word.note, TYPED, "", (), (word.action,))


def filtered(lines: Iterable[Line], words: Iterable[str], app: str | None = None) -> list[Line]:
    """Return the lines that have all of these words somewhere, in capitals or not, and name the app if one is given."""
    small = [word.casefold() for word in words]
    return [line for line in lines if all(word in _text(line) for word in small) and (app is None or _names(line, app))]


def _text(line: Line) -> str:
    chords = " ".join(keys_written(keys) for keys in line.chords)
    return f"{line.keys} {chords} {line.action} {line.note} {line.heading} {line.dead}".casefold()


def _names(line: Line, app: str) -> bool:
    refs = (ref for action in line.actions for one in action.every() for ref in one.refs)
    return any(ref.kind == "APP" and ref.name == app for ref in refs)
