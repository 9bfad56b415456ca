"""Forms of sharing as they are written: `columns`, `halves`, `one large left 2/3`, `in left 2/3, right`.

form := as `GRAMMAR` says
"""

from collections.abc import Iterable
from typing import Final

from jaklet.core.language.cursor import Cursor
from jaklet.core.language.grammar import faults_of, first_fit, most_telling
from jaklet.core.language.slots import PLAIN_SLOTS
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.forms import SamePlace
from jaklet.core.values.places import Place
from jaklet.core.values.sentences import Ref
from jaklet.core.values.sharings import LARGE, PLACES, Sharing

GRAMMAR: Final = f"PLAIN; HOWMANY {LARGE} [SIDE]; HOWMANY {LARGE} SIDE SHARE; {PLACES} PLACE"
EXAMPLE: Final = f"one {LARGE} left 2/3"


def read_sharing(cursor: Cursor, ends: Iterable[str] = ()) -> Ref:
    """Read a form, to the end of the sentence or up to one of these words; raises `SentenceError`."""
    start = cursor.at
    found = first_fit(GRAMMAR, cursor, PLAIN_SLOTS, ends)
    if not found:
        remedy = f"write it like: {EXAMPLE}"
        worst = most_telling(faults_of(GRAMMAR, cursor, PLAIN_SLOTS, remedy, ends))
        raise SentenceError(worst.message, worst.start, worst.end, worst.remedy or remedy)
    refs = {ref.kind: ref for ref in found[1]}
    sharing = _sharing(refs)
    end = start + len(cursor.text[start : cursor.at].rstrip())
    return Ref("FORM", str(sharing), start, end, sharing=sharing, named=refs["PLACE"].named if "PLACE" in refs else ())


def _sharing(refs: dict[str, Ref]) -> Sharing:
    if "PLAIN" in refs:
        return Sharing(refs["PLAIN"].name)
    if "PLACE" in refs:
        return Sharing(PLACES, places=_of_one_display(refs["PLACE"]))
    one = Sharing(LARGE, int(refs["HOWMANY"].amount))
    one = one._replace(side=refs["SIDE"].name) if "SIDE" in refs else one
    share = refs["LENGTH"].length if "LENGTH" in refs else None
    return one._replace(share=share) if share else one


def _of_one_display(ref: Ref) -> Place:
    assert ref.place is not None
    for place in ref.place.alternatives:
        if place.display or isinstance(place.form, SamePlace):
            problem = f"{place} is about another display, and a form of sharing is of one"
            raise SentenceError(problem, ref.start, ref.end, "leave the display out")
    return ref.place


def parse_sharing(text: str) -> Ref:
    """Return the form of a whole text, with what it names; raises `SentenceError`."""
    return read_sharing(Cursor(text))
