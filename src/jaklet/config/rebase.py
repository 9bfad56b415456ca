"""A whole family of chords moved from one base modifier to another, in the files as they are written."""

from collections import Counter
from collections.abc import Iterable, Mapping
from pathlib import Path

from jaklet.config.reading import BoundKeys, ConfigReading
from jaklet.core.values.chords import MODIFIERS, Chord
from jaklet.core.values.spans import Spot
from jaklet.yaml_files.reader import SourceFile

_WRITTEN = {int(flag): name for name, flag in reversed(MODIFIERS.items()) if name != "control"}


def rebased_chords(text: str, old: int, new: int) -> str:
    """Return chords as they are written, one after another, each that holds all of `old` with `new` in its place.

    Marks of families (`<n>`) stay, and so does all else.
    """
    return " ".join(_one(word, old, new) for word in text.split(" "))


def _one(word: str, old: int, new: int) -> str:
    held, rest = [], word
    while (found := next((name for name in MODIFIERS if rest.lower().startswith(f"{name}+")), None)) is not None:
        held.append(found)
        rest = rest[len(found) + 1 :]
    flags = sum({int(MODIFIERS[name]) for name in held})
    if not rest or flags & old != old:
        return word
    flags = flags & ~old | new
    return "+".join([*(name for flag, name in sorted(_WRITTEN.items()) if flags & flag), rest])


def _written(bound: BoundKeys, reading: ConfigReading) -> str:
    spot = bound.key.spot
    return reading.sources[spot.path].line(spot.line)[spot.column - 1 : spot.end - 1]


def _after(bound: BoundKeys, old: int, new: int) -> tuple[str, tuple[tuple[int, int], ...]]:
    """Return the layer of a binding, and what its chords would be."""
    chords = ((c.modifiers & ~old | new if c.modifiers & old == old else c.modifiers, c.keysym) for c in bound.keys)
    return bound.layer, tuple(chords)


def unchanged_bindings(reading: ConfigReading, old: int, new: int) -> list[BoundKeys]:
    """Return the bindings that stay: with a part of the new base beside the old, they would be another one's chord."""
    every = [*reading.every_bound()]
    there = Counter(_after(bound, old, new) for bound in every)
    return [
        bound
        for bound in every
        if there[_after(bound, old, new)] > 1
        and any(chord.modifiers & old == old and chord.modifiers & ~old & new for chord in bound.keys)
    ]


def kept_chords(reading: ConfigReading, old: int, new: int) -> list[str]:
    """Return the chords of those, as they are written."""
    return list(dict.fromkeys(_written(bound, reading) for bound in unchanged_bindings(reading, old, new)))


def chords_after(reading: ConfigReading, old: int, new: int) -> set[Chord]:
    """Return the chords outside layers that would be new."""
    stay = {bound.key.spot for bound in unchanged_bindings(reading, old, new)}
    moving = [one.keys[0] for one in reading.every_bound() if not one.layer and one.key.spot not in stay]
    return {chord._replace(modifiers=chord.modifiers & ~old | new) for chord in moving if chord.modifiers & old == old}


def rebased_files(reading: ConfigReading, old: int, new: int) -> dict[str, str]:
    """Return the texts of the files in which chords change, by their names as in `reading.sources`."""
    changes: dict[Spot, str] = {}
    stay = {bound.key.spot for bound in unchanged_bindings(reading, old, new)}
    for bound in reading.every_bound():
        raw = _written(bound, reading)
        changed = rebased_chords(raw, old, new)
        if changed != raw and bound.key.spot not in stay:
            changes[bound.key.spot] = changed
    return edited_files(reading, changes)


def edited_files(reading: ConfigReading, changes: Mapping[Spot, str]) -> dict[str, str]:
    """Return the texts of the files in which stretches are written anew, by their names as in `reading.sources`."""
    by_file: dict[str, dict[Spot, str]] = {}
    for spot, new in changes.items():
        by_file.setdefault(spot.path, {})[spot] = new
    return {path: _edited(reading.sources[path], its) for path, its in by_file.items()}


def _edited(source: SourceFile, changes: Mapping[Spot, str]) -> str:
    """Return the text of a file with stretches written anew, the last one first, so that the others stay in place."""
    text = source.text
    for spot, new in sorted(changes.items(), key=lambda one: (one[0].line, one[0].column), reverse=True):
        start = source.offset(spot.line) + spot.column - 1
        text = text[:start] + new + text[start + spot.end - spot.column :]
    return text


def copy_config(
    reading: ConfigReading, texts: Mapping[str, str], config: Path, folder: Path, others: Iterable[Path]
) -> Path | None:
    """Write all files of a config into a folder, some with other texts; return the config file there.

    None where a part of it lies outside its own folder. `others`: folders that go along, such as that of the layouts.
    """
    base = config.resolve().parent
    for name, path in reading.files.items():
        try:
            target = folder / path.resolve().relative_to(base)
        except ValueError:
            return None
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(texts.get(name, reading.sources[name].text), encoding="utf-8")
    for other in others:
        for path in other.glob("*.yaml") if other.is_dir() else ():
            (folder / other.name).mkdir(exist_ok=True)
            copy = folder / other.name / path.name
            if not copy.exists():
                copy.write_bytes(path.read_bytes())
    return folder / config.name
