"""The proof beside a plain search, which presses every key in every situation on a tabletop and looks at what comes."""

import re
from collections import deque
from pathlib import Path
from typing import NamedTuple

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaklet.checks.run import check_config, shelf_of
from jaklet.config.paths import locate_config
from jaklet.core.keys.keyboards import writes
from jaklet.core.values.chords import Chord, parse_chord
from jaklet.core.values.config import Binding, Config
from jaklet.desktops.tabletop.room import Room
from jaklet.installed.programs import InstalledPrograms
from jaklet.rehearsal.proving import prove
from jaklet.rehearsal.stage import PressResult, Rehearsal, RehearsalInputs
from jaklet.rehearsal.tabletops import room_for

HEAD = """\
apps:
  board: {launch: berth-board, window: {class: BerthBoard}}
  log: {launch: radio-log, window: {class: RadioLog}, types: true}
"""
LAYOUTS = {
    "one": "layout: one\nnumber: 1\nfocus: board\nwindows:\n- {app: board, place: left 1/2}\n",
    "two": "layout: two\nnumber: 2\nfocus: log\nwindows:\n- {app: log, place: full}\n",
}


def basis_of(folder: Path, text: str, **layouts: str) -> tuple[RehearsalInputs, Room]:
    (folder / "layouts").mkdir(exist_ok=True)
    for old in (folder / "layouts").iterdir():
        old.unlink()
    for name, layout in (LAYOUTS | layouts).items():
        (folder / "layouts" / f"{name}.yaml").write_text(layout)
    (folder / "jaklet.yaml").write_text(HEAD + text)
    places = locate_config(str(folder))
    result = check_config(places, InstalledPrograms(("berth-board", "radio-log")))
    assert not [one for one in result.errors if one.code[:3] not in ("JK2",)], (text, result.errors)
    return RehearsalInputs(result.config, shelf_of(places)), room_for(result.config)


def verdict(folder: Path, text: str, **layouts: str) -> list[str]:
    basis, room = basis_of(folder, text, **layouts)
    proof = prove(basis, room)
    assert not proof.cut
    return [f"{' '.join(map(str, one.keys))}: {one.problem}" for one in proof.found]


