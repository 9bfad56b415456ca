"""A proof by trying everything: from every layout, focus and layer, every recall key works and every layer is left.

What a key means depends on the layer and on the app in front, and on nothing else, so that these pairs are gone
through; which app can be in front after which layout is found by pressing keys on a tabletop. A counterexample is a
row of keys that can be pressed on the desk that the proof began with.
"""

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Final, NamedTuple

from jaklet.core.config import Binding
from jaklet.core.keys.chords import Chord, Keys
from jaklet.core.keys.keyboards import writes
from jaklet.core.keys.keymap import ESCAPE, REST, State, Step
from jaklet.core.layouts.layouts import Layout
from jaklet.desktops.tabletop.room import Room
from jaklet.rehearsal.stage import Act, Basis, Stage

RECALL, LAST = "recall", "last"
FOCUSING: Final = frozenset({"go", "focus"})
MOST_STEPS: Final = 3  # focus keys one after another, by which an app is looked for


class Counterexample(NamedTuple):
    """Keys that lead to where something does not work, the last of them included, and what is wrong there."""

    keys: Keys
    problem: str
    binding: Binding | None = None
    layer: str = ""


@dataclass
class Proof:
    """What was tried and what was found. `states`: layers with an app in front; `presses`: of keys on the tabletop."""

    layouts: int = 0
    foci: int = 0
    layers: int = 0
    chords: int = 0
    states: int = 0
    presses: int = 0
    found: list[Counterexample] = field(default_factory=list)
    unreached: list[str] = field(default_factory=list)  # layouts that no key recalls


class _At(NamedTuple):
    """An app in front, and the keys that lead there."""

    front: str | None
    keys: Keys


def prove(basis: Basis, room: Room) -> Proof:
    """Try every recall key in every layout, with every focus, in every layer."""
    return _Prover(basis, room).run()


