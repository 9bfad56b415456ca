"""Suggested keys: in random configs nothing gets in the way, and what is easiest is found; and the command."""

import json
import random
from itertools import permutations
from pathlib import Path

import pytest
import yaml

from jaklet.checks.run import CheckedConfig, check_config
from jaklet.config.paths import locate_config
from jaklet.config.reading import NOWHERE
from jaklet.core.values.chords import parse_chord
from jaklet.core.values.config import Binding
from jaklet.core.values.hands import BOTH_FREE
from jaklet.core.values.use_counts import name_of
from jaklet.drawing.suggestions import suggestion_text
from jaklet.installed.programs import InstalledPrograms
from jaklet.suggesting.prices import Efforts
from jaklet.suggesting.suggest import KeySuggestion, SuggestionRequest, moved_files, suggest
from tests.conftest import Office

KEYBOARDS = ("us", "de", "fr", "jp", "us, main block only", "dvorak", "tr", "gb, small laptop")
ACTIONS = (
    "go berths", "go berths backwards", "go radio", "focus left", "focus right", "focus last", "place left 1/2", "spread",
    "swap last", "undo", "close", "maximise", "enter arrange", "press ctrl+w", "press super+k", "pick windows while held",
)  # fmt: skip
FAMILIES = ("super+<n>: recall <n>", "alt+super+<side>: place <side> 1/2", "ctrl+alt+s <n>: save <n>")
KEYS = (
    *"abcdefghijklmnopqrstuvwxyz0123456789",
    "comma",
    "minus",
    "left",
    "f5",
    "space",
    "question",
    "tab",
    "é",
    "ß",
    "less",
)


def random_config(dice: random.Random) -> str:
    """Return a config that may have conflicts."""
    keyboards = dice.sample(KEYBOARDS, dice.randint(1, 3))
    hands = {"mouse": dice.choice(("left", "right", "neither")), "spare": dice.choice(("left little", "right ring"))}
    sets = dice.sample(("super+", "super+shift+", "ctrl+alt+", "super+alt+", "ctrl+super+"), dice.randint(1, 4))

    def lines(starts: list[str], most: int) -> dict[str, object]:
        found: dict[str, object] = {}
        for _ in range(dice.randint(1, most)):
            keys = dice.choice(starts) + dice.choice(KEYS)
            if dice.random() < 0.15:
                keys += " " + dice.choice(KEYS)
            does: object = dice.choice(ACTIONS)
            if dice.random() < 0.15:
                does = {"do": does, dice.choice(("only in", "not in")): dice.choice(("berths", "radio"))}
            elif dice.random() < 0.1:
                does = {"do": does, "off": "true"}
            found[keys] = does
        return found

    bindings = lines([*sets, "ctrl+", "f"][: len(sets) + dice.randint(0, 1)], 14)
    bindings |= dict(line.split(": ") for line in dice.sample(FAMILIES, dice.randint(0, 2)))
    config: dict[str, object] = {
        "settings": {"keyboard": keyboards, "hands": hands},
        "apps": {name: {"launch": "sh", "window": {"class": name}} for name in ("berths", "radio")},
        "bindings": bindings,
        "layers": {
            "arrange": {"stays": "true", "bindings": {**lines(["", "", "shift+"], 8), "shift+<side>": "focus <side>"}}
        },
    }
    plain = [keys for keys in bindings if "<" not in keys]
    if plain:
        config["trials"] = {"one": {"press": plain[:1], "expect": "nothing lost"}}
    return str(yaml.safe_dump(config, sort_keys=False, allow_unicode=True))


def told_of(folder: Path, text: str) -> CheckedConfig:
    (folder / "jaklet.yaml").write_text(text)
    return check_config(locate_config(str(folder)), InstalledPrograms(["sh"]), NOWHERE)


def suggested(result: CheckedConfig, dice: random.Random, wanted: SuggestionRequest) -> KeySuggestion:
    counts = {name_of(one): dice.choice((0, 0, 1, 5, 40, 300)) for one in result.config.bindings}
    return suggest(result.case, counts, wanted)


