"""What the finder knows and shows, without a terminal: typing, kinds, the choice, labels to jump by."""

from collections.abc import Mapping, Sequence
from itertools import product
from types import MappingProxyType
from typing import Final, NamedTuple

from jaklet.core.actions.pick_candidate import Candidate
from jaklet.core.values.kinds import ALL, KIND_NAMES
from jaklet.core.values.matching import Query, Ranking, SearchText, ready_text
from jaklet.core.values.words import cell_width, cut_to_cells, printable

LETTERS: Final = "fjdkslaghrueiwovncm"  # where the fingers rest comes first
LABELS: Final = tuple(a + b for a, b in product(LETTERS, repeat=2))
TABS: Final = (ALL, *KIND_NAMES)

NO_WEIGHTS: Final[Mapping[str, float]] = MappingProxyType({})
Fragments = list[tuple[str, str]]  # (role, text), as a line is put together
MARK, CHOSEN, FAINT, LABEL, KEY, TAB, TAB_OPEN = "mark", "chosen", "faint", "label", "key", "tab", "tab.open"


class FinderRow(NamedTuple):
    """One candidate with its text made ready, as it is shown and as it is looked in."""

    candidate: Candidate
    shown: str
    split: int  # where the detail begins in `shown`
    text: SearchText


def _row(candidate: Candidate, is_used: bool) -> FinderRow:
    label, detail = printable(candidate.label), printable(candidate.detail)
    shown = f"{label}  {detail}" if detail else label
    return FinderRow(candidate, shown, len(label), ready_text(shown, len(label), 0 if is_used else None))


def key_of(candidate: Candidate) -> str:
    """Return the name that a choice is counted under; empty for a window, which is ranked by its own use."""
    return "" if candidate.kind == "windows" else f"{candidate.kind} {candidate.does}"


