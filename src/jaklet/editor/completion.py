"""What can be written at a place: keys and words of the schema, actions word by word, chords that are free, names."""

from collections.abc import Callable, Iterator, Mapping
from typing import Any, NamedTuple

from jaklet.core.language.continuing import continuations, split_at_word
from jaklet.core.language.verbs import VERBS
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.json_schema import Schema
from jaklet.core.values.words import printable
from jaklet.editor.config_index import ConfigIndex
from jaklet.editor.cursor_path import CursorPath

KEY, VALUE, VERB, NAME, CHORD, PROGRAM = "key", "value", "verb", "name", "chord", "program"
MOST = 200
ACTIONS = ("do", "opens", "after", "steps", "else", "then")  # keys whose values are actions
PLACES = ("place",)
# What windows have of what rules name.
TOLD_BY_WINDOWS: Mapping[str, Callable[[Window], str]] = {
    "class": lambda window: window.cls,
    "instance": lambda window: window.instance,
    "role": lambda window: window.role,
    "title": lambda window: window.title,
    "process": lambda window: window.process,
}
KINDS = ("app", "place", "display", "layout", "layer", "macro", "workspace")
# Keys whose values are names, by the kind of what they name.
NAMED: Mapping[str, str] = {
    "only in": "app", "not in": "app", "app": "app", "focus": "app", "display": "display", "else": "display",
}  # fmt: skip


class Completion(NamedTuple):
    """Something that can be written. `replaces`: how many letters before the cursor it stands for."""

    text: str
    kind: str
    told: str = ""
    replaces: int = 0


Programs = Callable[[], Iterator[str]]


class CompletionSources(NamedTuple):
    """What is there beside the files: what is installed, the desk that is here, and what files look like."""

    programs: Programs
    entries: Programs
    desk: Callable[[], Desk | None]
    schemas: Mapping[str, Callable[[], Schema]]  # of all files, by their kind


def choices(book: ConfigIndex, of: str, place: CursorPath, here: CompletionSources) -> list[Completion]:
    """Return the completions at a position. `of`: the kind of file."""
    found = list(_choices(book, of, place, here))
    word = found[0].replaces if found else 0
    typed = place.before[len(place.before) - word :].lower()
    fitting = [one for one in found if one.text.lower().startswith(typed)] or found
    return fitting[:MOST]


def _choices(book: ConfigIndex, of: str, place: CursorPath, here: CompletionSources) -> Iterator[Completion]:
    written = len(place.before)
    root: Mapping[str, Any] = here.schemas[of]()
    schemas = [root]
    for key in place.path if place.is_key else place.path[:-1]:
        schemas = [inner for schema in schemas for inner in _below(schema, key, root)]
    if place.is_key:
        for schema in schemas:
            for one in _flat(schema, root):
                for key, inner in one.get("properties", {}).items():
                    yield Completion(key, KEY, _told(inner), written)
        if of == "config" and _holds_chords(place.path):
            yield from _chords(book, place)
        return
    last = place.path[-1] if place.path else ""
    for schema in schemas:
        for inner in _below(schema, last, root):
            for one in _flat(inner, root):
                for word in one.get("enum", ()):
                    if isinstance(word, (str, bool)):
                        yield Completion(str(word).lower() if isinstance(word, bool) else word, VALUE, "", written)
    if last == "launch":
        yield from (Completion(name, PROGRAM, "", written) for name in here.programs())
    elif last == "entry":
        yield from (Completion(name, PROGRAM, "", written) for name in here.entries())
    elif last in TOLD_BY_WINDOWS:
        yield from _told_by_windows(last, here.desk(), written)
    elif last in NAMED and not (of == "config" and last == "else" and "macros" in place.path):
        yield from (Completion(name, NAME, NAMED[last], written) for name in book.names(NAMED[last]))
    elif _is_action(of, place):
        yield from _actions(book, place.before)
    elif last in PLACES or place.path[:1] == ("places",):
        yield from _actions(book, place.before, "place ")


def _told_by_windows(part: str, desk: Desk | None, written: int) -> Iterator[Completion]:
    """Yield the values of open windows for a part of a rule, those in use first."""
    found = {TOLD_BY_WINDOWS[part](desk.by_id[wid]): desk.by_id[wid] for wid in reversed(desk.recent)} if desk else {}
    for text, window in reversed(found.items()):
        if text:
            yield Completion(text, VALUE, f"of a window that is open: {printable(window.title)}", written)


def _actions(book: ConfigIndex, before: str, begin: str = "") -> Iterator[Completion]:
    said, word = split_at_word(before)
    names = {kind: book.names(kind) for kind in KINDS}
    for text in continuations(begin + said, names):
        verb = VERBS.get(text) if not said and not begin else None
        yield Completion(text, VERB if verb else VALUE, verb.help if verb else "", len(word))


def _is_action(of: str, place: CursorPath) -> bool:
    if place.path and place.path[-1] in ACTIONS:
        return True
    return of == "config" and (
        _holds_chords(place.path[:-1]) or place.path[:1] in (("words",), ("events",), ("macros",))
    )


def _holds_chords(path: tuple[str, ...]) -> bool:
    """Return whether chords stand below these keys: in `bindings`, below a heading of it, in a layer's bindings."""
    in_layer = len(path) > 2 and path[0] == "layers" and path[2] == "bindings"
    inside = path[3:] if in_layer else path[1:] if path[:1] == ("bindings",) else None
    return inside is not None and len(inside) <= 1 and not any("+" in key for key in inside)


def _chords(book: ConfigIndex, place: CursorPath) -> Iterator[Completion]:
    """Yield chords that are free, those first that are easy to press."""
    layer = place.path[1] if place.path[:1] == ("layers",) else ""
    for one in book.checked.case.free.chords(layer)[:MOST]:
        told = f"free: {one.hand} hand, strain {one.strain:.1f}"
        yield Completion(str(one.chord), CHORD, told, len(place.before))


def _below(schema: Mapping[str, Any], key: str, root: Mapping[str, Any]) -> Iterator[Mapping[str, Any]]:
    for one in _flat(schema, root):
        if key in one.get("properties", {}):
            yield one["properties"][key]
        elif isinstance(one.get("additionalProperties"), dict):
            yield one["additionalProperties"]


def _flat(schema: Mapping[str, Any], root: Mapping[str, Any]) -> Iterator[Mapping[str, Any]]:
    """Yield a schema's own parts: what it can be, and what it is a list of."""
    if "$ref" in schema:
        yield from _flat(root["$defs"][schema["$ref"].rpartition("/")[2]], {**root, "$defs": {"steps": {}}})
        return
    yield schema
    for inner in schema.get("anyOf", ()):
        yield from _flat(inner, root)
    if isinstance(schema.get("items"), dict):
        yield from _flat(schema["items"], root)


def _told(schema: Mapping[str, Any]) -> str:
    return str(schema.get("description", ""))
