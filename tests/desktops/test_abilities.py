"""What a desk cannot do is said before it is needed: by check, by the listener, in the answer of an action."""

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.make_desks import page

from jaklet.checks.run import check_config
from jaklet.config.paths import locate_config
from jaklet.config.reading import MachineContext
from jaklet.core.actions.begin import begin
from jaklet.core.actions.tasks import TaskContext, TaskOutcome
from jaklet.core.keys.keymap import HearableKeys
from jaklet.core.language.ability_needs import dead_keys, missing_abilities
from jaklet.core.language.actions import parse_action
from jaklet.core.language.verbs import VERBS
from jaklet.core.values.changes import KINDS, Launch, Press, Shell
from jaklet.core.values.chords import parse_chord
from jaklet.core.values.config import Config
from jaklet.core.values.desk_abilities import EVERY, OF_KEYS, Abilities, Ability, ability_called
from jaklet.core.values.errors import StoreError
from jaklet.desktops.compositor import desktop
from jaklet.desktops.drive import drive_task
from jaklet.desktops.tabletop import room
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.desktops.tabletop.file import read_room
from jaklet.desktops.x11 import requests
from jaklet.desktops.x11.abilities import abilities_of
from jaklet.installed.programs import InstalledPrograms
from jaklet.rehearsal.memory import DraftLayouts
from jaklet.rehearsal.stage import Rehearsal, RehearsalInputs
from tests.core.test_recall import CONFIG, Shelf, office

TEXT = """
apps:
  berths: {launch: berth-board, window: {class: BerthBoard}}
  radio: {launch: radio-log, window: {class: RadioLog}}
bindings:
  super+b: go berths
  super+r: launch radio
  super+n: {do: focus next, repeat: true}
  super+h: {do: gather, on release: true}
  super+l: place left 1/2
  ctrl+e: {do: maximise, only in: berths}
  super+w: enter tidy
  super+o b: go radio
  super+t: type "Ellery"
  super+2: workspace 2
  super+m: run morning
layers: {tidy: {stays: true, bindings: {b: go radio, m: minimise}}}
macros: {morning: [go berths, wait for window of radio exists up to 2s, keep above on]}
events: {idle for 10m: gather, window of radio opens: place right 1/2}
words: {sh: shrink left}
"""
BERTHS, RADIO = "berth-board", "radio-log"
# An action that needs an ability, for each that a desk can have.
SENTENCES = [
    (Ability.SEE, "focus next"), (Ability.MOVE, "place left 1/3"), (Ability.SHAPE, "maximise"),
    (Ability.MINIMISE, "minimise"), (Ability.FOCUS, f"go {BERTHS}"), (Ability.ABOVE, "keep above on"),
    (Ability.CLOSE, "close"), (Ability.KILL, f"kill {BERTHS}"), (Ability.WORKSPACES, "workspace 2"),
    (Ability.WORKSPACES, "send to workspace 2"), (Ability.TYPE, "press ctrl+p"), (Ability.MOVE, "undo"),
    (Ability.MOVE, "send to display next"), (Ability.HEAR, "leave"), (Ability.WHOLE_KEYBOARD, "enter tidy"),
]  # fmt: skip


def laid(*sentences: str, abilities: Abilities = EVERY) -> tuple[Tabletop, Callable[[str], TaskOutcome]]:
    """Return a tabletop with two windows, on which these were done before it lost abilities, and what does more."""
    desktop, shelf = Tabletop(office().copy()), Shelf()

    def do(sentence: str) -> TaskOutcome:
        return drive_task(desktop, lambda moment: begin(parse_action(sentence), TaskContext(CONFIG, shelf), moment))

    for sentence in (f"go {RADIO}", f"go {BERTHS}", *sentences):
        assert do(sentence).done
    desktop.room.abilities = abilities
    return desktop, do


