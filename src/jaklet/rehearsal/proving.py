"""A proof by trying everything that keys can lead to.

The claim: from each state that keys can reach, every recall key leads to its layout, unless the user has asked for
other keys there (a layer, a pause, a scope that gives the key to a program). Then keys lead out of that state to where
the recall key works. Every layer can be left.

A state is what the meaning of the next key depends on: the layer, the begun sequence, the pause, the app in front, the
macros that wait, and which of the macros' conditions hold. The keymap gives the meaning of keys, at no cost. The effect
of an action is found on a tabletop, once for each action in each situation of the desk. A counterexample is a row of
keys that can be pressed on the desk that the proof began with.
"""

from collections import deque
from collections.abc import Iterator
from typing import Final

from jaklet.core.actions.condition_answers import holds
from jaklet.core.actions.macros.flow import condition_facts
from jaklet.core.keys.keyboards import writes
from jaklet.core.keys.keymap import ESCAPE, REST, KeymapState, KeyMeaning
from jaklet.core.language.verbs import PAUSE, RECALL, RESUME, RUN, FocusAfter, traits_of
from jaklet.core.values.chords import Chord, Keys
from jaklet.core.values.config import Binding
from jaklet.core.values.scopes import Scope
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import either
from jaklet.desktops.tabletop.room import Room
from jaklet.rehearsal.proofs import ActionEffect, Counterexample, Proof, ProofNode, ProofState, Situation
from jaklet.rehearsal.recall_targets import RecallTargets
from jaklet.rehearsal.stage import Rehearsal, RehearsalInputs

MOST_STATES: Final = 20_000
MOST_PRESSES: Final = 40_000


def prove(basis: RehearsalInputs, room: Room) -> Proof:
    """Try every key in every state that keys can reach."""
    return _Prover(basis, room).run()


