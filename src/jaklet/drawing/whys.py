"""What is known about a chord, and what chords are free, as text and as data."""

from collections.abc import Iterable, Iterator, Sequence
from textwrap import wrap
from typing import Any, Final

from jaklet.core.keys.free_chords import ChordCandidate
from jaklet.core.values.chords import Chord, key_name
from jaklet.core.values.words import either, printable
from jaklet.drawing.ink import PLAIN, Ink

WIDEST: Final = 100_000  # in a pipe nothing is broken
BEST: Final = 8  # of the free chords, named one by one


def free_text(free: Sequence[ChordCandidate], columns: int | None = None, ink: Ink = PLAIN) -> str:
    """Return the free chords: the best, then all keys by their modifiers, the easiest first."""
    families: dict[int, list[str]] = {}
    for one in free:
        families.setdefault(one.chord.modifiers, []).append(key_name(one.chord.keysym))
    rows = [f"{ink('best:', 'good')} {', '.join(str(one.chord) for one in free[:BEST])}", ""]
    names = {family: _modifiers(family) for family in families}
    width = max(len(name) for name in names.values())
    for family, keys in families.items():
        first, *more = wrap(" ".join(keys), (columns or WIDEST) - width - 2, break_long_words=False)
        rows += [f"{ink(names[family].ljust(width), 'strong')}  {first}", *(" " * (width + 2) + line for line in more)]
    return "\n".join(rows)


def _modifiers(family: int) -> str:
    return str(Chord(family, 0x20)).removesuffix("space").rstrip("+") or "plain"


def free_data(free: Sequence[ChordCandidate]) -> list[dict[str, Any]]:
    """Return the free chords as plain data."""
    return [{"chord": str(one.chord), "hand": one.hand, "strain": round(one.strain, 2)} for one in free]


def why_text(known: Any, ink: Ink = PLAIN) -> str:
    """Return all that is known about a chord, one thing a line."""
    return "\n".join(printable(line) if not ink.coloured else line for line in _why(known, ink))


def _why(known: Any, ink: Ink) -> Iterator[str]:
    yield ink(known.chord, "strong")
    for bound in known.bound:
        yield _line("bound to", f"{bound.text}{_where(bound)}  {ink(str(bound.spot), 'faint')}", ink)
    if not known.bound:
        yield _line("bound to", "nothing", ink)
    for begun in _begun(known.begins):
        yield _line("begins", begun, ink)
    for one in known.reserved:
        source = f"  {ink(one.source, 'faint')}" if one.source else ""
        yield _line("owned by", f"{one.owner}: {one.told}{source}", ink)
    if not known.reserved:
        yield _line("owned by", "nobody else that is known", ink)
    if known.now:
        yield _line("now", known.now, ink)
    for one in known.keyboards:
        yield _line(f"on {one.keyboard}", one.effort + (f"; the key {one.key}" if one.key else ""), ink)
        if one.types:
            yield _line("", f"types {one.types}", ink)
        if one.same:
            yield _line("", f"the same key as {either(one.same)}", ink)
    for found in known.findings:
        yield _line("finding", f"{found.code} {found.cause}", ink)
    if known.free:
        yield _line("free, like it", either(known.free), ink)


def _line(head: str, text: str, ink: Ink) -> str:
    return f"  {ink(f'{head:<13} ', 'faint')}{text}"


def _begun(sequences: Iterable[Any]) -> Iterator[str]:
    """Yield each sequence with its action; a family is one of them."""
    families = set()
    for bound in sequences:
        family = bound.binding.family if bound.binding else None
        if family is None:
            yield f"{' '.join(str(chord) for chord in bound.keys)}: {bound.text}{_where(bound)}"
        elif family not in families:
            families.add(family)
            yield f"{family[0]}: {family[1]}{_where(bound, named=False)}"


def _where(bound: Any, named: bool = True) -> str:
    """Return where and how a binding works, in brackets. `named`: with the family that it is of."""
    parts = [f"in layer {bound.layer}"] if bound.layer else []
    parts += [str(bound.scope)] if bound.scope.apps else []
    parts += ["when it is let go"] if bound.on_release else []
    parts += ["off"] if bound.off else []
    binding = bound.binding
    if named and binding and binding.family:
        parts.append(f"one of {binding.family[0]}")
    if binding and binding.heading:
        parts.append(f"under {binding.heading}")
    return f" ({', '.join(parts)})" if parts else ""


def why_data(known: Any) -> dict[str, Any]:
    """Return the same as plain data."""
    return {
        "chord": known.chord,
        "bound": [_bound(bound) for bound in known.bound],
        "begins": [_bound(bound) for bound in known.begins],
        "owned": [
            {"owner": one.owner, "does": one.does, "where": one.app or one.where, "source": one.source}
            for one in known.reserved
        ],
        "keyboards": [
            {**one._asdict(), "strain": round(one.strain, 2) if one.key else None, "same": list(one.same)}
            for one in known.keyboards
        ],
        "findings": [found.code for found in known.findings],
        "now": known.now,
        "free": list(known.free),
    }


def _bound(bound: Any) -> dict[str, Any]:
    return {
        "keys": " ".join(str(chord) for chord in bound.keys),
        "action": bound.text,
        "layer": bound.layer,
        "scope": str(bound.scope),
        "on_release": bound.on_release,
        "off": bound.off,
        **bound.spot._asdict(),
    }
