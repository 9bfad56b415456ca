"""What an editor shows of its own accord, worked out by hand."""

import pytest

from jaklet.editor.annotations import folds, tidied

FOLDS = {
    "": [],
    "a: 1": [],
    "a:\n  b: 1": [(0, 1)],
    "a:\n  b: 1\nc: 2": [(0, 1)],
    "a:\n  b:\n    c: 1\n  d: 2\ne:\n  f: 3": [(0, 3), (1, 2), (4, 5)],
    "a:\n\n  # a remark\n  b: 1\n\n# of c\nc: 2": [(0, 3)],
    "a:\n- b: 1\n  c: 2\n- d: 3": [(0, 3), (1, 2)],  # items as deep as their key
    "a:\n  - b: 1\n  - c: 2": [(0, 2)],
    "a:\n      b: 1\n  c: 2": [(0, 2)],
}


@pytest.mark.parametrize("text", FOLDS)
def test_what_stands_deeper_can_be_folded(text: str) -> None:
    assert folds(text.split("\n")) == FOLDS[text]


def test_a_text_is_tidied() -> None:
    assert tidied("a: 1  \n\tb\t\n\n\n") == "a: 1\n\tb\n"
    assert tidied("a") == "a\n"