TRAPS = {
    "a layer that shadows a recall key": (
        "bindings: {super+1: recall one, super+w: enter arrange}\n"
        "layers: {arrange: {stays: true, bindings: {super+1: place left 1/2}}}",
        "super+w super+1: it does place left 1/2, not recall one",
    ),
    "a macro that enters a layer that no key leaves": (
        "bindings: {super+1: recall one, super+m: run morning}\nmacros: {morning: [recall two, enter stuck]}\n"
        "layers: {stuck: {stays: true, bindings: {escape: go board}}}",
        "super+m: no key leaves layer stuck",
    ),
    "an event at the start of the listener that never ends": (
        "settings: {while another runs: refuse}\nbindings: {super+1: run morning}\nevents: {listener starts: run slow}\n"
        "macros: {slow: [wait for windows of board > 9], morning: [recall one]}",
        "super+1: it is refused while run slow waits; `while another runs: replace` lets it in",
    ),
    "a macro that waits there for ever": (
        "bindings: {super+1: recall one, super+m: run morning}\nmacros: {morning: [enter stuck, wait for windows of board > 9]}\n"
        "layers: {stuck: {stays: true, bindings: {escape: go log}}}",
        "super+m: no key leaves layer stuck",
    ),
    "a scope that gives the key to a program for good": (
        "bindings: {super+1: {do: recall one, not in: log}, super+l: go log}",
        "super+l super+1: super+1 goes to log, and no key leads to where it works",
    ),
    "an event that moves the focus to where the key is hidden": (
        "bindings: {super+1: {do: recall one, not in: log}, super+b: go board}\nevents: {focus moves to board: go log}",
        "super+1 super+1: super+1 goes to log, and no key leads to where it works",
    ),
    "an event that opens a program where the key is hidden": (
        "bindings: {super+1: {do: recall one, not in: log}}\nevents: {window of board opens: go log}",
        "super+1 super+1: super+1 goes to log, and no key leads to where it works",
    ),
    "a sequence with a recall key behind": (
        "bindings: {super+1: recall one, super+x super+1: recall two}",
        "super+x super+1: it does recall two, not recall one",
    ),
    "a sequence that begins with one in a layer that passes keys on": (
        "bindings: {super+1: recall one, super+w: enter passing}\n"
        "layers: {passing: {stays: true, other keys: leave and pass on, bindings: {super+1 super+a: recall two, super+1 super+1: tell x}}}",
        "super+w super+1 super+1: it does tell x, not recall one",
    ),
    "a pause that nothing ends": (
        "bindings: {super+1: recall one, super+w: enter quiet}\nlayers: {quiet: {bindings: {p: pause}}}",
        "super+w p: no key ends the pause",
    ),
    "a macro that waits and so refuses the recall": (
        "bindings: {super+1: run morning, super+m: run slow}\nmacros: {morning: [recall one], slow: [wait 10s, recall two]}",
        "super+m super+1: it is refused while run slow waits; `while another runs: replace` lets it in",
    ),
    "a macro that recalls only where a layout stands": (
        "bindings: {super+1: run m, super+2: recall two}\nmacros: {m: [{when: layout is two, then: [recall one]}]}",
        "super+1: layout one does not stand after it",
    ),
    "a macro that does not recall on another workspace": (
        "bindings: {super+1: run m, super+2: workspace 2}\n"
        "macros: {m: [{when: workspace is 2, then: [tell x], else: [recall one]}]}",
        "super+2 super+1: layout one does not stand after it",
    ),
    "a macro that does not recall while a window is minimised": (
        "bindings: {super+1: run m, super+2: recall two, super+m: minimise log}\n"
        "macros: {m: [{when: log is minimised, then: [tell x], else: [recall one]}]}",
        "super+2 super+m super+1: layout one does not stand after it",
    ),
    "a macro that recalls up to a number of windows": (
        "bindings: {super+1: run m, super+2: launch log}\n"
        "macros: {m: [{when: windows of log >= 2, then: [tell x], else: [recall one]}]}",
        "super+2 super+2 super+1: layout one does not stand after it",
    ),
    "a macro within a macro that recalls only sometimes": (
        "bindings: {super+1: run m, super+2: workspace 2}\n"
        "macros: {m: [{repeat: 2 times, steps: [run n]}], n: [{when: workspace is 1, then: [recall one]}]}",
        "super+2 super+1: layout one does not stand after it",
    ),
    "an event that enters a layer that no key leaves": (
        "bindings: {super+1: recall one, super+l: go log}\nevents: {focus moves to log: enter stuck}\n"
        "layers: {stuck: {stays: true, bindings: {escape: go board}}}",
        "super+l: no key leaves layer stuck",
    ),
    "a key whose release recalls another layout": (
        "bindings:\n  super+1: [recall one, {do: recall two, on release: true}]\n",
        "super+1: letting go of it does recall two, after recall one",
    ),
    "a plain key that is typed": (
        "bindings: {super+w: enter tasks, super+l: go log}\n"
        "layers: {tasks: {stays: true, other keys: leave and pass on, bindings: {a: {do: recall one, not in: log}}}}",
        "super+l super+w a: a is typed into log",
    ),
}
SOUND = {
    "a macro that recalls either way": (
        "bindings: {super+1: run m, super+2: recall two}\n"
        "macros: {m: [{when: layout is two, then: [recall one], else: [go board, recall one]}]}"
    ),
    "a macro that flips between two": (
        "bindings: {super+1: run m}\nmacros: {m: [{when: layout is one, then: [recall two], else: [recall one]}]}"
    ),
    "a key that recalls when it is let go": "bindings: {super+1: {do: recall one, on release: true}, super+l: go log}",
    "an event that enters a layer with a way out": (
        "bindings: {super+1: recall one, super+l: go log}\nevents: {focus moves to log: enter in}\n"
        "layers: {in: {bindings: {a: gather}}}"
    ),
    "a layer that drops recall keys and has a way out": (
        "bindings: {super+1: recall one, super+w: enter arrange}\nlayers: {arrange: {stays: true, bindings: {a: gather}}}"
    ),
    "a layer that lasts while its key is held": (
        "bindings:\n  super+1: recall one\n  super+w: [enter arrange, {do: leave, on release: true}]\n"
        "layers: {arrange: {stays: true, bindings: {escape: gather, a: go log}}}"
    ),
    "a pause that its own key ends": "bindings: {super+1: recall one, super+p: pause}",
    "a macro that begins at the start of the listener, and gives way": (
        "settings: {while another runs: replace}\nbindings: {super+1: run morning}\nevents: {listener starts: run slow}\n"
        "macros: {slow: [wait for windows of board > 9], morning: [recall one]}"
    ),
    "macros that give way": (
        "settings: {while another runs: replace}\nbindings: {super+1: run morning, super+m: run slow}\n"
        "macros: {morning: [recall one], slow: [wait 10s, recall two]}"
    ),
    "a scope with keys that lead out": (
        "bindings: {super+1: {do: recall one, not in: log}, super+l: go log, super+b: go board}"
    ),
}


