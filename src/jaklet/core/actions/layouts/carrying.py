"""What a save takes over from the layout that it replaces, and when it may be a slip."""

from collections import Counter
from collections.abc import Sequence
from typing import Any, NamedTuple, TypeVar

from jaklet.core.actions.layouts.displays import display_sizes, displays_text
from jaklet.core.values.layout_fields import ENTRY_FIELDS, LAYOUT_FIELDS, LayoutField
from jaklet.core.values.layouts import LAUNCH, Layout, LayoutEntry, names_of
from jaklet.core.values.words import counted, listed

T = TypeVar("T")


class CarriedLayout(NamedTuple):
    """A layout with what a save keeps of the one that it replaces, and as it is on the displays that are there.

    `unopened`: entries whose windows are not open, by name.
    """

    layout: Layout
    here: Layout
    unopened: tuple[str, ...]


def carry_over(new: Layout, former: Layout) -> CarriedLayout:
    """Return a new layout with all that the user wrote into the former one and no desk shows.

    So it is with what becomes of others, with what is done after, and with entries whose window may be missing. An
    arrangement for other displays stays beside the new one.
    """
    at = replaced_arrangement(new, former)
    before = former.arrangements[at].entries if at is not None else former.entries
    wishes = _by_name(before)
    entries = [
        entry._replace(**_kept(ENTRY_FIELDS, was)) if (was := wishes.pop(name, None)) else entry
        for name, entry in zip(names_of(new.entries), new.entries, strict=True)
    ]
    unopened = [(name, entry) for name, entry in wishes.items() if entry.missing != LAUNCH and at is not None]
    entries += [entry for _, entry in unopened]
    new = new._replace(entries=tuple(entries), **_kept(LAYOUT_FIELDS, former))
    every = [new.arrangement if i == at else one for i, one in enumerate(former.arrangements)]
    every += [new.arrangement] if at is None else []
    layout = new._replace(**every[0]._asdict(), variants=tuple(every[1:]))
    return CarriedLayout(layout, new, tuple(name for name, _ in unopened))


def replaced_arrangement(new: Layout, former: Layout) -> int | None:
    """Return which arrangement a new one stands instead of: that of the same displays, or of any; None: of none."""
    sets = [display_sizes(one.displays) for one in former.arrangements]
    return next(
        (i for wanted in (display_sizes(new.displays), {}) for i, one in enumerate(sets) if one == wanted), None
    )


def _kept(fields: Sequence[LayoutField[T]], one: T) -> dict[str, Any]:
    """Return the attributes that a save keeps."""
    return {field.attribute: getattr(one, field.attribute) for field in fields if field.kept}


def _by_name(entries: Sequence[LayoutEntry]) -> dict[str, LayoutEntry]:
    return dict(zip(names_of(tuple(entries)), entries, strict=True))


def misgivings(new: Layout, former: Layout) -> tuple[str, ...]:
    """Return in what a layout differs so much from the former one that it may be a slip."""
    found = []
    at = replaced_arrangement(new, former)
    if at is None:
        found.append(
            f"it was saved on {displays_text(former.displays)}, and now there is {displays_text(new.displays)}"
        )
    if former.number is not None and new.number != former.number:
        found.append(f"its number is {new.number} now, and was {former.number}")
    before = [entry for entry in former.arrangements[at or 0].entries if entry.missing == LAUNCH]
    gone = Counter(entry.label for entry in before) - Counter(entry.label for entry in new.entries)
    if 3 * gone.total() >= len(before) > 0 and gone:
        found.append(f"{gone.total()} of {counted(len(before), 'window')} not in it any more: {listed(sorted(gone))}")
    return tuple(found)
