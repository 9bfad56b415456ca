"""Actions: every verb's own example parses; errors point at the word; any text is an action or a clear error."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.language.actions import action_usage, parse_action
from jaklet.core.language.verbs import VERBS, Verb
from jaklet.core.values.errors import SentenceError

FAULTS = [
    ("", 0, "an action is missing"),
    ("plce left 1/2", 0, "no action is called 'plce'"),
    ("go", 2, "which app?"),
    ("go ber%ths", 3, "'ber%ths' is no app's name"),
    ("go berths now", 10, "'now' is too much for go"),
    ("place lft 2/3", 6, "'lft' begins no place"),
    ("place radio rihgt 1/3", 12, "'rihgt' begins no place"),
    ("place radio left 1/3 wide", 21, "'wide' is too much for place"),
    ("recall", 6, "which layout?"),
    ("recall a/b", 7, "'a/b' is no layout's name"),
    ("focus", 5, "which app?"),
    ("go berths backward", 10, "'backward' means nothing here"),
    ("go berths or", 12, "an action is missing"),
    ("go berths or fly", 13, "no action is called 'fly'"),
    ("go berths or " * 6 + "close", 65, "this says `or` too often"),
    ("focus window", 12, "which window?"),
    ("focus window 0xzz", 13, "which window?"),
    ("close all berths", 10, "'of' is missing"),
    ("minimise on", 9, "'on' cannot be an app's name"),
]
REFS: list[tuple[str, list[tuple[str, str, int, int]]]] = [
    ("go berths", [("APP", "berths", 3, 9)]),
    ("PLACE  radio  right 1/3 on quay", [("APP", "radio", 7, 12), ("PLACE", "right 1/3 on quay", 14, 31)]),
    ("recall  start of  day", [("LAYOUT", "start of day", 8, 21)]),
    ("save 3", [("NAME", "3", 5, 6)]),
    ("focus last", []),
    ("focus Top", [("SIDE", "up", 6, 9)]),
    ("focus next", [("STEP", "next", 6, 10)]),
    ("focus window 0x1A", [("WINDOW", "0x1A", 13, 17)]),
    (
        "go berths backwards or place left",
        [("APP", "berths", 3, 9), ("BACKWARDS", "backwards", 10, 19), ("ACTION", "place left", 23, 33)],
    ),
    ("close all of berths", [("ALL", "all", 6, 9), ("APP", "berths", 13, 19)]),
    ("close", []),
]


@pytest.mark.parametrize("verb", VERBS.values(), ids=lambda verb: verb.name)
def test_each_verb_explains_itself(verb: Verb) -> None:
    assert parse_action(verb.example).verb == verb.name
    assert action_usage(verb).startswith(verb.name)
    assert verb.help


@pytest.mark.parametrize(("text", "refs"), REFS)
def test_what_is_named_keeps_its_offsets(text: str, refs: list[tuple[str, str, int, int]]) -> None:
    assert [tuple(ref)[:4] for ref in parse_action(text).refs] == refs


@pytest.mark.parametrize(("text", "start", "message"), FAULTS)
def test_a_fault_names_its_word(text: str, start: int, message: str) -> None:
    with pytest.raises(SentenceError) as fault:
        parse_action(text)
    assert (fault.value.start, fault.value.message[: len(message)]) == (start, message)


words = st.sampled_from(
    [
        *VERBS,
        "or",
        "backwards",
        "all",
        "next",
        "window",
        "0x1",
        "left",
        "1/2",
        "on",
        "main",
        "berths",
        "of",
        "x",
        "60%",
        "at",
        "1,2",
        "size",
        "3x4",
        "",
    ]
)


@given(st.lists(words | st.text(max_size=5), max_size=7).map(" ".join))
def test_any_text_is_an_action_or_a_clear_error(text: str) -> None:
    try:
        action = parse_action(text)
    except SentenceError as fault:
        assert fault.message
        assert 0 <= fault.start < fault.end
    else:
        assert parse_action(str(action)).verb == action.verb
        for ref in action.refs:
            assert " ".join(text[ref.start : ref.end].split()) == " ".join(ref.name.split())


@pytest.mark.parametrize("number", ["0", "1000", "99999999999"])
def test_no_workspace_has_a_number_beyond_its_kind(number: str) -> None:
    with pytest.raises(SentenceError):
        parse_action(f"workspace {number}")