@pytest.mark.parametrize("trap", TRAPS)
def test_planted_traps_are_found(trap: str, tmp_path: Path) -> None:
    text, expected = TRAPS[trap]
    assert expected in verdict(tmp_path, text)


@pytest.mark.parametrize("name", SOUND)
def test_sound_configs_are_not_accused(name: str, tmp_path: Path) -> None:
    assert verdict(tmp_path, SOUND[name]) == []


def test_a_program_that_may_be_missing_is_no_counterexample(tmp_path: Path) -> None:
    text = "bindings: {super+1: recall one, super+3: recall three}"
    three = (
        "layout: three\nnumber: 3\nwindows:\n- {app: board, place: full}\n- {app: log, place: full, missing: skip}\n"
    )
    assert verdict(tmp_path, text, three=three) == []


def test_a_recall_that_fails_after_another_step_has_failed_is_found(tmp_path: Path) -> None:
    """The macro goes on past both."""
    text = "bindings: {super+1: run on}\nmacros: {on: {on failure: go on, steps: [focus left, recall three]}}"
    three = "layout: three\nnumber: 3\nwindows:\n- {app: board, place: full}\n- {class: Gone, place: full}\n"
    assert any("recall three: recalled three: 1 of 2" in one for one in verdict(tmp_path, text, three=three))


# --- beside a plain search ---

CHORDS = ("super+1", "super+2", "super+w", "super+x", "a")
ACTIONS = (
    "recall one", "recall two", "go board", "go log", "enter in", "leave", "pause", "tell x", "run m", "place left 1/2",
)  # fmt: skip
MACROS = (
    "[recall one]",
    "[go log]",
    "[enter in]",
    "[tell x]",
    "[recall two, go board]",
    "[run n]",
    "[{when: layout is two, then: [recall one]}]",
    "[{when: layout is two, then: [recall one], else: [recall two]}]",
    "[{when: front is log, then: [tell x], else: [recall one]}]",
    "[go log, {when: log is minimised, then: [recall two]}]",
    "[recall two, {when: windows of log >= 1, then: [run n]}]",
)
SCOPES = ("", "", "", "only in: log", "not in: log", "not in: board")
bound = st.tuples(
    st.lists(st.sampled_from(CHORDS), min_size=1, max_size=2).map(" ".join),
    st.sampled_from(ACTIONS),
    st.sampled_from(SCOPES),
)
configs = st.tuples(
    st.lists(bound, min_size=1, max_size=5, unique_by=lambda one: one[0]),
    st.lists(bound, max_size=3, unique_by=lambda one: one[0]),
    st.booleans(),
    st.booleans(),
    st.sampled_from(MACROS),
    st.sampled_from(
        [
            "",
            "events: {focus moves to board: go log}\n",
            "events: {window of log opens: go board}\n",
            "events: {listener starts: run m}\n",
            "events: {listener starts: enter in}\n",
        ]
    ),
)


