"""Finding by a few letters."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.values.matching import Query, ranked, ready

HARBOUR = [
    "Berth board",
    "Radio log",
    "Tide gauge",
    "Ledger",
    "Letters to the pilot",
    "place left 2/3",
    "İstanbul chart",
]


@pytest.mark.parametrize(
    ("typed", "found"),
    [
        ("", HARBOUR),
        ("le", ["Ledger", "place left 2/3", "Letters to the pilot", "Tide gauge"][:3]),
        ("LOG", ["Radio log"]),
        ("log rad", ["Radio log"]),
        ("pilot let", ["Letters to the pilot"]),
        ("2/3", ["place left 2/3"]),
        ("bb", ["Berth board"]),  # scattered letters
        ("chart", ["İstanbul chart"]),
        ("zz", []),
        ("log log", ["Radio log"]),
    ],
)
def test_words_in_any_order_find_and_rank(typed: str, found: list[str]) -> None:
    texts = [ready(text) for text in HARBOUR]
    assert [HARBOUR[i] for i in ranked(texts, typed)] == found


def test_the_beginning_of_a_word_comes_before_its_inside_and_that_before_scattered_letters() -> None:
    names = ["a-r-t", "start", "art of mooring", "chart"]
    assert [names[i] for i in ranked([ready(name) for name in names], "art")] == [
        "art of mooring", "start", "chart", "a-r-t",
    ]  # fmt: skip


def test_scattered_letters_are_looked_for_in_the_name_alone() -> None:
    assert ranked([ready("ledger  open at noon", label=6)], "lan") == []
    assert ranked([ready("ledger  open at noon", label=6)], "noon") == [0]


@given(st.text(max_size=30), st.text(max_size=8))
def test_what_is_marked_is_what_was_typed(text: str, typed: str) -> None:
    made, query = ready(text), Query.of(typed)
    assert len(made.small) == len(text)
    marks = query.marks(made)
    assert all(0 <= at < len(text) for at in marks)
    if query.score(made):
        for word, *_ in query.words:
            letters = iter(made.small[at] for at in sorted(marks))
            assert all(c in letters for c in word) or len(query.words) > 1


@given(st.lists(st.text("abc -", max_size=6), max_size=12), st.text("abc ", max_size=5), st.text("abc ", max_size=3))
def test_typing_on_finds_no_more_and_looking_among_what_fitted_loses_nothing(
    names: list[str], typed: str, more: str
) -> None:
    texts = [ready(name) for name in names]
    before = ranked(texts, typed)
    after = ranked(texts, typed + more)
    assert set(after) <= set(before)
    assert ranked(texts, typed + more, before) == after
