"""Patterns: against a naive reading of them, and against texts made to be slow."""

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.values.globs import is_pattern, matches, overlap, says_something

patterns = st.text("ab*?", max_size=6)


def naive(pattern: str, text: str) -> bool:
    """Match by trying everything."""
    if not pattern:
        return not text
    if pattern[0] == "*":
        return any(naive(pattern[1:], text[i:]) for i in range(len(text) + 1))
    return bool(text) and pattern[0] in ("?", text[0]) and naive(pattern[1:], text[1:])


@given(patterns, st.text("ab", max_size=7))
def test_a_pattern_matches_what_it_says(pattern: str, text: str) -> None:
    assert matches(pattern, text) == naive(pattern, text)


@given(st.text("ab*?", max_size=3), st.text("ab*?", max_size=3))
def test_two_patterns_overlap_if_some_text_fits_both(one: str, other: str) -> None:
    # A text that fits both needs at most one character for each that either has of its own.
    texts = ("".join(letters) for size in range(7) for letters in product("ab", repeat=size))
    assert overlap(one, other) == any(naive(one, text) and naive(other, text) for text in texts)
    assert overlap(one, other) == overlap(other, one)


@given(st.text(max_size=20))
def test_a_text_with_its_signs_escaped_matches_itself_alone(text: str) -> None:
    plain = "".join(f"\\{c}" if c in "*?\\" else c for c in text)
    assert matches(plain, text)
    assert not is_pattern(plain)
    assert not matches(plain, text + "x")


@pytest.mark.parametrize(
    ("pattern", "text", "fits"),
    [
        ("Radio*", "Radio log\nof today", True),
        ("*log", "Radio log", True),
        ("radio*", "Radio log", False),
        ("Radio ???", "Radio log", True),
        ("*[draft]*", "a [draft] letter", True),
        (r"what\?", "what?", True),
        (r"what\?", "whatx", False),
        ("*a" * 40 + "*b", "a" * 65536, False),  # ages for a matcher that goes back
        ("*?a" * 20 + "b", "xa" * 30000, False),
    ],
)
def test_examples(pattern: str, text: str, fits: bool) -> None:
    assert matches(pattern, text) is fits


def test_a_star_alone_says_nothing() -> None:
    assert not says_something("*")
    assert not says_something("**?")
    assert says_something("*a")