class _Prover:
    def __init__(self, basis: Basis, room: Room) -> None:
        self.basis, self.room = basis, room
        self.config = config = basis.config
        self.keymap = basis.keymaps[False]
        self.proof = Proof(chords=len({chord for one in config.live for chord in one.keys}))
        self.recalls = [(one, layout) for one in config.live if (layout := self._layout(one))]

    def _layout(self, binding: Binding) -> Layout | None:
        """Return the layout that a binding recalls; None for one that recalls none, or the former one."""
        ref = binding.action.named("LAYOUT")
        if binding.action.verb != RECALL or ref is None or ref.name == LAST or binding.on_release:
            return None
        return self.basis.shelf.find(ref.name)

    def run(self) -> Proof:
        """Look for counterexamples."""
        proof = self.proof
        names = self.basis.shelf.names()
        proof.layouts, proof.layers = len(names), len(self.config.layers)
        keyed = {layout.name for _, layout in self.recalls}
        proof.unreached = [name for name in names if name not in keyed]
        fronts: dict[str | None, Keys] = {}
        for start in self._desks():
            for at in self._foci(*start):
                if at.front not in fronts or len(at.keys) < len(fronts[at.front]):
                    fronts[at.front] = at.keys
        proof.foci = len(fronts)
        trapped: set[str] = set()
        for front, keys in fronts.items():
            for state, entering in self._layers(front).items():
                proof.states += 1
                proof.found += self._in_state(_At(front, (*keys, *entering)), state, trapped)
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

    def _desks(self) -> Iterator[tuple[Stage, Keys]]:
        """Yield the desk at the start, and that after each recall key, each with the keys that led there.

        From each of these desks every other layout is recalled, too.
        """
        first = Stage(self.basis, self.room)
        yield first, ()
        for binding, layout in self._one_each():
            stage, keys = Stage(self.basis, self.room), self._keys_to(binding)
            if not self._recalled(stage, binding, layout, (), keys):
                continue
            room = stage.desktop.room
            yield stage, keys
            for other, its in self._one_each():
                if its.name != layout.name:
                    again = Stage(self.basis, room)
                    self._recalled(again, other, its, keys, self._keys_to(other))

    def _one_each(self) -> Iterator[tuple[Binding, Layout]]:
        """Yield a key for each layout: one outside layers where there is one."""
        first: dict[str, tuple[Binding, Layout]] = {}
        for binding, layout in sorted(self.recalls, key=lambda one: (bool(one[0].layer), bool(one[0].scope.apps))):
            first.setdefault(layout.name, (binding, layout))
        yield from first.values()

    def _keys_to(self, binding: Binding) -> Keys:
        """Return the keys of a binding, with those that enter its layer."""
        if not binding.layer:
            return binding.keys
        return (*self._layers(None).get(binding.layer, ()), *binding.keys)

    def _recalled(self, stage: Stage, binding: Binding, layout: Layout, before: Keys, keys: Keys) -> bool:
        acts = self._press(stage, keys)
        stands = next(iter(stage.history.layouts()), "") == layout.name
        failed = next((line.text for act in acts for line in act.lines if line.failed), "")
        if stands and not failed:
            return True
        if acts and not acts[-1].passed:  # one that the program gets is told of with the keys that are typed
            problem = failed or f"layout {layout.name} does not stand after it"
            self.proof.found.append(Counterexample((*before, *keys), problem, binding))
        return stands

    def _press(self, stage: Stage, keys: Keys) -> list[Act]:
        self.proof.presses += len(keys)
        return [stage.press(key) for key in keys]

    def _foci(self, stage: Stage, keys: Keys) -> Iterator[_At]:
        """Yield the apps that can be brought to the front by keys, with no more than a few of them."""
        moves = [
            one for one in self.config.live if one.action.verb in FOCUSING and not one.layer and len(one.keys) == 1
        ]
        seen = {self.config.front_app(stage.desk)}
        yield _At(self.config.front_app(stage.desk), keys)
        layouts = deque([(stage.desktop.room, keys, 0)])
        running = {self.config.claims.app_of(window, stage.desk) for window in stage.desk.windows}
        while layouts and len(seen) < len(running):
            room, way, steps = layouts.popleft()
            for move in moves:
                app = move.action.named("APP")
                if app and app.name not in running:
                    continue  # it would be launched, and the layout be another desk
                again = Stage(self.basis, room)
                self._press(again, move.keys)
                front = self.config.front_app(again.desk)
                if front not in seen:
                    seen.add(front)
                    yield _At(front, (*way, *move.keys))
                    if steps + 1 < MOST_STEPS:
                        layouts.append((again.desktop.room, (*way, *move.keys), steps + 1))

    def _layers(self, front: str | None) -> dict[str, Keys]:
        """Return the layers that can be entered with an app in front, and the shortest keys into each; none is ''."""
        ways: dict[str, Keys] = {"": ()}
        queue = deque([REST])
        at: dict[State, Keys] = {REST: ()}
        while queue:
            state = queue.popleft()
            for chord in sorted(self.keymap.hearing(state).chords):
                step = self._step(state, chord, front)
                after = step.state
                if step.passed or after in at or (step.binding and step.binding.action.verb not in ("enter", "leave")):
                    continue
                at[after] = (*at[state], chord)
                queue.append(after)
                if not after.begun:
                    ways.setdefault(after.layer, at[after])
        return ways

    def _step(self, state: State, chord: Chord, front: str | None) -> Step:
        return self.keymap.press(state, chord, lambda: front)

    def _way_out(self, layer: str, front: str | None) -> Keys | None:
        """Return the shortest keys that leave a layer without doing anything else; None if there are none."""
        queue = deque([(State(layer), Keys())])
        seen = {State(layer)}
        while queue:
            state, keys = queue.popleft()
            for chord in sorted({*self.keymap.hearing(state).chords, ESCAPE}):
                step = self._step(state, chord, front)
                if step.state == REST and not (step.binding and step.binding.action.verb not in ("enter", "leave")):
                    return (*keys, chord)
                quiet = step.binding is None or step.binding.action.verb in ("enter", "leave")
                if quiet and step.state not in seen:
                    seen.add(step.state)
                    queue.append((step.state, (*keys, chord)))
        return None

    def _in_state(self, at: _At, layer: str, trapped: set[str]) -> Iterator[Counterexample]:
        """Yield what does not work with an app in front, in a layer."""
        leaving: Keys | None = ()
        if layer:
            leaving = self._way_out(layer, at.front)
            ends = self.config.layers[layer]
            if leaving is None and ends.stays and ends.ends_after is None and layer not in trapped:
                trapped.add(layer)
                yield Counterexample(at.keys, f"no key leaves layer {layer}", None, layer)
        outside = None if leaving is None else at._replace(keys=(*at.keys, *leaving))
        for binding, layout in self.recalls:
            where = at if binding.layer else outside
            if where and binding.layer in ("", layer):
                yield from self._pressed(where, State(binding.layer), binding, layout)

    def _pressed(self, at: _At, state: State, binding: Binding, layout: Layout) -> Iterator[Counterexample]:
        """Yield that a recall key does something else, with an app in front."""
        own = bool(binding.scope.apps)
        for i, chord in enumerate(binding.keys):
            step = self._step(state, chord, at.front)
            keys = (*at.keys, *binding.keys[: i + 1])
            if step.passed:
                app = self.config.apps.get(at.front or "")
                typed = writes(chord) and app is not None and app.types
                if own and not typed:
                    return  # it has a scope, and this app is not in it
                what = "is typed into" if typed else "goes to"
                yield Counterexample(keys, f"{chord} {what} {at.front or 'the program in front'}", binding)
                return
            if i + 1 == len(binding.keys) and (step.binding is None or self._layout(step.binding) != layout):
                if not own:
                    does = step.binding.action if step.binding else "nothing"
                    yield Counterexample(keys, f"it does {does}, not {binding.action}", binding)
                return
            state = step.state

    def _typed_after(self) -> Iterator[Counterexample]:
        """Yield plain keys of a layer that a recall ends, where the focus is then in an app that takes typing."""
        for binding, layout in self.recalls:
            ends = binding.layer and not self.config.layers[binding.layer].stays
            if not ends or not writes(binding.keys[0]):
                continue
            stage = Stage(self.basis, self.room)
            keys = self._keys_to(binding)
            self._press(stage, keys)
            front = self.config.front_app(stage.desk)
            app = self.config.apps.get(front or "")
            if app is None or not app.types:
                continue
            step = self._step(stage.session.state, binding.keys[0], front)
            if step.passed:
                problem = f"after {layout.name}, {binding.keys[0]} is typed into {front}, as the layer is over"
                yield Counterexample((*keys, binding.keys[0]), problem, binding)