class _Prover:
    def __init__(self, basis: RehearsalInputs, room: Room) -> None:
        self._keymaps = basis.keymaps_for(room)
        self.basis, self.room = basis, room
        self.config = config = basis.config
        self.proof = Proof(chords=len({chord for one in config.live for chord in one.keys}))
        self.targets = RecallTargets(config, basis.shelf)
        self.recalls = [(one, names) for one in config.live if (names := self.targets.of(one.action))]
        self.conditions = tuple(dict.fromkeys(self.targets.conditions()))
        self.watched = tuple(dict.fromkeys(self.targets.watched_apps()))
        self.nodes: dict[ProofState, ProofNode] = {}
        self.situations: dict[tuple[str | None, tuple[str, ...], tuple[bool, ...]], Situation] = {}
        self.effects: dict[tuple[int, Action, KeymapState], ActionEffect] = {}

    def _holds(self, stage: Rehearsal) -> tuple[bool, ...]:
        """Return which of the conditions hold on a desk."""
        found: tuple[bool, ...] = ()
        if self.conditions:
            asked = condition_facts(stage.session.context(), stage.desktop.look())
            found = tuple(holds(condition, asked) for condition in self.conditions)
        found += tuple(bool(self.config.claims.windows_of(app, stage.desk)) for app in self.watched)
        return found

    def run(self) -> Proof:
        """Look for counterexamples."""
        proof, names = self.proof, self.basis.shelf.names()
        proof.layouts, proof.layers = len(names), len(self.config.layers)
        keyed = {name for _, names in self.recalls for name in names}
        proof.unreached = [name for name in names if name not in keyed]
        self._explore()
        proof.states = len(self.nodes)
        proof.foci = len({state.front for state in self.nodes})
        self._look_at_recalls()
        self._look_at_releases()
        self._look_at_waiting()
        proof.found += self._typed_after()
        proof.found = sorted(self._shortest(), key=lambda one: len(one.keys))
        return proof

    def _shortest(self) -> list[Counterexample]:
        """Return one counterexample for each thing that is wrong: the shortest."""
        best: dict[tuple[str, str, str], Counterexample] = {}
        for one in self.proof.found:
            key = (one.binding.written if one.binding else "", one.layer, one.problem)
            if key not in best or len(one.keys) < len(best[key].keys):
                best[key] = one
        return [*best.values()]

    # --- what keys lead to ---

    def _stage(self, desk: Situation) -> Rehearsal:
        """Return a desk as it was, with what was under way then."""
        stage = Rehearsal(self.basis, desk.room, None if desk.from_start else desk.stood)
        for binding in desk.begun:
            self._do(stage, binding)
        return stage

    def _do(self, stage: Rehearsal, binding: Binding) -> list[str]:
        """Do what a key is bound to; return what failed, in the order in which it did."""
        self.proof.presses += 1
        return [line.text for line in stage.do(binding).lines if line.failed]

    def _waits(self, stage: Rehearsal) -> tuple[str, ...]:
        return tuple(sorted(one for one in stage.session.under_way if one.startswith(f"{RUN} ")))

    def _situation_of(
        self, stage: Rehearsal, former: Situation, binding: Binding | None
    ) -> tuple[str | None, tuple[str, ...], tuple[bool, ...], Situation]:
        """Return the app in front, what waits, which conditions hold, and the desk; the same one for all these."""
        front, waits, asked = self.config.front_app(stage.desk), self._waits(stage), self._holds(stage)
        known = self.situations.get((front, waits, asked))
        if known is None:
            number, stood = len(self.situations), tuple(stage.history.layouts())
            begun = (*former.begun, binding) if waits and binding else ()
            from_start = bool(waits) and former.from_start
            again = bool(begun) or from_start
            room = former.room if again else stage.desktop.room.copy()
            known = Situation(number, room, former.stood if again else stood, begun, from_start)
            self.situations[front, waits, asked] = known
        return front, waits, asked, known

    def _explore(self) -> None:
        first = Rehearsal(self.basis, self.room)
        start = Situation(-1, self.room, tuple(first.history.layouts()), from_start=True)
        front, waits, asked, desk = self._situation_of(first, start, None)
        begins = ProofState(first.session.state, first.session.paused, front, waits, holds=asked)
        ahead = deque([self._node(begins, (), desk)])
        while ahead:
            node = ahead.popleft()
            for state, chord, desk in self._steps(node):
                if state not in self.nodes:
                    keys = (*node.path, chord) if chord else node.path
                    ahead.append(self._node(state, keys, desk))
                node.next.setdefault(state, chord)
            if len(self.nodes) > MOST_STATES or self.proof.presses > MOST_PRESSES:
                self.proof.cut = True
                return

    def _node(self, state: ProofState, path: Keys, desk: Situation) -> ProofNode:
        self.nodes[state] = ProofNode(state, path, desk)
        return self.nodes[state]

    def _steps(self, node: ProofNode) -> Iterator[tuple[ProofState, Chord | None, Situation]]:
        """Yield the states that a key, or time, leads to."""
        state, keymap = node.state, self._keymaps[node.state.paused]
        keys = state.keys
        chords = {*keymap.hearing(keys).chords, ESCAPE}
        for chord in sorted(chords):
            if chord == ESCAPE and state.waits and keys == REST and ESCAPE not in keymap.hearing(REST).chords:
                yield from self._stopped(node)
                continue
            step = keymap.press(keys, chord, lambda: state.front)
            if step.passed:
                continue
            if step.on_release:
                # Until the key is let go, there may be a layer that lasts as long.
                let_go = keymap.release(step.state, step.on_release)
                for after, key, desk in self._pressed(node, chord, step):
                    yield after._replace(held=let_go), key, desk
                yield from self._bound(node, chord, step.on_release, let_go)
            else:
                yield from self._pressed(node, chord, step)
        if state.held is not None:
            yield state._replace(keys=state.held, held=None), None, node.desk
        if keys.begun:
            yield state._replace(keys=KeymapState(keys.layer)), None, node.desk
        elif keys.layer and self.config.layers[keys.layer].ends_after is not None:
            yield state._replace(keys=REST), None, node.desk

    def _pressed(
        self, node: ProofNode, chord: Chord, step: KeyMeaning
    ) -> Iterator[tuple[ProofState, Chord | None, Situation]]:
        """Yield the state that a key leads to by going down."""
        if step.binding:
            yield from self._bound(node, chord, step.binding, step.state)
        else:
            state = node.state
            yield state._replace(keys=step.state, held=self._still(state, step.state)), chord, node.desk

    def _stopped(self, node: ProofNode) -> Iterator[tuple[ProofState, Chord | None, Situation]]:
        """Yield the states after Escape has stopped the waiting macros."""
        stage = self._stage(node.desk)
        stage.press(ESCAPE)
        front, waits, asked, desk = self._situation_of(stage, node.desk, None)
        if not waits:
            yield node.state._replace(front=front, waits=waits, held=None, holds=asked), ESCAPE, desk

    @staticmethod
    def _still(state: ProofState, after: KeymapState) -> KeymapState | None:
        """Return where letting go of the key leads that is still down, if there is one and its layer is on."""
        return state.held if after.layer == state.keys.layer else None

    def _bound(
        self, node: ProofNode, chord: Chord, binding: Binding, after: KeymapState
    ) -> Iterator[tuple[ProofState, Chord | None, Situation]]:
        """Yield the state that a binding leads to; note a recall that fails."""
        state, verb = node.state, binding.action.verb
        if verb in (PAUSE, RESUME):
            paused = verb == PAUSE and not state.paused
            yield state._replace(keys=REST, paused=paused, held=None), chord, node.desk
            return
        if not (self.conditions or self.watched) and all(
            traits_of(one).focus is FocusAfter.STAYS for one in binding.action.every()
        ):  # nothing that keys depend on
            yield state._replace(keys=after, held=self._still(state, after)), chord, node.desk
            return
        # A macro can go by the layer that is on; nothing else can.
        known = node.desk.number, binding.action, after if verb == RUN else REST
        if known not in self.effects:
            self.effects[known] = self._effect(node.desk, binding, known[2])
        effect = self.effects[known]
        if effect.problem:
            self.proof.found.append(Counterexample((*node.path, chord), effect.problem, binding))
        # An event that the action brings about can enter a layer, too.
        keys = effect.keys if verb == RUN or effect.keys != REST else after
        held = self._still(state, keys)
        yield ProofState(keys, effect.paused, effect.front, effect.waits, held, effect.holds), chord, effect.desk

    def _effect(self, desk: Situation, binding: Binding, keys: KeymapState) -> ActionEffect:
        stage = self._stage(desk)
        if keys.layer:
            stage.session.enter(keys.layer)
        failed = self._do(stage, binding)
        front, waits, asked, after = self._situation_of(stage, desk, binding)
        target = self.targets.of(binding.action)
        problem = ""
        if target and next(iter(stage.history.layouts()), "") not in target and not waits:
            problem = next(iter(failed), f"layout {either(sorted(target))} does not stand after it")
        elif target:  # a macro can go on after a step that failed, and fail again in its recall
            problem = next((line for line in failed if binding.action.verb == RECALL or "recall" in line), "")
        return ActionEffect(front, waits, stage.session.state, stage.session.paused, after, problem, asked)

    # --- what is claimed of it ---

    def _look_at_recalls(self) -> None:
        """Find recall keys that do not work where they should, or where nothing leads out."""
        plain = {state for state in self.nodes if state.is_plain}
        out = self._leading_to(plain)
        self._look_at_layers(out)
        ways: dict[object, dict[ProofState, Chord | None]] = {}
        for node in self.nodes.values():
            state = node.state
            for binding in [one for one, _ in self.recalls if one.layer in ("", state.keys.layer)]:
                scope, why = binding.scope, self._status(state, binding)
                if why is ASKED:
                    if scope not in ways:
                        ways[scope] = self._leading_to({one for one in plain if _in_scope(scope, one.front)})
                    left_out = state.keys.layer and state not in out  # such a layer is told of as that
                    why = "" if left_out or state in ways[scope] else _stuck(state, binding)
                if why:
                    self.proof.found.append(Counterexample((*node.path, *binding.keys), why, binding))

    def _look_at_layers(self, out: dict[ProofState, Chord | None]) -> None:
        """Find layers that cannot be left, and tell of those that can, how."""
        told: set[str] = set()
        for state, node in self.nodes.items():
            layer = state.keys.layer
            if state not in out:
                if layer:
                    self.proof.found.append(Counterexample(node.path, f"no key leaves layer {layer}", None, layer))
                elif state.paused:
                    self.proof.found.append(Counterexample(node.path, "no key ends the pause"))
            elif (layer or state.paused) and not state.keys.begun and state.held is None:
                where = f"in layer {layer}" if layer else "in a pause"
                if where not in told:
                    told.add(where)
                    way = out[state]
                    self.proof.asked.append(f"{where}: {way} leads out" if way else f"{where}: time leads out")

    def _leading_to(self, goals: set[ProofState]) -> dict[ProofState, Chord | None]:
        """Return the states from which keys lead to one of some states, each with the first key of the way."""
        before: dict[ProofState, list[ProofState]] = {}
        for node in self.nodes.values():
            for state in node.next:
                before.setdefault(state, []).append(node.state)
        found: dict[ProofState, Chord | None] = dict.fromkeys(goals, None)
        ahead = deque(goals)
        while ahead:
            state = ahead.popleft()
            for former in before.get(state, ()):
                if former not in found:
                    found[former] = self.nodes[former].next[state]
                    ahead.append(former)
        return found

    def _status(self, state: ProofState, recall: Binding) -> str:
        """Return why a recall key does not work: '' where it does, `ASKED` where keys were asked for, or the fault."""
        if state.paused:
            return ASKED
        keymap, keys = self._keymaps[False], state.keys
        own = bool(recall.scope.apps) and not recall.scope.holds(state.front)
        passed = ""  # what becomes of a chord that a program gets
        for i, chord in enumerate(recall.keys):
            step = keymap.press(keys, chord, lambda: state.front)
            keys = step.state
            done = step.binding or step.on_release
            if done is not None:
                last = i + 1 == len(recall.keys)
                if last and self.targets.of(done.action) == self.targets.of(recall.action):
                    return ""
                return ASKED if own else f"it does {done.action}, not {recall.action}"
            if step.passed and not passed:
                passed = self._passed_on(chord, state.front, own)
        return passed or ASKED  # else it was dropped, or has ended something first

    def _passed_on(self, chord: Chord, front: str | None, own: bool) -> str:
        """Return where a chord goes that a program gets, or `ASKED`.

        `own`: it belongs to programs here by its scope.
        """
        app, where = self.config.apps.get(front or ""), front or "the program in front"
        if app is not None and app.types and writes(chord):
            return f"{chord} is typed into {where}"
        return ASKED if own else f"{chord} goes to {where}"

    def _look_at_releases(self) -> None:
        """Find recall keys whose release recalls another layout."""
        pressed = {(one.layer, one.keys): (one, names) for one, names in self.recalls if not one.on_release}
        for one, names in self.recalls:
            other = pressed.get((one.layer, one.keys)) if one.on_release else None
            if other and not names & other[1]:
                problem = f"letting go of it does {one.action}, after {other[0].action}"
                ways = [node.path for node in self.nodes.values() if node.state.keys == KeymapState(one.layer)]
                self.proof.found += [Counterexample((*ways[0], *one.keys), problem, other[0])] if ways else []

    def _look_at_waiting(self) -> None:
        """Find recall keys whose macro is refused while another one is still at it."""
        own = [binding for binding, _ in self.recalls if binding.action.verb == RUN]
        runs = {one.action: one for one in self.config.live if one.action.verb == RUN} if own else {}
        for node in [node for node in self.nodes.values() if node.desk.from_start and node.state.is_plain]:
            for second in [one for one in own if not one.layer]:
                self._judge_while(self._stage(node.desk), node.path, second, " and ".join(node.state.waits))
        for node in [node for node in self.nodes.values() if node.state == node.state._replace(keys=REST, waits=())]:
            for first in runs.values() if node.state.is_plain else ():
                for second in own:
                    if second.action != first.action and not first.layer and not second.layer:
                        self._try_both(node, first, second)
            return  # the desk makes no difference to that

    def _try_both(self, node: ProofNode, first: Binding, second: Binding) -> None:
        stage = self._stage(node.desk)
        stage.begin(first)
        if str(first.action) not in stage.session.under_way:
            return
        self._judge_while(stage, (*node.path, *first.keys), second, str(first.action))

    def _judge_while(self, stage: Rehearsal, path: Keys, second: Binding, first: str) -> None:
        """Press a recall key while a macro waits; note if it does not recall. `first`: that macro, in words."""
        self._do(stage, second)
        if next(iter(stage.history.layouts()), "") not in self.targets.of(second.action):
            problem = f"it is refused while {first} waits; `while another runs: replace` lets it in"
            self.proof.found.append(Counterexample((*path, *second.keys), problem, second))

    def _typed_after(self) -> Iterator[Counterexample]:
        """Yield plain keys of a layer that a recall ends, where the focus is then in an app that takes typing."""
        ways = {node.state.keys.layer: node.path for node in reversed(self.nodes.values()) if not node.state.keys.begun}
        for binding, names in self.recalls:
            ends = binding.layer and not self.config.layers[binding.layer].stays
            if not ends or not writes(binding.keys[0]) or binding.layer not in ways:
                continue
            stage = Rehearsal(self.basis, self.room)
            keys = (*ways[binding.layer], *binding.keys)
            for key in keys:
                stage.press(key)
            self.proof.presses += len(keys)
            front = self.config.front_app(stage.desk)
            app = self.config.apps.get(front or "")
            if app is None or not app.types:
                continue
            step = self._keymaps[False].press(stage.session.state, binding.keys[0], lambda front=front: front)  # type: ignore[misc]
            if step.passed:
                problem = (
                    f"after {either(sorted(names))}, {binding.keys[0]} is typed into {front}, as the layer is over"
                )
                yield Counterexample((*keys, binding.keys[0]), problem, binding)


def _in_scope(scope: Scope, front: str | None) -> bool:
    return not scope.apps or scope.holds(front)


def _stuck(state: ProofState, binding: Binding) -> str:
    """Return in words that nothing leads to where a key works."""
    if state.paused:
        return "no key ends the pause"
    return f"{binding.keys[0]} goes to {state.front}, and no key leads to where it works"


ASKED: Final = "the user has asked for other keys"
