"""Forms of sharing as they are written: `columns`, `rows`, `grid`, `stack`, `one large left 2/3`.

form := as `GRAMMAR` says
"""

from typing import Final

from jaklet.core.language.cursor import Cursor
from jaklet.core.language.grammar import first_fit, most_telling
from jaklet.core.language.slots import PLAIN_SLOTS
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.sentences import Ref
from jaklet.core.values.sharings import LARGE, Sharing

GRAMMAR: Final = "PLAIN; HOWMANY large; HOWMANY large SIDE; HOWMANY large SIDE SHARE"
EXAMPLE: Final = f"one {LARGE} left 2/3"


def read_sharing(cursor: Cursor) -> Sharing:
    """Read a form, to the end of the sentence; raises `SentenceError`."""
    faults: list[SentenceError] = []
    found = first_fit(GRAMMAR, cursor, PLAIN_SLOTS, faults, f"write it like: {EXAMPLE}")
    if found:
        return _sharing({ref.kind: ref for ref in found[1]})
    worst = most_telling(faults)
    raise SentenceError(worst.message, worst.start, worst.end, worst.remedy or f"write it like: {EXAMPLE}")


def _sharing(refs: dict[str, Ref]) -> Sharing:
    if "PLAIN" in refs:
        return Sharing(refs["PLAIN"].name)
    one = Sharing(LARGE, int(refs["HOWMANY"].amount))
    one = one._replace(side=refs["SIDE"].name) if "SIDE" in refs else one
    share = refs["LENGTH"].length if "LENGTH" in refs else None
    return one._replace(share=share) if share else one


def parse_sharing(text: str) -> Sharing:
    """Return the form of a whole text; raises `SentenceError`."""
    return read_sharing(Cursor(text))
