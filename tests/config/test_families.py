"""Families of bindings: each member's positions are those of the text as it is written."""

from typing import Any

import yaml
from hypothesis import given
from hypothesis import strategies as st

from jaklet.config.families import MEMBERS, FamilyValue, family_marks, members
from jaklet.yaml_files.reader import Loader, SourceFile, Value

pieces = st.lists(st.sampled_from(["place ", "recall ", "x", " 1/2", " on quay"]), min_size=1, max_size=4)


@given(pieces, st.sampled_from([(mark, member) for mark, all_ in MEMBERS.items() for member in all_]))
def test_what_stands_around_a_mark_keeps_its_position(around: list[str], filling: tuple[str, str]) -> None:
    mark, member = filling
    written = mark.join(around).strip()
    source = SourceFile("f", f"key: {written}\n")
    node: Any = yaml.compose(source.text, Loader=Loader)
    value = Value(source, node.value[0][1])
    filled = FamilyValue(value, mark, member)
    text = filled.text or ""
    assert text == written.replace(mark, member)
    for at in range(len(text)):
        spot = filled.part(at, at + 1)
        shown = source.line(1)[spot.column - 1 : spot.end - 1]
        # A letter of a member is shown by its whole mark, or by the rest of it; any other by itself.
        assert shown == text[at] or shown in mark or mark in shown


def test_a_family_is_all_its_members_and_any_other_pair_is_itself() -> None:
    source = SourceFile("f", "super+<n>: {do: recall <n>, note: number <n>}\nsuper+a: close\n")
    node: Any = yaml.compose(source.text, Loader=Loader)
    (first, second) = [[*members(*pair)] for pair in Value(source, node).pairs()]
    assert [key.text for key, _ in first] == [f"super+{n}" for n in range(1, 10)]
    assert [[inner.text for _, inner in item.pairs()] for _, item in first[:2]] == [
        ["recall 1", "number 1"], ["recall 2", "number 2"],
    ]  # fmt: skip
    assert [(key.text, item.text) for key, item in second] == [("super+a", "close")]
    assert family_marks("super+<n> <side> <n> <x>") == ["<n>", "<side>"]
