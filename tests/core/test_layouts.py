"""Layouts beyond save and recall: parts, rules for other windows, pairing, displays, comparing, figures."""

import random
from collections.abc import Sequence
from fractions import Fraction
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import linear_sum_assignment

from jaklet.core.actions.begin import begin
from jaklet.core.actions.layouts.arriving import came_late
from jaklet.core.actions.layouts.capturing import Selection, capture_layout
from jaklet.core.actions.layouts.comparing import Difference, compare_layouts, layout_drift
from jaklet.core.actions.layouts.displays import best_arrangement, display_set
from jaklet.core.actions.layouts.imagining import imagine_desk, parse_displays
from jaklet.core.actions.layouts.pairing import OpenWindow, live_windows, pair_entries, pairing_costs, telling
from jaklet.core.actions.layouts.quality import quality
from jaklet.core.actions.layouts.recall import recall_layout
from jaklet.core.actions.layouts.saving import SaveRequest, save_layout
from jaklet.core.actions.placing.grounds import stand_in
from jaklet.core.actions.placing.lost import lost_windows
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome
from jaklet.core.language.actions import parse_action
from jaklet.core.language.place_grammar import parse_place
from jaklet.core.values.changes import Change, Close, Focus, Minimise, Move, Press, Raise
from jaklet.core.values.config import Config, Settings
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.forms import FullPlace
from jaklet.core.values.geometry import NO_LIMITS, Rect, SizeLimits
from jaklet.core.values.layouts import (
    ALL_PARTS,
    LAUNCH,
    PARTS,
    SKIP,
    WAIT,
    Arrangement,
    Layout,
    LayoutEntry,
    OtherWindows,
)
from jaklet.core.values.places import Place
from jaklet.desktops.drive import drive_task
from jaklet.rehearsal.memory import RehearsedHistory
from tests.core.test_recall import CONFIG, PROGRAMS, Table, changes, office, seen
from tests.strategies import forms

MAIN, QUAY = office().displays


def table(*programs: str, config: Config = CONFIG) -> Table:
    one = Table(config._replace(settings=config.settings._replace(wait=2)))
    one.history = RehearsedHistory()
    one.act(*(f"launch {program}" for program in programs)) if programs else None
    return one


def entry(app: str, place: str = "left 1/2 on main", **said: object) -> LayoutEntry:
    return LayoutEntry(app, None, None, parse_place(place))._replace(**said)  # type: ignore[arg-type]


def lay(*entries: LayoutEntry, **said: object) -> Layout:
    return Layout("bay", entries=entries)._replace(**said)  # type: ignore[arg-type]


def set_up(one: Table, layout: Layout) -> TaskOutcome:
    one.shelf.keep(layout)
    return one.act("recall bay")


def states(one: Table) -> dict[str, str]:
    """Return by program whether its window is in view, minimised, or on which other workspace."""
    desk = one.desk()
    return {
        w.instance: "minimised" if w.minimised else "seen" if desk.in_view(w) else f"on {w.workspace}"
        for w in desk.windows
    }


# Pairing -------------------------------------------------------------------------------------------------------------

titles = st.sampled_from(["to the pilot", "to the pilot (2 new)", "to the mayor", "", "*pilot*", "harbour dues"])
telling_entries = st.builds(
    lambda title, nth, place: LayoutEntry("letters", None, title, Place(place, "main"), nth=nth),
    st.none() | titles,
    st.none() | st.integers(1, 6),
    forms,
)


def test_two_entries_that_say_the_same_do_not_share_a_window() -> None:
    one = table("letters")
    twins = (entry("letters", title="Letters", nth=1), entry("letters", "right 1/2 on main", title="Letters", nth=1))
    assert len(pair_entries(lay(*twins), one.desk(), one.config).pairs) == 1


@given(st.lists(telling_entries, min_size=1, max_size=6), st.lists(titles, min_size=1, max_size=6), st.data())
def test_pairs_cost_the_least_there_is(entries: list[LayoutEntry], named: list[str], data: st.DataObject) -> None:
    """SciPy's assignment is the judge, of the same costs."""
    one = table(*["letters"] * len(named))
    frames = st.builds(Rect, st.integers(0, 1500), st.integers(40, 900), st.integers(50, 900), st.integers(50, 400))
    for standing, title in zip(one.desktop.room.standing.values(), named, strict=True):
        standing.window = standing.window._replace(title=title, frame=data.draw(frames))
    desk, layout = one.desk(), lay(*entries)
    pairs = pair_entries(layout, desk, one.config).pairs
    windows = live_windows(desk, one.config)[(True, "letters")]
    _, costs = pairing_costs(entries, windows, desk, one.config)
    column = {live.window.id: i for i, live in enumerate(windows)}
    assert len(pairs) == len(set(pairs.values())) == min(len(entries), len(named))
    rows, columns = linear_sum_assignment(np.array(costs))
    assert sum(costs[i][column[wid]] for i, wid in pairs.items()) == sum(
        costs[i][j] for i, j in zip(rows, columns, strict=True)
    )