@pytest.mark.parametrize(("ability", "sentence"), SENTENCES)
def test_an_action_that_a_desk_cannot_do_is_refused_in_words_and_changes_nothing(
    ability: Ability, sentence: str
) -> None:
    desktop, do = laid(abilities=EVERY - {ability, Ability.ORDER})
    before = desktop.look().desk
    assert do(sentence) == TaskOutcome(False, ability.lacking)
    assert desktop.look().desk == before


# What is done before `bay` is saved, what is done to the desk after it, and what of a recall cannot be done then.
PARTS = [
    (Ability.STACK, "go tide-gauge", f"go {RADIO}", "could not stack from the front"),
    (Ability.FOCUS, "gather", f"go {RADIO}", "could not focus berth-board"),
    (Ability.MINIMISE, "minimise", f"go {BERTHS}", "could not minimise berth-board"),
    (Ability.SHAPE, "maximise", "restore", "could not make berth-board (Berth board) maximised"),
    (Ability.ABOVE, "keep above on", "keep above off", "could not keep berth-board (Berth board) above"),
    (Ability.WORKSPACES, "gather", "send to workspace 3", "could not send berth-board (Berth board) to workspace 1"),
]


@pytest.mark.parametrize(("ability", "first", "then", "told"), PARTS)
def test_a_recall_does_what_can_be_done_and_tells_the_rest(ability: Ability, first: str, then: str, told: str) -> None:
    _, do = laid(first, "save bay", then, abilities=EVERY - {ability, Ability.ORDER})
    outcome = do("recall bay")
    assert not outcome.done
    assert any(line.startswith(told) for line in outcome.more), outcome
    assert all(line.endswith(ability.lacking) for line in outcome.more)
    assert "stubborn" not in outcome.line
    assert laid(first, "save bay", then)[1]("recall bay").done


def test_every_change_and_every_verb_says_what_it_needs() -> None:
    for ability in [kind.needed for kind in KINDS.values() if kind.needed]:
        needed = {need.ability for verb in VERBS.values() for need in verb.traits.needs}
        assert ability in needed | {Ability.STACK, Ability.MAKE_WORKSPACES}, ability  # these two are parts of others


def read(folder: Path, abilities: Abilities) -> tuple[Config, list[str]]:
    room = office()
    (folder / "jaklet.yaml").write_text(TEXT)
    result = check_config(
        locate_config(str(folder)),
        InstalledPrograms(room.programs, room.entries()),
        MachineContext(abilities=abilities),
    )
    assert result.usable, result.findings
    return result.config, [one.cause for one in result.findings if one.code == "JK701"]


def test_the_page_about_desks_is_as_the_code() -> None:
    present = (Path(__file__).parents[2] / "docs" / "desks.md").read_text()
    assert present == page(present)


@given(st.sets(st.sampled_from(Ability)))
def test_whatever_a_desk_lacks_keys_work_or_are_the_programs_and_it_was_said(
    tmp_path_factory: pytest.TempPathFactory, lacking: set[Ability]
) -> None:
    """Any combination: no key is swallowed, nothing happens that the desk cannot do, nothing fails that was not said."""
    abilities = EVERY - lacking
    config, told = read(tmp_path_factory.mktemp("any"), abilities)
    said = [
        one
        for one in missing_abilities(config, abilities)
        if any(line.startswith(one.ability.lacking) for line in told)
    ]
    assert len(said) == len(told) == len(missing_abilities(config, abilities))
    room = office().copy()
    room.abilities = abilities
    stage = Rehearsal(RehearsalInputs(config, DraftLayouts(Shelf())), room)
    silent = not room.abilities >= {Ability.HEAR, Ability.UNASKED}
    for binding in config.live:
        if binding.layer or len(binding.keys) > 1:
            continue
        act = stage.press(binding.keys[0])
        dead = dead_keys(binding, abilities)
        scoped_out = binding.scope.apps and config.front_app(act.before) != "berths"
        assert act.passed == (bool(dead) or silent or bool(scoped_out)), (binding.written, dead)
        if dead:
            assert act.before == act.after
            assert act.meaning == f"nothing: {dead.lacking}"
        for line in act.lines:
            if line.failed and "this desktop cannot" in line.text:
                assert any(one.lacking in line.text for one in lacking), line