Written = tuple[list[tuple[str, str, str]], list[tuple[str, str, str]], bool, bool, str, str]


def text_of(config: Written) -> str:
    outer, inner, stays, passes, macro, event = config

    def lines(bindings: list[tuple[str, str, str]], indent: str) -> str:
        return "".join(
            f"{indent}{keys}: {{do: {action}{', ' if scope else ''}{scope}}}\n" for keys, action, scope in bindings
        )

    inner = [one for one in inner if one[1] != "enter in"] or [("super+z", "tell z", "")]
    rest = "leave and pass on" if passes else "drop"
    layer = f"layers:\n  in:\n    stays: {str(stays).lower()}\n    other keys: {rest}\n    bindings:\n{lines(inner, '      ')}"
    return f"bindings:\n{lines(outer, '  ')}{layer}macros: {{m: {macro}, n: [recall one]}}\n{event}"


class Seen(NamedTuple):
    """What the next key's meaning can depend on, as it is seen from outside."""

    layer: str
    begun: tuple[Chord, ...]
    paused: bool
    front: str | None
    about: tuple[object, ...] = ()  # what a macro with a condition asks for


class Plain:
    """Every run of keys, shortest first, each pressed anew; one run for each situation is gone on from."""

    def __init__(self, basis: RehearsalInputs, room: Room, macro: str) -> None:
        self.basis, self.room, self.macro = basis, room, macro
        self.config: Config = basis.config
        self.chords = sorted({chord for one in self.config.live for chord in one.keys} | {parse_chord("escape")})
        self.next: dict[Seen, set[Seen]] = {}
        self.works: dict[tuple[Seen, Binding], bool | None] = {}  # None: other keys were asked for
        self.failed = False

    def pressed(self, run: tuple[Chord, ...]) -> tuple[Rehearsal, list[PressResult]]:
        stage = Rehearsal(self.basis, self.room)
        return stage, [stage.press(chord) for chord in run]

    def see(self, stage: Rehearsal) -> Seen:
        state = stage.session.state
        about: tuple[object, ...] = ()
        logs = [one for one in stage.desk.windows if one.cls == "RadioLog"]
        if self.config.events:
            about = bool(logs), any(one.cls == "BerthBoard" for one in stage.desk.windows)
        if "when" in self.macro:
            stands = next(iter(stage.history.layouts()), "")
            about += stands == "two", any(one.minimised for one in logs), bool(logs)
        return Seen(state.layer, state.begun, stage.session.paused, self.config.front_app(stage.desk), about)

    def target(self, binding: Binding) -> frozenset[str]:
        """Return the layouts one of which is to stand afterwards, by what is written."""
        action = binding.action
        if action.verb == "run":
            known = {"[recall two, {when: windows of log >= 1, then: [run n]}]": frozenset({"one", "two"})}
            named = re.findall(r"recall (one|two)", self.macro.replace("run n", "recall one"))
            return known.get(self.macro, frozenset(named))
        return frozenset({action.refs[0].name}) if action.verb == "recall" else frozenset()

    def holds(self) -> bool:
        recalls = [one for one in self.config.live if self.target(one)]
        runs: dict[Seen, tuple[Chord, ...]] = {self.see(Rehearsal(self.basis, self.room)): ()}
        ahead: deque[tuple[Seen, tuple[Chord, ...]]] = deque(runs.items())
        while ahead:
            seen, run = ahead.popleft()
            self.next[seen] = {seen._replace(begun=())} if seen.begun else set()
            for chord in self.chords:
                stage, _ = self.pressed((*run, chord))
                after = self.see(stage)
                self.next[seen].add(after)
                if after not in runs:
                    runs[after] = (*run, chord)
                    ahead.append((after, runs[after]))
            for binding in recalls:
                if binding.layer in ("", seen.layer):
                    self.works[seen, binding] = self.judge(seen, run, binding)
        return not self.failed and self.leads_out(recalls)

    def judge(self, seen: Seen, run: tuple[Chord, ...], binding: Binding) -> bool | None:
        """Press a recall key there, and say whether it works; note if it does what nobody asked for."""
        stage, acts = self.pressed((*run, *binding.keys))
        acts = acts[len(run) :]
        own = bool(binding.scope.apps) and not binding.scope.holds(seen.front)
        if seen.paused:
            return None
        did = [act for act in acts if act.meaning in ACTIONS]
        if did:
            meant = [one for one in self.config.live if str(one.action) == did[0].meaning]
            same = self.target(meant[0]) == self.target(binding) and acts[-1] is did[0]
            if same:
                self.failed |= next(iter(stage.history.layouts()), "") not in self.target(binding)
                return True
            self.failed |= not own
            return None if own else False
        passed = next((act for act in acts if act.passed), None)
        if passed:
            app = self.config.apps.get(seen.front or "")
            typed = writes(parse_chord(passed.pressed)) and app is not None and app.types
            self.failed |= typed or not own
        return None

    def leads_out(self, recalls: list[Binding]) -> bool:
        """Return whether keys lead from every situation to one without a layer, and to one where each key works."""

        def reach(goals: set[Seen]) -> set[Seen]:
            found = set(goals)
            while True:
                more = {one for one, after in self.next.items() if one not in found and after & found}
                if not more:
                    return found
                found |= more

        plain = {one for one in self.next if not (one.layer or one.begun or one.paused)}
        if reach(plain) != set(self.next):
            return False
        for binding in recalls:
            there = {one for one in plain if not binding.scope.apps or binding.scope.holds(one.front)}
            ways = reach(there)
            if any(self.works.get((one, binding), True) is None and one not in ways for one in self.next):
                return False
        return True