@pytest.mark.parametrize("said", [{}, {"title": "Log"}, {"title": "Log", "nth": 1}])
def test_a_role_counts_for_more_than_all_else(said: dict[str, object]) -> None:
    """Each window stands where the other one belongs, and has opened, and is called, as the other one should."""
    frames = Rect(0, 40, 1280, 1400), Rect(1280, 40, 1280, 1400)
    windows = tuple(
        Window(i, cls="Radio-Log", title="Log", role=role, frame=frame, launched_for="radio-log")
        for i, (role, frame) in enumerate(zip("ab", frames, strict=True), 1)
    )
    display = Display("DP-1", Rect(0, 0, 2560, 1440), Rect(0, 40, 2560, 1400), True)
    desk = Desk((display,), windows, (1, 2), (2, 1), 2)
    own = entry("radio-log", "left 1/2 on main", role="b", **said)
    other = entry("radio-log", "right 1/2 on main", role="a", **(said | ({"nth": 2} if "nth" in said else {})))
    assert pair_entries(Layout("bay", entries=(own, other)), desk, CONFIG).pairs == {0: 2, 1: 1}


@pytest.mark.parametrize(
    ("said", "better", "worse"),
    [
        (
            {"title": "Tide log of June"},
            {"title": "Tide log of July"},
            {"title": "Ledger of June"},
        ),  # three words of five
        ({"title": "Tide *"}, {"title": "Tide gauge"}, {"title": "Radio"}),  # a pattern that matches
        ({"title": "Tide gauge"}, {"title": "TIDE GAUGE"}, {"title": "Tide"}),  # in capitals or not
        ({"title": "Tide"}, {"title": "Tide"}, {"title": "TIDE"}),  # to the letter
        ({"nth": 4}, {"nth": 3}, {"nth": 2}),
        ({"nth": 1}, {"nth": 2}, {"nth": 3}),
        ({"title": "Tide", "nth": 9}, {"title": "Tide", "nth": 1}, {"title": "Radio", "nth": 9}),
        ({"role": "log", "title": "Tide"}, {"role": "log", "title": "Radio"}, {"role": "chat", "title": "Tide"}),
    ],
)
def test_which_of_two_windows_fits_better(
    said: dict[str, object], better: dict[str, object], worse: dict[str, object]
) -> None:
    """Judged by eye, each row: role before title before order."""

    def of(facts: dict[str, object]) -> OpenWindow:
        return OpenWindow(
            Window(1, title=str(facts.get("title", "")), role=str(facts.get("role", ""))), int(str(facts.get("nth", 1)))
        )

    wanted = entry("letters", **said)  # type: ignore[arg-type]  # fields of Entry
    assert 0 <= telling(wanted, of(better)) < telling(wanted, of(worse))


def test_a_layout_for_more_workspaces_than_there_are_shows_the_last_one() -> None:
    one = table("letters")
    assert one.desk().workspaces == 4
    set_up(one, lay(entry("letters"))._replace(workspace=9))
    assert one.desk().workspace == 4


@given(st.lists(st.sampled_from(["a", "b", "c", "a b", "a b c"]), min_size=2, max_size=5), st.randoms())
def test_changed_titles_do_not_change_the_pairs(named: list[str], rng: random.Random) -> None:
    """Windows saved with their order of opening stay the same entries, whatever their titles become."""
    one = table(*["letters"] * len(named))
    room = one.desktop.room
    for standing, title in zip(room.standing.values(), named, strict=True):
        standing.window = standing.window._replace(title=title)
    one.act("save bay")
    layout = one.shelf.layouts["bay"]
    before = pair_entries(layout, one.desk(), one.config).pairs
    for standing in room.standing.values():
        standing.window = standing.window._replace(title=f"untitled {rng.random()}")
    assert pair_entries(layout, one.desk(), one.config).pairs == before


def test_what_only_nearness_tells_apart_is_said() -> None:
    one = table("letters", "letters")
    outcome = set_up(one, lay(entry("letters"), entry("letters", "right 1/2 on main")))
    assert outcome.done
    assert "which window of letters is which cannot be told" in outcome.more[0]
    one.act("close all of letters")
    assert "1 of 1 window" in set_up(one, lay(entry("letters", title="*pilot*"))).line


