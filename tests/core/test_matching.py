"""Finding by a few letters."""

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from jaklet.core.values.matching import Query, Ranking, rank_texts, ready_text

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
    texts = [ready_text(text) for text in HARBOUR]
    assert [HARBOUR[i] for i in rank_texts(texts, typed)] == found


def test_the_beginning_of_a_word_comes_before_its_inside_and_that_before_scattered_letters() -> None:
    names = ["a-r-t", "start", "art of mooring", "chart"]
    assert [names[i] for i in rank_texts([ready_text(name) for name in names], "art")] == [
        "art of mooring", "start", "chart", "a-r-t",
    ]  # fmt: skip


def test_scattered_letters_are_looked_for_in_the_name_alone() -> None:
    assert rank_texts([ready_text("ledger  open at noon", label=6)], "lan") == []
    assert rank_texts([ready_text("ledger  open at noon", label=6)], "noon") == [0]


def test_a_letter_can_change_the_one_before_it() -> None:
    """As a sigma does at the end of a Greek word: what the line before has found is no guide then."""
    ranking = Ranking([ready_text("μασα"), ready_text("μας")])
    assert [ranking.ranked("ΜΑΣΑ"[:end]) for end in (2, 3, 4)] == [[1, 0], [1], [0]]


@given(st.text(max_size=30), st.text(max_size=8))
def test_what_is_marked_is_what_was_typed(text: str, typed: str) -> None:
    made, query = ready_text(text), Query.of(typed)
    assert len(made.small) == len(text)
    marks = query.marks(made)
    assert all(0 <= at < len(text) for at in marks)
    if query.score(made):
        for word, *_ in query.words:
            letters = iter(made.small[at] for at in sorted(marks))
            assert all(c in letters for c in word) or len(query.words) > 1


WORDS = st.lists(st.sampled_from(["a", "ab", "abc", "b", "ca"]), max_size=4).map(" ".join)  # some begin with another


@given(st.lists(st.text("abc -", max_size=6), max_size=12), st.lists(st.text("abc ", max_size=7) | WORDS, max_size=4))
@example(["xab", "a xab--"], ["ab ab"])
def test_typing_to_and_fro_finds_what_looking_at_each_text_finds(names: list[str], typed: list[str]) -> None:
    texts = [ready_text(name, rank=len(name) % 3) for name in names]
    ranking = Ranking(texts)
    for whole in typed:
        found = [*range(len(texts))]
        for end in range(len(whole) + 1):
            query = Query.of(whole[:end])
            scores = [query.score(text) for text in texts]
            before, found = found, ranking.ranked(whole[:end])
            assert found == sorted(
                (i for i, score in enumerate(scores) if score),
                key=lambda i: (-scores[i], texts[i].rank if query.words else 0, i),  # it is used at once
            )
            assert set(found) <= set(before)  # typing on finds no more
