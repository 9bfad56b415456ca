"""How everything stays arranged, as plain data and back: for what can be undone, and for who asks a listener."""

from fractions import Fraction
from typing import Any

from jaklet.core.language.sharings import parse_sharing
from jaklet.core.values.sharings import ArrangedSpot, Division, KeptArrangements, Part, Sharing, Split


def plain_kept(kept: KeptArrangements) -> dict[str, Any]:
    """Return how everything stays arranged as plain data."""
    return {
        "asked": [[*spot, None if form is None else str(form)] for spot, form in kept.asked.items()],
        "divisions": [[*spot, *_plain_division(one)] for spot, one in kept.divisions.items()],
        "floats": sorted(kept.floats),
    }


def _plain_division(one: Division) -> list[Any]:
    weights = [[wid, str(weight)] for wid, weight in one.weights.items()]
    return [str(one.form), [*one.order], weights, None if one.tree is None else _plain_part(one.tree)]


def _plain_part(part: Part) -> Any:
    if isinstance(part, int):
        return part
    return [part.is_row, [_plain_part(one) for one in part.parts], [str(weight) for weight in part.weights]]


def kept_from(plain: dict[str, Any]) -> KeptArrangements:
    """Return how everything stays arranged, from plain data; raises `ValueError`, `TypeError` or `SentenceError`."""
    asked = {ArrangedSpot(workspace, display): form and _form(form) for workspace, display, form in plain["asked"]}
    divisions = {
        ArrangedSpot(workspace, display): Division(
            _form(form), tuple(order), {wid: Fraction(one) for wid, one in weights}, tree and _part(tree)
        )
        for workspace, display, form, order, weights, tree in plain["divisions"]
    }
    return KeptArrangements(asked, divisions, frozenset(plain["floats"]))


def _form(text: str) -> Sharing:
    found = parse_sharing(text).sharing
    assert found is not None
    return found


def _part(plain: Any) -> Part:
    if isinstance(plain, int):
        return plain
    is_row, parts, weights = plain
    return Split(is_row, tuple(_part(one) for one in parts), tuple(Fraction(one) for one in weights))