# What a layout holds, and what becomes of the rest --------------------------------------------------------------------


@given(st.sets(st.sampled_from(PARTS)), st.lists(changes, max_size=8), st.lists(changes, max_size=8))
def test_a_recall_sets_what_the_layout_holds_and_leaves_the_rest(
    parts: set[str], before: list[Change], after: list[Change]
) -> None:
    one = table(*PROGRAMS)
    one.desktop.apply(before)
    wanted = one.desk()
    moment = one.desktop.look()
    layout = capture_layout(
        moment.desk, one.config, name="bay", number=None, note="", selection=Selection(frozenset(parts))
    )
    one.desktop.apply(after)
    found = one.desk()
    assert set_up(one, layout).done
    desk = one.desk()
    for window in desk.windows:
        was, had = wanted.by_id[window.id], found.by_id[window.id]
        if "workspace" in parts:
            assert window.workspace == was.workspace
        elif not parts & {"focus", "state", "place"}:
            assert window.workspace == had.workspace
        if "state" in parts and was.shape is not WindowShape.TILED:
            assert (window.shape, window.above) == (was.shape, was.above)
            assert window.minimised == was.minimised or window.id == desk.active
        if "place" in parts and was.shape in (WindowShape.NORMAL, WindowShape.TILED) and "state" in parts:
            assert window.frame == was.frame
        if not parts:
            assert window == had
    if "order" in parts and not parts & {"focus"}:
        # Out of view there is no order that anybody sees.
        seen_then = [wid for wid in wanted.stacking if wanted.in_view(wanted.by_id[wid])]
        still = [wid for wid in desk.stacking if wid in seen_then]
        assert still == seen_then or not {"state", "workspace"} <= parts
    if "focus" in parts and layout.focus is not None:
        assert desk.active == wanted.active


OTHERS = [
    (None, {"radio-log": "seen", "letters": "seen"}),
    (OtherWindows("leave"), {"radio-log": "seen", "letters": "seen"}),
    (OtherWindows("minimise"), {"radio-log": "minimised", "letters": "minimised"}),
    (OtherWindows("workspace", 3), {"radio-log": "on 3", "letters": "on 3"}),
    (OtherWindows("close"), {"letters": "minimised"}),  # it is marked keep
]


@pytest.mark.parametrize(("others", "becomes"), OTHERS, ids=str)
def test_what_becomes_of_other_windows(others: OtherWindows | None, becomes: dict[str, str]) -> None:
    apps = {**CONFIG.apps, "letters": CONFIG.apps["letters"]._replace(stays=True)}
    one = table("radio-log", "letters", "berth-board", config=CONFIG._replace(apps=apps))
    one.act("go radio-log", "send to workspace 2", "launch radio-log")  # what is on another workspace is not in the way
    outcome = set_up(one, lay(entry("berth-board"), others=others))
    assert outcome.done, outcome
    found = states(one)
    assert found.pop("berth-board") == "seen"
    elsewhere = [w for w in one.desk().windows if w.workspace == 2]
    assert len(elsewhere) == 1
    if others == OtherWindows("close"):
        assert [w.instance for w in one.desk().windows if w.instance == "radio-log"] == ["radio-log"]
        assert found["letters"] == "minimised"
    else:
        latest = {w.instance: w for w in one.desk().windows if w.workspace != 2}
        told = {name: "minimised" if w.minimised else "seen" for name, w in latest.items() if name in becomes}
        assert {name: found[name] if found[name].startswith("on") else told[name] for name in becomes} == becomes
    told = {"leave": "", "close": ", 1 other put out of view, 1 other closed"}
    away = told.get(others.what if others else "leave", ", 2 others put out of view")
    assert outcome.line == f"recalled bay: 1 of 1 window in place, 1 moved{away}, focus: as it was"
    again = one.act("recall bay")
    assert "nothing to move" in again.line


def test_an_empty_layout_clears_the_desk_and_an_absent_app_goes_out_of_view() -> None:
    one = table("radio-log", "letters")
    assert set_up(one, lay()).done
    assert set(states(one).values()) == {"minimised"}
    one.act("go radio-log", "go letters")
    assert set_up(one, lay(entry("berth-board"), absent=("letters",))).done
    assert states(one) == {"radio-log": "seen", "letters": "minimised", "berth-board": "seen"}