def meant(one: Binding) -> str:
    return repr((one.layer, one.action.text, str(one.scope), one.off, len(one.keys), one.family and one.family[1]))


@pytest.mark.parametrize("count", [30, pytest.param(1000, marks=[pytest.mark.slow, pytest.mark.timeout(1200)])])
def test_a_suggestion_never_makes_a_conflict(tmp_path: Path, count: int) -> None:
    """Whatever a check says of the new config, it has said of the old one, or nothing at all; and only keys change."""
    tried = moved = seed = 0
    while tried < count:
        seed += 1
        assert seed < 6 * count
        dice = random.Random(seed)
        text = random_config(dice)
        before = told_of(tmp_path, text)
        if before.errors:
            continue  # `jaklet keys suggest` refuses it
        tried += 1
        wanted = SuggestionRequest(dice.choice((0.0, 0.1, 0.5)), dice.choice((None, None, 1, 3)))
        told = suggested(before, dice, wanted)
        texts = moved_files(before.reading, told)
        if not told.moves:
            assert not texts
            continue
        moved += 1
        saved = sum(one.gain for one in told.moves)  # what is said of all: no fewer changes are said to save more
        assert f"save {saved * 100:.1f} %" in suggestion_text(told, None)
        assert all(1 - left <= saved + 1e-6 for changes, left in told.points if changes <= len(told.moves)), seed
        after = told_of(tmp_path, next(iter(texts.values())))
        known = {(one.code, one.cause) for one in before.findings}
        assert not [one for one in after.findings if (one.code, one.cause) not in known], (seed, told.moves)
        assert sorted(map(meant, before.config.bindings)) == sorted(map(meant, after.config.bindings))
        assert wanted.most is None or len(told.moves) <= wanted.most
        now = {one.keys for one in after.config.bindings}
        assert all(bound.keys in now for block in told.stay for bound in block.bounds)
    assert moved > count / 4


def test_of_few_keys_the_best_are_chosen(tmp_path: Path) -> None:
    """Beside all ways to give four chords to four bindings, with no other chord free."""
    keys = ("super+f", "super+q", "super+y", "super+b")
    free = [f"super+{key}" for key in KEYS] + ["super+" + key for key in ";.'/[]\\`=#"] + ["super+home", "super+end"]
    others = "".join(f"  {chord!r}: {{do: undo, off: true}}\n" for chord in dict.fromkeys(free) if chord not in keys)
    verbs = ("minimise", "restore", "maximise", "close")
    text = "bindings:\n" + "".join(f"  {key}: {verb}\n" for key, verb in zip(keys, verbs, strict=True)) + others
    result = told_of(tmp_path, text)
    counts = {name_of(one): times for one, times in zip(result.config.live, (1, 900, 30, 200), strict=True)}
    efforts = Efforts(result.case.keyboards, BOTH_FREE)
    told = suggest(result.case, counts, SuggestionRequest(habit=0.0))
    places = {one.block.does: str(one.to) for one in told.moves}
    found = [places.get(verb, key) for verb, key in zip(verbs, keys, strict=True)]

    def cost(order: tuple[str, ...]) -> float:
        weights = (2, 901, 31, 201)  # none of the letters begins a verb
        return sum(weight * efforts.of((parse_chord(key),)) for key, weight in zip(order, weights, strict=True))

    assert {*found} <= {*keys, "super+delete", "super+insert", "super+pageup", "super+pagedown"}
    assert cost(tuple(found)) == pytest.approx(min(cost(order) for order in permutations(keys)))
    assert told.points[0] == (0, 1.0)
    assert [left for _, left in told.points] == sorted((left for _, left in told.points), reverse=True)


