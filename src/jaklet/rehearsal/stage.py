"""A stage: a listener's session on a tabletop. Chords are pressed on it, and what came of each is written down."""

from collections.abc import Callable, Iterable, Mapping
from typing import Final, NamedTuple

from jaklet.core.actions.change_words import change_told
from jaklet.core.actions.ports.chord_source import KeyEdge
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.ports.layout_store import LayoutStore
from jaklet.core.actions.tasks import TaskOutcome
from jaklet.core.keys.keymap import KeyMeaning
from jaklet.core.language.ability_needs import dead_keys
from jaklet.core.values.changes import Change
from jaklet.core.values.chords import Chord, Keys, keys_written
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.desk_abilities import Abilities
from jaklet.core.values.notices import Notice
from jaklet.core.values.sentences import Action
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.desktops.tabletop.room import Room
from jaklet.listener.keystate import Keymaps, keymaps_of
from jaklet.listener.reports import Reports
from jaklet.listener.session import ListenerSession
from jaklet.listener.tasks import NEVER
from jaklet.rehearsal.memory import CachedLayouts, DraftLayouts, RehearsedHistory

MOST_ROUNDS: Final = 20_000  # of the session for one chord
LONGEST: Final = 24 * 3600.0  # virtual seconds for one chord


class TraceLine(NamedTuple):
    """One thing that happened: when, in virtual seconds since the chord. `kind`: change, step, end or notice."""

    at: float
    kind: str
    text: str
    failed: bool = False


class PressResult(NamedTuple):
    """What came of a chord, or of time that passed.

    `meaning`: what the chord was bound to, or why nothing was done. `frames`: the desk after each step of a macro that
    changed it, with the step. `waits`: what was still waiting for something that does not come.
    """

    number: int
    pressed: str
    meaning: str
    lines: tuple[TraceLine, ...]
    before: Desk
    after: Desk
    layer: str
    layout: str
    took: float
    frames: tuple[tuple[str, Desk], ...] = ()
    waits: tuple[str, ...] = ()
    passed: bool = False

    @property
    def failed(self) -> bool:
        """True if an action did not come to a good end."""
        return any(line.failed for line in self.lines)


class _WatchedTabletop(Tabletop):
    """A tabletop that tells of each change that is asked of it, with the desk before it."""

    def __init__(self, room: Room, tell: Callable[[Change, Desk], None]) -> None:
        super().__init__(room)
        self._tell_of = tell

    def apply(self, changes: Iterable[Change], time: int = 0) -> None:
        for change in changes:
            self._tell_of(change, self.room.desk())
            super().apply((change,), time)


class RehearsalInputs:
    """What stages go by: a config, its layouts, of which each is read once, and what its keys mean, made once."""

    def __init__(self, config: Config, shelf: LayoutStore) -> None:
        self.config = config
        self.shelf = CachedLayouts(shelf)
        self._keymaps: dict[Abilities, Keymaps] = {}
        self._dead: dict[Abilities, Mapping[Chord, str]] = {}

    def keymaps_for(self, room: Room) -> Keymaps:
        """Return the meanings of keys on a tabletop with the abilities of this one."""
        if room.abilities not in self._keymaps:
            self._keymaps[room.abilities] = keymaps_of(self.config, room.abilities)
        return self._keymaps[room.abilities]

    def dead_on(self, room: Room) -> Mapping[Chord, str]:
        """Return the chords that cannot work on a tabletop that can do what this one can, each with the reason."""
        if room.abilities not in self._dead:
            each = ((one.keys[0], dead_keys(one, room.abilities)) for one in self.config.live)
            self._dead[room.abilities] = {chord: lacking.lacking for chord, lacking in each if lacking}
        return self._dead[room.abilities]