def test_a_window_that_asks_before_it_closes_is_asked_once_and_told_of() -> None:
    one = table("radio-log")
    one.shelf.keep(lay(entry("berth-board"), others=OtherWindows("close")))
    asked: list[Change] = []
    task = recall_layout(one.shelf.layouts["bay"], TaskContext(one.config, one.shelf), one.desktop.look())
    ask = next(task)
    try:
        while True:
            asked += [change for change in ask.changes if isinstance(change, Close)]
            one.desktop.apply(change for change in ask.changes if not isinstance(change, Close))
            ask = task.send(one.desktop.wait(ask.until))
    except StopIteration as end:
        outcome: TaskOutcome = end.value
    assert len(asked) == 1
    assert not outcome.done
    assert any("was asked to close and is still open" in line for line in outcome.more)


MISSING = [(LAUNCH, "1 program launched", True), (SKIP, "0 of 0 windows", True), (WAIT, "0 of 1 window", False)]


@pytest.mark.parametrize(("missing", "said", "done"), MISSING)
def test_what_becomes_of_a_window_that_is_not_open(missing: str, said: str, done: bool) -> None:
    outcome = set_up(table(), lay(entry("berth-board", missing=missing)))
    assert said in outcome.line
    assert outcome.done == done
    assert outcome.more == () or "berth-board" in outcome.more[0]


def test_each_program_has_its_own_time() -> None:
    slow = office().programs["charts"]._replace(takes=4.0)
    apps = {**CONFIG.apps, "charts": CONFIG.apps["charts"]._replace(wait=5.0)}
    one = table(config=CONFIG._replace(apps=apps))
    one.desktop.room.programs = {**one.desktop.room.programs, "charts": slow}
    silent = office().programs["tide-gauge"]._replace(silent=True)
    one.desktop.room.programs["tide-gauge"] = silent
    outcome = set_up(one, lay(entry("charts"), entry("tide-gauge"), entry("berth-board", "right 1/2 on main")))
    assert outcome.line.startswith("recalled bay: 2 of 3 windows in place, 2 programs launched in 4.0 s")
    assert outcome.more == ("tide-gauge was launched but showed no window within 2 s",)


def test_what_is_done_after_is_done_with_its_window_in_front_and_the_focus_goes_where_it_belongs() -> None:
    one = table("radio-log")
    keys = (parse_action("press ctrl+1"),)
    layout = lay(entry("berth-board"), entry("radio-log", "right 1/2 on main", after=keys), focus=0)
    pressed: list[str] = []
    apply = one.desktop.apply

    def watch(asked: Sequence[Change], time: int = 0) -> None:  # noqa: ARG001  # as the desk has it
        for change in asked:
            if isinstance(change, Press):
                front = one.desk().front
                pressed.append(f"{front.instance if front else ''} {change.chords[0]}")
            apply([change])

    one.desktop.apply = watch  # type: ignore[method-assign,assignment]
    assert set_up(one, layout).done
    assert pressed == ["radio-log ctrl+1"]
    front = one.desk().front
    assert front
    assert front.instance == "berth-board"


def test_last_flips_between_two_layouts_and_home_is_the_marked_one() -> None:
    one = table("berth-board")
    one.shelf.keep(Layout("bay", entries=(entry("berth-board"),)))
    one.shelf.keep(Layout("pier", entries=(entry("berth-board", "right 1/2 on main"),), home=True))
    assert one.act("recall last").line == "no other layout was recalled here before"
    lines = [one.act(f"recall {word}").line.split(":")[0] for word in ("bay", "pier", "last", "last", "last", "home")]
    assert lines == [f"recalled {name}" for name in ("bay", "pier", "bay", "pier", "bay", "pier")]


def test_a_window_that_opens_later_has_its_place_kept() -> None:
    one = table("berth-board", "letters")
    layout = lay(entry("berth-board"), entry("tide-gauge", "right 1/2 on main", missing=SKIP, minimised=True))
    set_up(one, layout)
    late = one.desktop.room.add(office().programs["tide-gauge"])
    letters = one.desktop.room.add(office().programs["letters"])
    second = one.desktop.room.add(office().programs["berth-board"])
    desk = one.desk()
    plan = came_late(desk.by_id[late], layout, desk, one.config)
    assert plan
    assert list(plan.frames(desk)) == [Move(late, Rect(1284, 48, 1268, 1384))]
    assert came_late(desk.by_id[letters], layout, desk, one.config) is None
    assert came_late(desk.by_id[second], layout, desk, one.config) is None  # the place has its window