def test_what_belongs_together_moves_together_or_not_at_all(tmp_path: Path) -> None:
    text = """
settings: {hands: {mouse: right}}
apps: {berths: {launch: sh}}
bindings:
  super+p: go berths
  super+shift+p: go berths backwards
  super+h: focus left
  super+l: focus right
  super+8: recall 8
  ctrl+alt+<n>: save <n>
  super+k x: undo
  super+k y: close
  super+z: minimise
  super+x: {do: restore, only in: berths}
  super+i: press super+i
  f9: maximise
"""
    result = told_of(tmp_path, text)
    counts = {name_of(one): 10 for one in result.config.bindings}
    told = suggest(result.case, counts, SuggestionRequest(habit=0.0, kept=(parse_chord("super+z"),)))
    assert {block.written: block.stays for block in told.stay} == {
        "super+h": "one of several sides", "super+l": "one of several sides", "super+8": "what it does names the key",
        "super+z": "it is to be kept", "super+i": "something presses it", "f9": "a key of its own",
    }  # fmt: skip
    moved = {one.block.written: one.written for one in told.moves}
    one, other = (parse_chord(keys) for keys in moved["super+p, super+shift+p"].split(", "))
    assert one.keysym == other.keysym
    assert result.case.keyboards[0].hand(one) == "left"  # the right one is at the mouse
    assert {keys.partition(" ")[0] for keys in moved["super+k x, super+k y"].split(", ")} != {"super+k"}
    assert moved["ctrl+alt+<n>"] == "super+shift+<n>" or "ctrl+alt+<n>" not in moved
    texts = moved_files(result.reading, told)
    assert not told_of(tmp_path, next(iter(texts.values()))).errors


def test_the_command_writes_what_it_shows(office: Office) -> None:
    text = office.config.read_text()
    plain = office.jaklet("keys", "suggest", "--keep", "super+g", "--since", "365d").stdout
    assert "nothing was counted yet" in plain
    assert "not moved (something presses it): super+b, super+shift+b" in plain
    assert office.config.read_text() == text
    data = json.loads(
        office.jaklet("keys", "suggest", "--keep", "nothing", "--changes", "3", "--format", "json").stdout
    )
    assert len(data["changes"]) == 3
    assert data["effort"]["after"] < data["effort"]["before"]
    office.jaklet("keys", "suggest", "--keep", "nothing", "--changes", "3", "--out", "curve.png")
    assert (office.folder / "curve.png").read_bytes().startswith(b"\x89PNG")
    shown = office.jaklet("keys", "suggest", "--keep", "nothing", "--changes", "3", "--apply").stdout
    now = office.config.read_text()
    assert "3 changes written into jaklet.yaml" in shown
    gone = [line for line in text.splitlines() if line not in now.splitlines()]
    assert gone == [line[1:] for line in shown.splitlines() if line.startswith("-") and not line.startswith("---")]
    assert len(gone) == 3
    assert [line.partition("#")[2] for line in now.splitlines()] == [
        line.partition("#")[2] for line in text.splitlines()
    ]
    office.jaklet("check")
    told = json.loads(
        office.jaklet(
            "keys",
            "suggest",
            "--keep",
            "nothing",
            "--changes",
            "1",
            "--apply",
            "--out",
            "curve.svg",
            "--format",
            "json",
        ).stdout
    )
    assert told["written"] == ["jaklet.yaml"]
    assert told["proven"] is True
    assert (office.folder / "curve.svg").exists()
    assert told["changes"][0]["better"] in office.config.read_text()
    assert "did you mean jaklet keys suggest?" in office.jaklet("keys", "sugest", status=1).stderr
    for words, said in (
        (("--heading", "layout"), "did you mean layouts?"),
        (("--keep", "super+nokey"), "no key is called 'nokey'; or `habits` or `nothing`"),
        (("--keep", "habit"), "did you mean habits?"),
        (("--since", "soon"), "is no number of days"),
        (("--out", "x.gif"), "names no format"),
    ):
        assert said.partition(";")[0] in office.jaklet("keys", "suggest", *words, status=2).stderr
    office.config.write_text("bindings:\n  super+b: undo\n  Super+B: close\n")
    assert "super+b is bound already" in office.jaklet("keys", "suggest", status=1).stderr
