"""From what is meant to its keys: words that stand nowhere on the sheet, actions, and things by their names."""

import pytest

from jaklet.core.keys.lookup import lines_about, lines_doing, other_words
from jaklet.core.keys.sheet import filter_lines, sheet_lines
from jaklet.core.language.actions import parse_action
from jaklet.core.language.place_grammar import parse_place
from jaklet.core.values.apps import App, exactly
from jaklet.core.values.chords import parse_keys
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.desktop_entries import parse_entry
from jaklet.core.values.spans import Spot

ENTRY = """[Desktop Entry]
Name=Dock Reader
GenericName=Web Browser
GenericName[de]=Netzbetrachter
Keywords=internet;tide\\;tables;
Exec=/usr/bin/dock-reader %U
"""


def bound(keys: str, action: str, family: tuple[str, str] | None = None, line: int = 1) -> Binding:
    return Binding(parse_keys(keys), parse_action(action), Spot("jaklet.yaml", line, 1, 2), family=family)


CONFIG = Config(
    apps={
        "reader": App("reader", ("dock-reader", "--new"), (exactly(cls="DockReader"),)),
        "radio": App("radio", ("radio-log",), (exactly(cls="RadioLog"),)),
    },
    places={"stern": parse_place("right 1/3"), "bow": parse_place("left 50%")},
    bindings=(
        bound("super+r", "go radio"), bound("super+w", "go reader or minimise"), bound("super+left", "place left 1/2"),
        bound("super+b", "place bow"), bound("super+s", "place radio stern"), bound("super+up", "place full on quay"),
        *(bound(f"super+{n}", f"recall {n}", ("super+<n>", "recall <n>"), 9) for n in (1, 2, 3)),
    ),
)  # fmt: skip
NUMBERS = {"1": "departures", "2": "arrivals"}


def found(words: str, locale: str = "C") -> list[str]:
    more = other_words(CONFIG, [parse_entry("dock", ENTRY, locale=locale)])
    return [line.keys for line in filter_lines(sheet_lines(CONFIG), words.split(), more=more)]


@pytest.mark.parametrize(
    ("words", "keys"),
    [
        ("half", ["super+left", "super+b"]),
        ("third", ["super+s"]),
        ("half bow", ["super+b"]),
        ("browser", ["super+w"]),
        ("dock-reader", ["super+w"]),
        ("tide;tables", ["super+w"]),
        ("minimise INTERNET", ["super+w"]),
        ("radiolog", ["super+r", "super+s"]),
        ("whole", ["super+up"]),
        ("quarter", []),
    ],
)
def test_words_that_stand_nowhere_find(words: str, keys: list[str]) -> None:
    assert found(words) == keys


def test_entries_speak_the_language_of_their_reader() -> None:
    assert found("netzbetrachter", "de_DE.UTF-8") == ["super+w"]
    assert found("netzbetrachter") == []


@pytest.mark.parametrize(
    ("action", "keys"),
    [
        ("go radio", ["super+r"]),
        ("place left 50%", ["super+left"]),  # however it is written
        ("minimise", ["super+w"]),
        ("recall arrivals", ["super+2"]),
        ("recall 1", ["super+1"]),
        ("recall nowhere", []),
        ("place radio left 1/2", []),
    ],
)
def test_an_action_has_its_keys(action: str, keys: list[str]) -> None:
    assert [line.keys for line in lines_doing(sheet_lines(CONFIG), parse_action(action), NUMBERS)] == keys


@pytest.mark.parametrize(
    ("kind", "name", "keys"),
    [
        ("app", "radio", ["super+r", "super+s"]),
        ("place", "stern", ["super+s"]),
        ("display", "quay", ["super+up"]),
        ("layout", "departures", ["super+1"]),
        ("layout", "2", ["super+2"]),
        ("layer", "radio", []),
    ],
)
def test_a_thing_has_its_keys(kind: str, name: str, keys: list[str]) -> None:
    assert [line.keys for line in lines_about(sheet_lines(CONFIG), kind, name, NUMBERS)] == keys