def test_the_window_that_is_to_have_the_focus_is_seen_first() -> None:
    one = table("berth-board", "radio-log", "letters")
    order = (entry("letters", "right 1/3 on main"), entry("radio-log", "full on quay"), entry("berth-board"))
    layout = lay(*order, focus=2, others=OtherWindows("minimise"))
    one.desktop.room.add(office().programs["charts"])
    ids = {w.instance: w.id for w in one.desk().windows}
    one.act("workspace 2")
    asked = layout_drift(layout, one.desk(), one.config).plan.needed(one.desk())
    assert [type(change).__name__ for change in asked] == [
        "ShowWorkspace",
        "Move",
        "Focus",
        "Move",
        "Move",
        "Minimise",
        "Stack",
    ]
    assert [change.window for change in asked[1:6]] == [  # type: ignore[union-attr]
        *([ids["berth-board"]] * 2), ids["letters"], ids["radio-log"], ids["charts"],
    ]  # fmt: skip


# Saving over ----------------------------------------------------------------------------------------------------------


def context(one: Table, **said: bool) -> TaskContext:
    return TaskContext(one.config, one.shelf, history=one.history)._replace(**said)  # type: ignore[arg-type]


def test_a_save_keeps_what_was_written_by_hand_and_no_desk_shows() -> None:
    one = table("berth-board", "radio-log")
    after = (parse_action("press ctrl+1"),)
    written = lay(
        entry("berth-board", after=after), entry("tide-gauge", missing=SKIP), entry("letters"),
        note="Mine", number=4, others=OtherWindows("minimise"), absent=("charts",), home=True,
        displays=display_set(one.desk(), one.config),
    )  # fmt: skip
    one.shelf.keep(written)
    outcome = save_layout(context(one), one.desktop.look(), SaveRequest("bay"))
    new = one.shelf.layouts["bay"]
    assert (new.note, new.number, new.others, new.absent, new.home) == (
        "Mine",
        4,
        OtherWindows("minimise"),
        ("charts",),
        True,
    )
    assert {e.label: (e.missing, e.after) for e in new.entries} == {
        "berth-board": (LAUNCH, after),
        "radio-log": (LAUNCH, ()),
        "tide-gauge": (SKIP, ()),
    }
    assert "1 of 2 windows not in it any more: letters" in outcome.more
    assert "not open, and kept in it: tide-gauge" in outcome.more


def test_a_save_over_a_layout_keeps_what_it_holds_and_is_about() -> None:
    one = table("berth-board", "radio-log")
    one.act("place radio-log full on quay")
    one.shelf.keep(lay(entry("radio-log"), holds=frozenset({"place"}), only_on=("quay",)))
    assert save_layout(context(one), one.desktop.look(), SaveRequest("bay")).done
    new = one.shelf.layouts["bay"]
    assert (new.holds, new.only_on, [e.label for e in new.entries]) == (frozenset({"place"}), ("quay",), ["radio-log"])
    assert save_layout(context(one), one.desktop.look(), SaveRequest("bay", selection=Selection(ALL_PARTS))).done
    assert one.shelf.layouts["bay"].holds == ALL_PARTS


@pytest.mark.parametrize("parts", [["focus"], ["order"], ["focus", "order"], ["workspace"], ["focus", "workspace"]])
def test_a_layout_of_neither_places_nor_states_launches_nothing(parts: list[str]) -> None:
    one = table("berth-board", "radio-log", "letters")
    one.act("minimise letters", "go radio-log")
    outcome = save_layout(context(one), one.desktop.look(), SaveRequest("bay", selection=Selection(frozenset(parts))))
    assert "it holds no places and no states, so that recalling it launches nothing" in outcome.more
    listed = [e.label for e in one.shelf.layouts["bay"].entries]
    front, order = ["radio-log"], ["radio-log", "berth-board"]
    wanted = [*order, "letters"] if "workspace" in parts else order if "order" in parts else front
    assert sorted(listed) == sorted(wanted)
    for name in ("radio-log", "letters"):
        one.act(f"close {name}")
    assert "launched" not in one.act("recall bay").line
    assert [w.instance for w in one.desk().windows] == ["berth-board"]


