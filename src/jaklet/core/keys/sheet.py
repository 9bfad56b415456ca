"""The sheet of keys: every binding and word in the order of the file, a family as one line."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.keys.keymap import ENTER
from jaklet.core.values.chords import Keys, keys_written
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.scopes import EVERYWHERE, Scope
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import either

TYPED: Final = "typed words"  # the heading of what is no key
OFF: Final = "off"


class SheetLine(NamedTuple):
    """One line of the sheet: keys and action as they are written, for all the chords that they stand for.

    `dead`: why it does nothing; empty if it is live. `layer`: the one in which it is live; `scope`: in which apps and
    at which edge of its key, in words; `within`: the same apps.
    """

    keys: str
    action: str
    note: str
    heading: str
    dead: str
    chords: tuple[Keys, ...]
    actions: tuple[Action, ...]
    layer: str = ""
    scope: str = ""
    within: Scope = EVERYWHERE

    @property
    def what(self) -> str:
        """What it is for, in a few words: its note, else its action."""
        return self.note or self.action

    @property
    def beside(self) -> tuple[str, ...]:
        """What there is to be said of it besides: the action under a note, where it is live, why it is dead."""
        return tuple(part for part in (self.action if self.note else "", self.scope, self.dead) if part)


def sheet_lines(config: Config) -> list[SheetLine]:
    """Return all lines; what stands under no heading comes first, then heading by heading."""
    lines: dict[object, SheetLine] = {}
    ways: dict[str, list[str]] = {}  # into layers
    for door in config.live:
        if door.action.verb == ENTER:
            ways.setdefault(door.action.refs[0].name, []).append(door.written)
    for number, binding in enumerate(config.bindings):
        keys, action = binding.family or (keys_written(binding.keys), binding.action.text)
        one = SheetLine(
            keys,
            action,
            binding.note,
            _heading(binding, config, ways),
            _dead(binding, ways),
            (binding.keys,),
            (binding.action,),
            binding.layer,
            _scope(binding),
            binding.scope,
        )
        # The members of a family stand at one place of one file.
        place = (binding.spot, binding.scope, binding.on_release) if binding.family else number
        former = lines.get(place)
        lines[place] = one if former is None else former._replace(
            chords=former.chords + one.chords, actions=former.actions + one.actions
        )  # fmt: skip
    found = [*lines.values(), *_words(config)]
    found.sort(key=lambda line: line.layer)
    order = {heading: at for at, heading in enumerate(dict.fromkeys(["", *(line.heading for line in found)]))}
    return sorted(found, key=lambda line: order[line.heading])


def _heading(binding: Binding, config: Config, ways: Mapping[str, list[str]]) -> str:
    """Return the heading of a binding; that of a layer tells the way in, how it ends, and its note."""
    if not binding.layer:
        return binding.heading
    layer = config.layers[binding.layer]
    ends = "stays until it is left" if layer.stays else "ends after one action"
    ends += f", or {layer.ends_after:g} s without a key" if layer.ends_after is not None else ""
    sub = f", {binding.heading}" if binding.heading else ""
    note = f": {layer.note}" if layer.note else ""
    return f"layer {layer.name}{sub} ({either(ways.get(layer.name, [])) or 'no way in'}; {ends}){note}"


def _dead(binding: Binding, ways: Mapping[str, list[str]]) -> str:
    if binding.off:
        return OFF
    return "no way in" if binding.layer and binding.layer not in ways else ""


def _scope(binding: Binding) -> str:
    parts = [str(binding.scope)] if binding.scope.apps else []
    parts += ["on release"] if binding.on_release else ["repeats"] if binding.repeat else []
    return ", ".join(parts)


def _words(config: Config) -> Iterator[SheetLine]:
    for name, word in config.words.items():
        yield SheetLine(name, word.action.text, word.note, TYPED, "", (), (word.action,))


def filter_lines(
    lines: Iterable[SheetLine],
    words: Iterable[str],
    app: str | None = None,
    layer: str | None = None,
    modifiers: int | None = None,
    more: Callable[[SheetLine], str] | None = None,
) -> list[SheetLine]:
    """Return the lines that have all of these words somewhere, in capitals or not. `more`: other words for a line.

    If they are given: that name the app, are in the layer or enter it, and have a chord with exactly these modifiers.
    """
    small = [word.casefold() for word in words]
    return [
        line
        for line in lines
        if _has(line, small, more)
        and (app is None or _names(line, app))
        and (layer is None or line.layer == layer or _enters(line, layer))
        and (modifiers is None or any(chord.modifiers == modifiers for keys in line.chords for chord in keys))
    ]


def _has(line: SheetLine, words: Sequence[str], more: Callable[[SheetLine], str] | None) -> bool:
    text = _text(line)
    left = [word for word in words if word not in text]
    return not left or (more is not None and all(word in (text + " " + more(line)) for word in left))


def _enters(line: SheetLine, layer: str) -> bool:
    return any(action.verb == ENTER and action.refs[0].name == layer for action in line.actions)


def _text(line: SheetLine) -> str:
    chords = " ".join(keys_written(keys) for keys in line.chords)
    return f"{line.keys} {chords} {line.action} {line.note} {line.heading} {line.dead} {line.scope}".casefold()


def _names(line: SheetLine, app: str) -> bool:
    refs = (ref for action in line.actions for one in action.every() for ref in one.refs)
    return any(ref.kind == "APP" and ref.name == app for ref in refs)