def same_verdict(config: Written, folder: Path) -> None:
    basis, room = basis_of(folder, text_of(config))
    proof = prove(basis, room)
    assert not proof.cut
    plain = Plain(basis, room, config[4])
    problems = [f"{' '.join(map(str, one.keys))}: {one.problem}" for one in proof.found]
    problems = [one for one in problems if "refused while" not in one and "as the layer is over" not in one]
    assert plain.holds() == (not problems), (text_of(config), problems, plain.works)


@settings(max_examples=60, suppress_health_check=[*HealthCheck], deadline=None)
@given(configs)
def test_the_proof_and_a_plain_search_say_the_same(tmp_path_factory: pytest.TempPathFactory, config: Written) -> None:
    same_verdict(config, tmp_path_factory.mktemp("proof"))


@pytest.mark.slow
@settings(max_examples=1000, suppress_health_check=[*HealthCheck], deadline=None)
@given(configs)
def test_the_proof_and_a_plain_search_say_the_same_of_a_thousand(
    tmp_path_factory: pytest.TempPathFactory, config: Written
) -> None:
    same_verdict(config, tmp_path_factory.mktemp("proof"))


def test_a_listener_begins_once_on_a_desk_that_goes_on(tmp_path: Path) -> None:
    basis, room = basis_of(tmp_path, 'events: {listener starts: tell "good morning"}\n')
    said = [[line.text for line in Rehearsal(basis, room, stood).opening] for stood in (None, ())]
    assert [any("good morning" in text for text in texts) for texts in said] == [True, False]