@pytest.mark.parametrize("rule", [OtherWindows("minimise"), OtherWindows("workspace", 3)])
def test_a_save_leaves_out_what_a_recall_has_put_out_of_view(rule: OtherWindows) -> None:
    one = table("berth-board", "radio-log", "letters", "tide-gauge")
    one.act("minimise letters")
    assert save_layout(context(one), one.desktop.look(), SaveRequest("bay")).done
    one.shelf.keep(one.shelf.layouts["bay"]._replace(others=rule))
    one.act("launch charts", "recall bay", "place berth-board left 1/3")
    assert one.desk().workspaces > 3
    outcome = save_layout(context(one), one.desktop.look(), SaveRequest("bay"))
    new = one.shelf.layouts["bay"]
    assert sorted(e.label for e in new.entries) == ["berth-board", "letters", "radio-log", "tide-gauge"]
    assert any(line.startswith("out of view as none of its windows, and left out: charts") for line in outcome.more)
    assert next(e for e in new.entries if e.label == "letters").minimised  # its own, and as it was saved before


def test_a_difference_from_the_desk_is_what_a_recall_does_and_no_more() -> None:
    one = table("berth-board", "radio-log")
    one.act("go berth-board", "maximise")
    maximised = entry("berth-board", shape=WindowShape.MAXIMISED)
    layout = lay(maximised, others=OtherWindows("close"), displays=display_set(one.desk(), one.config))
    radio = next(w.id for w in one.desk().windows if w.instance == "radio-log")
    drift = layout_drift(layout, one.desk(), one.config)
    assert (drift.changes, bool(drift.difference)) == ((Close(radio),), False)
    assert set_up(one, layout).done
    assert not layout_drift(layout, one.desk(), one.config)


def test_a_key_that_would_give_a_layout_another_number_waits_for_the_key_again() -> None:
    one = table("berth-board")
    one.shelf.keep(Layout("layout 3", number=7, entries=(entry("berth-board"),)))
    action = parse_action("save 3")
    first = drive_task(one.desktop, lambda moment: begin(action, context(one, by_key=True), moment))
    assert (first.done, first.asks_again) == (False, True)
    assert "its number is 3 now, and was 7" in first.more
    assert drive_task(one.desktop, lambda moment: begin(action, context(one, by_key=True, again=True), moment)).done
    assert one.shelf.layouts["layout 3"].number == 3


def test_on_other_displays_a_save_adds_an_arrangement_and_recalls_choose_by_the_displays() -> None:
    one = table("berth-board")
    one.act("place left 2/3", "save bay")
    first = one.shelf.layouts["bay"]
    one.desktop.room.displays = (MAIN._replace(rect=Rect(0, 0, 1920, 1080), work=Rect(0, 0, 1920, 1080)),)
    one.act("place right 1/2")
    said = save_layout(context(one), one.desktop.look(), SaveRequest("bay"))
    assert "it was saved on main and quay, and now there is main" in said.more
    both = one.shelf.layouts["bay"]
    assert both.arrangement == first.arrangement
    assert [e.place for one_ in both.arrangements for e in one_.entries] == [
        parse_place("left 2/3 on main"),
        parse_place("right 1/2 on main"),
    ]
    one.desktop.room.displays = (MAIN, QUAY)
    assert one.act("recall bay").done
    assert one.desk().windows[0].frame == Rect(8, 48, 1693, 1384)
    assert one.act("save bay").done
    assert one.shelf.layouts["bay"] == both  # each save goes to the arrangement of the displays that are there


CHOICES = [  # what is there, and which of the arrangements is chosen
    ({"main": "1920x1080+0+0"}, 0),
    ({"main": "1920x1080+500+0"}, 0),
    ({"main": "1280x800+0+0"}, 0),
    ({"main": "1920x1080+0+0", "quay": "1280x1024+1920+0"}, 1),
    ({"main": "2560x1440+0+0", "quay": "1280x1024+2560+0"}, 1),
    ({"main": "1920x1080+0+0", "pier": "1280x1024+1920+0"}, 0),
    ({"quay": "800x600+0+0"}, 1),
]


@pytest.mark.parametrize(("there", "index"), CHOICES)
def test_which_arrangement_goes_with_which_displays(there: dict[str, str], index: int) -> None:
    second = Arrangement({"main": "1920x1080+0+0", "quay": "1280x1024+1920+0"})
    layout = lay(displays={"main": "1920x1080+0+0"}, variants=(second,))
    assert layout.arrangements.index(best_arrangement(layout, there)) == index


# Other displays -------------------------------------------------------------------------------------------------------

sizes = st.tuples(st.integers(640, 2560), st.integers(480, 1600))