class Rehearsal:
    """A listener without a keyboard and a screen. No real time passes, and no file is written."""

    def __init__(self, basis: RehearsalInputs, room: Room, stood: tuple[str, ...] | None = None) -> None:
        """Set a desk up. `stood`: the layouts that stood on it, where it is one that was played on before."""
        self.config = basis.config
        self.desktop = _WatchedTabletop(room.copy(), self._asked)
        self._keys = self.desktop.keyboard
        self.history = RehearsedHistory(stood or ())
        self._lines: list[TraceLine] = []
        self._frames: list[tuple[str, Desk]] = []
        self._began = 0.0
        self._number = 0
        self.session = ListenerSession(
            self.desktop,
            basis.config,
            DraftLayouts(basis.shelf),
            Reports(self._ended, self._posted, self._stepped),
            self.history,
            basis.keymaps_for(room),
        )
        if stood is not None:
            self.session.go_on()  # the listener has been there for a while
        self._refused = dict(basis.dead_on(room))
        self._refused |= {one.chord: one.reason for one in self._keys.grab(self.session.hearing) if one.chord}
        self._settle()
        self.opening = tuple(self._lines)  # what the start of the listener itself brought about

    @property
    def desk(self) -> Desk:
        """The desk as it is now."""
        return self.desktop.room.desk()

    def _now(self) -> float:
        return round(self.desktop.room.now - self._began, 3)

    def _asked(self, change: Change, desk: Desk) -> None:
        self._lines.append(TraceLine(self._now(), "change", change_told(change, desk, self.config)))

    def _ended(self, keys: Keys, action: Action, outcome: TaskOutcome, _took: float) -> None:
        if outcome.done and self._lines and self._lines[-1].text == outcome.line:
            return  # it was told as a notice
        who = "" if keys else f"{action}: " if action.verb in ("on", "opens", "layout", "displays") else ""
        self._lines.append(TraceLine(self._now(), "end", f"{who}{outcome.line}", not outcome.done))
        self._lines += [TraceLine(self._now(), "end", line, not outcome.done) for line in outcome.more]

    def _posted(self, notice: Notice) -> None:
        if not notice.failed and notice.topic != "layer":
            self._lines.append(TraceLine(self._now(), "notice", notice.text))

    def _stepped(self, action: Action, outcome: TaskOutcome, moment: Moment) -> None:
        self._lines.append(TraceLine(self._now(), "step", f"{action}: {outcome.line}", not outcome.done))
        former = self._frames[-1][1] if self._frames else self._before
        if former != moment.desk:
            self._frames.append((str(action), moment.desk))

    def press(self, chord: Chord) -> PressResult:
        """Press a chord and let it go, and let all happen that comes of it."""
        self._begin()
        state = self.session.state
        meaning = self.session.meaning(chord, self.desktop.look())
        keys = self._keys
        passed = len(keys.passed)
        for edge in (KeyEdge.PRESS, KeyEdge.RELEASE):
            keys.grab(self.session.hearing)
            keys.strike(chord, edge)
            for event in keys.key_events():
                mine = self.session.key(event, self.desktop.look())
                if event.waits:
                    keys.answer(mine)
            self._settle()
        went = len(keys.passed) > passed
        told = self._told(chord, meaning, state.begun, went)
        return self._act(str(chord), told, went)

    def do(self, binding: Binding) -> PressResult:
        """Do what a key is bound to, whatever keys mean now, and let all happen that comes of it."""
        self.begin(binding)
        self._settle()
        return self._act(binding.written, str(binding.action), passed=False)

    def begin(self, binding: Binding) -> None:
        """Begin what a key is bound to, and let no time pass."""
        self._begin()
        self.session.do(binding, 0, self.desktop.look())

    def let_pass(self, seconds: float) -> PressResult:
        """Let time pass."""
        self._begin()
        until = self.desktop.room.now + seconds
        for _ in range(MOST_ROUNDS):
            deadline = min(self.session.deadline, until)
            self.session.step(self.desktop.wait(deadline))
            if self.desktop.room.now >= until:
                break
        self._settle()
        return self._act(f"wait {seconds:g}s", "time passes", passed=False)

    def _begin(self) -> None:
        self._number += 1
        self._lines, self._frames = [], []
        self._began, self._before = self.desktop.room.now, self.desk

    _before: Desk

    def _settle(self) -> None:
        """Let go on what is under way, until nothing is, or only what waits for something that does not come."""
        if not self._number:
            self._before = self.desk
        for _ in range(MOST_ROUNDS):
            self.session.step(self.desktop.look())
            until = self.session.busy_until
            if until == NEVER and not self.desktop.room.openings:
                break
            if self._now() > LONGEST:
                break
            self.session.step(self.desktop.wait(until))

    def _told(self, chord: Chord, meaning: KeyMeaning, begun: Keys, passed: bool) -> str:
        if passed and chord in self._refused:
            return f"nothing: {self._refused[chord]}"
        if passed:
            front = self.config.front_app(self._before)
            return f"it goes to {front or 'the program in front'}" if front else "nothing is bound to it"
        if meaning.binding or meaning.on_release:
            binding = meaning.binding or meaning.on_release
            assert binding is not None
            return str(binding.action)
        if meaning.state.begun:
            return f"{keys_written(meaning.state.begun)} begins a sequence"
        if begun:
            return "the sequence is given up"
        layer = meaning.state.layer
        return f"nothing is bound to it in layer {layer}" if layer else "the layer is left"

    def _act(self, pressed: str, meaning: str, passed: bool) -> PressResult:
        layout = next(iter(self.history.layouts()), "")
        return PressResult(
            self._number, pressed, meaning, tuple(self._lines), self._before, self.desk, self.session.layer, layout,
            self._now(), tuple(self._frames), tuple(self.session.under_way), passed,
        )  # fmt: skip