class Finder:
    """The finder's state. `load` gives it what there is; until then it can be typed into."""

    def __init__(self, kind: str = ALL, typed: str = "") -> None:
        self.kind = kind
        self.typed = typed
        self.loaded = False
        self.jumping: str | None = None  # what has been typed of a label; None: not jumping
        self.chosen = 0
        self.top = 0
        self.at_once = False
        self._rows: list[FinderRow] = []
        self._of_kind: list[FinderRow] = []
        self._ranking = Ranking(())
        self._by_key: dict[str, list[int]] = {}  # chord or word -> rows of this kind
        self._found: list[FinderRow] = []

    def load(
        self, candidates: Sequence[Candidate], at_once: bool = False, weights: Mapping[str, float] = NO_WEIGHTS
    ) -> None:
        """Take in what there is to be found. `at_once`: a short word is done as soon as it stands there.

        `weights`: how much was chosen before, by `key_of`; it comes first within its kind, the heaviest before all.
        """
        if weights:
            kinds = {kind: at for at, kind in enumerate(dict.fromkeys(one.kind for one in candidates))}
            candidates = sorted(candidates, key=lambda one: (kinds[one.kind], -weights.get(key_of(one), 0.0)))
        self._rows = [_row(candidate, key_of(candidate) in weights) for candidate in candidates]
        self.loaded, self.at_once = True, at_once
        self.turn(0)

    # --- what is typed ---

    def type(self, typed: str) -> None:
        """Look for what is typed now."""
        if typed != self.typed:
            self.typed = typed
            self._look()

    def turn(self, step: int) -> None:
        """Go on to the next kind, or back to the previous one."""
        self.kind = TABS[(TABS.index(self.kind) + step) % len(TABS)]
        self._of_kind = [row for row in self._rows if self.kind in (ALL, row.candidate.kind)]
        self._ranking = Ranking([row.text for row in self._of_kind])
        self._by_key = {}
        for i, row in enumerate(self._of_kind):
            for key in row.candidate.keys:
                self._by_key.setdefault(key.lower(), []).append(i)
        self._look()

    def _look(self) -> None:
        found = self._ranking.ranked(self.typed)
        # What a chord or word is typed for comes first, whatever it is called.
        exact = self._by_key.get(self.typed.strip().lower(), [])
        if exact:
            found = exact + [i for i in found if i not in exact]
        self._found = [self._of_kind[i] for i in found]
        self.chosen = self.top = 0

    @property
    def word_stands(self) -> Candidate | None:
        """The candidate whose short word is what was typed, where such words are done at once."""
        if not self.at_once or not self._found:
            return None
        candidate = self._found[0].candidate
        word = self.typed.strip().lower()
        return candidate if any(key.lower() == word and "+" not in key for key in candidate.keys) else None

    # --- the choice ---

    @property
    def found(self) -> list[Candidate]:
        """What fits, best first."""
        return [row.candidate for row in self._found]

    @property
    def choice(self) -> Candidate | None:
        """The chosen candidate."""
        return self._found[self.chosen].candidate if self._found else None

    def move(self, step: int) -> None:
        """Choose one further down or up, no further than the ends."""
        self.chosen = max(0, min(self.chosen + step, len(self._found) - 1))

    def wander(self, step: int) -> None:
        """Choose one further down or up, round and round."""
        self.chosen = (self.chosen + step) % max(1, len(self._found))

    def jump(self, letter: str) -> Candidate | None:
        """Take a letter of a label; return the candidate once both are there. A wrong one ends the jumping."""
        label = (self.jumping or "") + letter.lower()
        if len(label) < 2:
            self.jumping = label if label in LETTERS else None
            return None
        self.jumping = None
        at = self.top + LABELS.index(label) if label in LABELS else -1
        if not self.top <= at < len(self._found):
            return None
        self.chosen = at
        return self.choice

    # --- what is shown ---

    def tabs(self) -> Fragments:
        """Return the line of kinds."""
        line: Fragments = []
        for tab in TABS:
            line += [(TAB_OPEN if tab == self.kind else TAB, f" {tab} "), ("", " ")]
        return line

    def status(self) -> Fragments:
        """Return the line below: how many fit, and what the keys do."""
        if not self.loaded:
            return [(FAINT, "looking at the desk …")]
        if self.jumping is not None:
            return [(LABEL, f"label: {self.jumping}_"), (FAINT, "   two letters do it, Escape leaves")]
        count = self.counted
        keys = "Enter do · ↑ ↓ choose · Tab kind · Ctrl+L labels · Escape leave"
        return [("", count), (FAINT, f"   {keys}")]

    def window(self, height: int) -> list[tuple[str, FinderRow, bool]]:
        """Return at most `height` rows that fit, with their labels, and which is the chosen one."""
        height = max(1, min(height, len(LABELS)))
        self.top = max(min(self.top, self.chosen), self.chosen - height + 1)
        rows = self._found[self.top : self.top + height]
        return [(LABELS[i], row, self.top + i == self.chosen) for i, row in enumerate(rows)]

    @property
    def counted(self) -> str:
        """How many fit, of how many."""
        return f"{len(self._found)} of {len(self._of_kind)}"

    def lines(self, height: int, width: int) -> list[Fragments]:
        """Return at most `height` lines of candidates, the chosen one among them, each at most `width` wide."""
        shown = self.window(height)
        query = Query.of(self.typed)
        rows = [row for _, row, _ in shown]
        if not rows and self.loaded:
            return [[(FAINT, "nothing fits" if self.typed.strip() else "there is nothing here")]]
        kinds = max((len(row.candidate.kind) for row in rows), default=0) if self.kind == ALL else 0
        keys = max((len(_keys(row)) for row in rows), default=0)
        # The keys stand beside the text and not at the far end, where the eye would lose the line.
        room = max(8, width - len(LABELS[0]) - 3 - (kinds + 2 if kinds else 0) - (keys + 2 if keys else 0))
        room = min(room, max((cell_width(row.shown) for row in rows), default=0))
        return [_line(row, label, query, chosen, kinds, room) for label, row, chosen in shown]


def _keys(row: FinderRow) -> str:
    return ", ".join(row.candidate.keys[:2])


def _line(row: FinderRow, label: str, query: Query, chosen: bool, kind_width: int, room: int) -> Fragments:
    keys = _keys(row)
    kind = f"{row.candidate.kind:<{kind_width}}  " if kind_width else ""
    shown = cut_to_cells(row.shown, room)
    base = CHOSEN if chosen else ""
    line: Fragments = [(LABEL, label), (base, " ▸ " if chosen else "   "), (base or FAINT, kind)]
    marks = query.marks(row.text)
    roles = [_role(at, row.split, marks) for at in range(len(shown))]
    start = 0
    for at in range(1, len(shown) + 1):
        if at == len(shown) or roles[at] != roles[start]:
            # The chosen line is of one colour, the marks apart: others would make it patchy.
            role = f"{base} {MARK}".strip() if roles[start] == MARK else base or roles[start]
            line.append((role, shown[start:at]))
            start = at
    line.append((base, " " * (room - cell_width(shown))))
    if keys:
        line.append((base or KEY, f"  {keys}"))
    return line


def _role(at: int, split: int, marks: frozenset[int]) -> str:
    if at in marks:
        return MARK
    return FAINT if at >= split else ""