@given(
    st.lists(
        st.tuples(st.sampled_from(PROGRAMS), forms, st.sampled_from(["main", "quay"])),
        max_size=5,
        unique_by=lambda e: e[0],
    ),
    sizes,
    st.none() | sizes,
    st.booleans(),
)
def test_on_any_smaller_displays_every_window_can_be_reached_and_used(
    wanted: list[tuple[str, object, str]], size: tuple[int, int], second: tuple[int, int] | None, instead: bool
) -> None:
    least = SizeLimits(min_width=300, min_height=200)
    one = table(config=CONFIG._replace(elses={"quay": "main"} if instead else {}))
    room = one.desktop.room
    entries = []
    for program, form, display in wanted:
        wid = room.add(office().programs[program]._replace(limits=least))
        entries.append(entry(program, place=str(FullPlace()), missing=SKIP)._replace(place=Place(form, display)))  # type: ignore[arg-type]
        assert wid
    layout = lay(*entries, displays=display_set(one.desk(), one.config))
    rects = [Rect(0, 0, *size)] + ([Rect(size[0], 0, *second)] if second else [])
    names = ("DP-1", "HDMI-1") if second else ("DP-1",)
    room.displays = tuple(Display(name, rect, rect, rect.x == 0) for name, rect in zip(names, rects, strict=True))
    assert set_up(one, layout).done
    desk = one.desk()
    assert lost_windows(desk) == ()
    for window in desk.windows:
        if any(e.label == window.instance for e in layout.entries):
            assert window.frame.width >= 300
            assert window.frame.height >= 200
    would_be = imagine_desk(layout, room.displays, one.config)
    assert lost_windows(would_be) == ()


def test_a_missing_display_is_stood_in_for_by_the_one_that_its_else_names() -> None:
    three = CONFIG._replace(displays={"main": "A", "side": "B", "quay": "C"}, elses={"quay": "side", "side": "main"})
    displays = tuple(
        Display(name, Rect(i * 1000, 0, 1000, 800), Rect(i * 1000, 0, 1000, 800), i == 0) for i, name in enumerate("AB")
    )
    desk = Desk(displays)
    assert stand_in("quay", desk, three).name == "B"
    assert stand_in("quay", desk._replace(displays=displays[:1]), three).name == "A"
    assert stand_in("pier", desk, three).name == "A"
    assert (
        stand_in(
            "quay", desk, three._replace(elses={"quay": "side", "side": "quay"}, displays={"quay": "C", "side": "D"})
        ).name
        == "A"
    )


def test_displays_that_are_written() -> None:
    config = Config(displays={"main": "DP-1"})
    displays = parse_displays("main 1920x1080, HDMI-2 1280x1024", config)
    assert [(d.name, d.rect) for d in displays] == [
        ("DP-1", Rect(0, 0, 1920, 1080)),
        ("HDMI-2", Rect(1920, 0, 1280, 1024)),
    ]
    for wrong in ("", "main", "main 19x", "main 800x600, main 800x600"):
        with pytest.raises(Exception, match="display"):
            parse_displays(wrong, config)


# Comparing ------------------------------------------------------------------------------------------------------------


@st.composite
def some_layouts(draw: st.DrawFn) -> Layout:
    labels = draw(st.lists(st.sampled_from(["berths", "radio", "letters"]), max_size=5))
    entries = tuple(
        LayoutEntry(
            label,
            None,
            draw(st.none() | titles),
            Place(draw(forms), "main"),
            draw(st.integers(1, 3)),
            nth=draw(st.none() | st.integers(1, 3)),
        )
        for label in labels
    )
    focus = draw(st.none() | st.integers(0, len(entries) - 1)) if entries else None
    holds = draw(st.just(ALL_PARTS) | st.frozensets(st.sampled_from(PARTS)))
    return lay(
        *entries, focus=focus if "focus" in holds else None, holds=holds, number=draw(st.none() | st.integers(1, 9))
    )


def applied(earlier: Layout, difference: Difference) -> Layout:
    """Return what a layout becomes with a difference from it."""
    heads = {head.name: head.now for head in difference.heads}
    focus = difference.later.focus if difference.refocused else None
    if focus is None and earlier.focus is not None:
        focus = next((j for j, row in enumerate(difference.rows) if row.was == earlier.focus), None)
    if difference.later.focus is None:
        focus = None
    return earlier._replace(
        **heads, entries=tuple(row.entry for row in difference.rows), focus=focus, variants=difference.later.variants
    )


@given(some_layouts(), some_layouts())
def test_a_difference_is_empty_for_the_same_and_leads_from_one_to_the_other(one: Layout, other: Layout) -> None:
    assert not compare_layouts(one, one)
    difference = compare_layouts(one, other)
    assert applied(one, difference) == other
    assert bool(difference) == (one != other)