@given(st.sets(st.sampled_from(sorted(OF_KEYS, key=lambda one: one.value))))
def test_a_source_refuses_what_it_cannot_and_takes_nothing_from_programs(lacking: set[Ability]) -> None:
    room = office().copy()
    room.abilities = EVERY - lacking
    source = Tabletop(room).keyboard
    plain, scoped, later, held = (parse_chord(text) for text in ("super+b", "super+e", "super+l", "super+x"))
    room.taken = {held: "the crane"}
    asked = Ability.UNASKED in lacking
    refused = {
        one.chord: one for one in source.grab(HearableKeys(frozenset({plain, scoped, held}), frozenset({scoped})))
    }
    assert refused[held].owner == ("" if Ability.OWNER in lacking else "the crane")
    assert set(refused) - {held} == ({plain, scoped} if asked else {scoped} if Ability.PASS_ON in lacking else set())
    if asked:
        source.agree()
        late = source.changed()
        assert late is not None
        assert {one.chord for one in late.refusals} == {held, *({scoped} if Ability.PASS_ON in lacking else ())}
    assert source.changed() is None
    more = {one.chord for one in source.grab(HearableKeys(frozenset({plain, later})))}
    assert more == ({later} if Ability.AT_ONCE in lacking else set())
    whole = source.grab(HearableKeys(frozenset({plain}), every=True))
    assert [one.chord for one in whole] == ([None] if Ability.WHOLE_KEYBOARD in lacking else [])
    source.strike(parse_chord("q"))
    assert (source.passed == [parse_chord("q")]) == (Ability.WHOLE_KEYBOARD in lacking)
    assert [one.chord for one in source.probe([plain, held])] == [held]


def test_a_tabletop_file_says_what_it_lacks(tmp_path: Path) -> None:
    path = tmp_path / "tabletop.yaml"
    head = "displays: [{name: DP-1, area: 800x600+0+0}]\n"
    path.write_text(head + "lacks: [pass on, Whole  keyboard]\nkeyboard: {taken: {super+b: berthd}}\n")
    room = read_room(path)
    assert set(Ability) - room.abilities == {Ability.PASS_ON, Ability.WHOLE_KEYBOARD}
    assert room.taken == {parse_chord("super+b"): "berthd"}
    path.write_text(head + "lacks: [wings]\n")
    with pytest.raises(StoreError, match=re.escape("'wings' is no ability")):
        read_room(path)
    assert all(ability_called(one.word) is one for one in Ability)


@pytest.mark.parametrize(
    ("unsupported", "without", "lacking"),
    [
        (set(), set(), {Ability.PLACE_UNSEEN}),
        ({"_NET_WM_STATE_ABOVE"}, {"XTEST"}, {Ability.PLACE_UNSEEN, Ability.ABOVE, Ability.TYPE}),
        ({"_NET_WM_DESKTOP"}, {"MIT-SCREEN-SAVER"}, {Ability.PLACE_UNSEEN, Ability.WORKSPACES, Ability.IDLE}),
        ({"_NET_WM_STATE", "_NET_NUMBER_OF_DESKTOPS"}, set(),
         {Ability.PLACE_UNSEEN, Ability.SHAPE, Ability.MAKE_WORKSPACES}),
    ],
)  # fmt: skip
def test_an_x11_desk_can_what_its_manager_and_server_can(
    unsupported: set[str], without: set[str], lacking: set[Ability]
) -> None:
    can = abilities_of(lambda atom: atom not in unsupported, lambda name: name not in without)
    assert EVERY - OF_KEYS - can == lacking


def test_each_desk_makes_each_kind_of_change() -> None:
    """But for those that a real desk makes itself: it launches programs, and on X11 presses keys."""
    assert {*room.CHANGES} == {*KINDS}
    assert {*requests.REQUESTS} == {*KINDS} - {Launch, Press, Shell}
    assert {*desktop.REQUESTS} == {*KINDS} - {Launch}