@given(st.lists(changes, max_size=10), st.lists(changes, max_size=10))
def test_doing_what_a_difference_from_the_desk_says_is_a_recall(before: list[Change], after: list[Change]) -> None:
    one, other = table(*PROGRAMS), table(*PROGRAMS)
    for each in (one, other):
        for i, standing in enumerate(each.desktop.room.standing.values()):
            standing.window = standing.window._replace(title=f"{standing.window.title} {i}")
        each.desktop.apply(before)
        each.act("save bay")
        each.desktop.apply(after)
    layout = one.shelf.layouts["bay"]
    assert one.act("recall bay").done
    for _ in range(3):
        drift = layout_drift(layout, other.desk(), other.config)
        other.desktop.apply(drift.plan.needed(other.desk()))
    assert seen(other.desk()) == seen(one.desk())
    calm = layout_drift(layout, one.desk(), one.config)
    assert calm.plan.needed(one.desk()) == ()
    assert not calm.difference.changed
    assert not calm.difference.appear


# Figures --------------------------------------------------------------------------------------------------------------


@given(
    st.lists(st.builds(Rect, st.integers(-3, 9), st.integers(-3, 9), st.integers(1, 9), st.integers(1, 9)), max_size=5)
)
def test_the_figures_are_those_of_counting_pixels(rects: list[Rect]) -> None:
    area = Rect(0, 0, 10, 8)
    one = table()
    one.desktop.room.displays = (Display("DP-1", area, area, True),)
    plain = office().programs["radio-log"]._replace(limits=NO_LIMITS)
    ids = [one.desktop.room.add(plain, rect) for rect in rects]
    figures = quality(one.desk())
    tops, twice, empty = dict.fromkeys(ids, 0), 0, 0
    for x, y in product(range(10), range(8)):
        here = [i for i, r in zip(ids, rects, strict=True) if r.x <= x < r.right and r.y <= y < r.bottom]
        empty += not here
        twice += len(here) > 1
        if here:
            tops[here[-1]] += 1
    assert [figures.wasted * 80, figures.overlap * 80] == [Fraction(empty), Fraction(twice)]
    assert {
        wid: share * r.width * r.height for (wid, share), r in zip(figures.seen.items(), rects, strict=True)
    } == tops


# Faults ---------------------------------------------------------------------------------------------------------------


def test_windows_that_come_go_and_change_their_names_in_the_midst_of_recalls() -> None:
    rng = random.Random(6)
    one = table(*PROGRAMS, config=CONFIG._replace(settings=Settings(wait=0.3)))
    one.act("save bay")
    layout = one.shelf.layouts["bay"]._replace(others=OtherWindows("minimise"))
    lines = set()
    room = one.desktop.room
    for _ in range(1000):
        one.desktop.apply(
            [Move(wid, Rect(rng.randrange(2000), 40, 400, 300)) for wid in room.standing if rng.random() < 0.4]
        )

        def meddled(moment: Moment) -> Task:
            task = recall_layout(layout, TaskContext(one.config, one.shelf), moment)
            try:
                ask = next(task)
                while True:
                    moment = yield ask
                    _meddle(room, rng)
                    ask = task.send(one.desktop.look()._replace(settled=moment.settled))
            except StopIteration as end:
                return end.value  # type: ignore[no-any-return]

        outcome = drive_task(one.desktop, meddled)
        lines.add(outcome.line)
        standing = int(outcome.line.split()[2])
        assert standing <= len(layout.entries)
        assert not outcome.done or standing == len(layout.entries)
    assert len(lines) > 3


def _meddle(room: object, rng: random.Random) -> None:
    from jaklet.desktops.tabletop.room import Room

    assert isinstance(room, Room)
    if room.standing and rng.random() < 0.3:
        room.change(Close(rng.choice(list(room.standing))))
    if len(room.standing) < 9 and rng.random() < 0.3:
        room.add(room.programs[rng.choice(PROGRAMS)])
    for standing in room.standing.values():
        if rng.random() < 0.3:
            standing.window = standing.window._replace(title=f"untitled {rng.randrange(9)}")
    if room.standing and rng.random() < 0.2:
        room.change(rng.choice([Minimise, Focus])(rng.choice(list(room.standing))))


@settings(max_examples=30)
@given(st.lists(st.sampled_from(PROGRAMS), min_size=1, max_size=4), st.booleans())
def test_windows_kept_above_come_back_so(programs: list[str], on: bool) -> None:
    one = table(*programs)
    one.desktop.apply([Raise(1, on)])
    one.act("save bay")
    wanted = seen(one.desk())
    one.desktop.apply([Raise(1, not on)])
    assert one.act("recall bay").done
    assert seen(one.desk()) == wanted
