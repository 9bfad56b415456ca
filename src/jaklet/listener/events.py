"""Which events of the config are due, and which of them would lead back to themselves without end."""

from collections.abc import Callable, Iterable, Iterator
from typing import Final, NamedTuple

from jaklet.core.actions.effects import Effect, effects, leads_to
from jaklet.core.actions.events import Happening, answers, happened
from jaklet.core.actions.ports.desk import Desktop, Moment
from jaklet.core.actions.ports.history import History
from jaklet.core.language.actions import parse_action
from jaklet.core.language.events import CLOCK, DAY, IDLE, RECALLED, STARTS
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.event_bindings import EventBinding
from jaklet.listener.tasks import NEVER

LINGERS: Final = 1.0  # seconds after its end in which what happens may still be due to an action
WAKES: Final = 60.0  # seconds for which a time of day is waited for at most: a machine may sleep meanwhile


class Due(NamedTuple):
    """An entry whose action is to be done now. `chain`: the entries that led to it, and itself."""

    on: EventBinding
    window: int | None
    chain: tuple[EventBinding, ...]


class Cut(NamedTuple):
    """An entry that is not done, as it led to itself."""

    chain: tuple[EventBinding, ...]


class Followed:
    """A history (`core.actions.ports.history.History`), of which is told when a layout was recalled."""

    def __init__(self, history: History, recalled: Callable[[str], None]) -> None:
        self._recalled = recalled
        self.keep, self.more, self.steps = history.keep, history.more, history.steps
        self.drop, self.layouts, self._stands = history.drop, history.layouts, history.stands

    def stands(self, layout: str, saved: bool = False) -> None:
        """Remember that a layout was recalled or saved."""
        self._stands(layout, saved)
        if not saved:
            self._recalled(layout)


class Happenings:
    """Follows a desk and the clock. Nothing is asked of the desk where no entry waits for it."""

    def __init__(self, config: Config, desktop: Desktop) -> None:
        self._config = config
        self._desktop = desktop
        self._events = config.events
        self._seen: Desk | None = None
        self._effects: dict[EventBinding, frozenset[Effect]] = {}
        # Chains whose last action is over, and since when.
        self._ended: list[tuple[tuple[EventBinding, ...], float]] = []
        self._told: list[Happening] = [Happening(STARTS)]
        self._idle = {on: on.refs[0].amount for on in self._events if on.kind == IDLE}
        self._past: set[EventBinding] = set()  # the entries whose idle time has passed, until something is used again
        self._clock = {on: on.refs[0].amount for on in self._events if on.kind == CLOCK}
        self._look_idle = 0.0 if self._idle else NEVER
        self._look_clock = 0.0 if self._clock else NEVER
        self._day: float | None = None  # the time of day, when it was looked at last

    def follow(self, former: "Happenings") -> "Happenings":
        """Go on where another one stood, as the config was read again: what was, does not happen again."""
        self._seen, self._told, self._ended = former._seen, former._told, former._ended
        self._past, self._day = former._past & {*self._idle}, former._day
        return self

    def forget_start(self) -> None:
        """Take no notice of the start."""
        self._told.clear()

    @property
    def deadline(self) -> float:
        """When the clock is to be looked at again."""
        return min(self._look_idle, self._look_clock)

    def recalled(self, layout: str) -> None:
        """A layout was recalled."""
        self._told.append(Happening(RECALLED, layout))

    def ended(self, chain: tuple[EventBinding, ...], now: float) -> None:
        """An action is over that an entry began."""
        self._ended.append((chain, now))

    def due(self, moment: Moment, running: Iterable[tuple[EventBinding, ...]]) -> Iterator[Due | Cut]:
        """Yield the entries that are due. `running`: the chains of what is under way."""
        before, now = self._seen, moment.desk
        self._seen = now
        if not self._events:
            self._told.clear()
            return
        told, self._told = self._told, []
        if before is not None and before is not now and not (len(before.windows) > 1 and not now.windows):
            told += happened(before, now, self._config)
        if not told and moment.now < self.deadline:
            return
        self._ended = [(chain, at) for chain, at in self._ended if moment.now - at < LINGERS]
        causes = [*running, *(chain for chain, _ in self._ended)]
        front = self._config.front_app(now)
        for happening in told:
            for on in self._events:
                if answers(on, happening) and (not on.scope.apps or on.scope.holds(front)):
                    yield self._caused(on, happening.window, causes)
        for on in self._by_clock(moment.now):
            if not on.scope.apps or on.scope.holds(front):
                yield Due(on, None, (on,))

    def _caused(self, on: EventBinding, window: int | None, causes: Iterable[tuple[EventBinding, ...]]) -> Due | Cut:
        """Return an entry with the chain that led to it; a cut where it stands in that chain already."""
        chain: tuple[EventBinding, ...] = ()
        for cause in causes:
            if leads_to(self._made(cause[-1]), on):
                if on in cause:
                    return Cut((*cause, on))
                chain = max(chain, cause, key=len)
        return Due(on, window, (*chain, on))

    def _made(self, on: EventBinding) -> frozenset[Effect]:
        if on not in self._effects:
            self._effects[on] = effects(on.action, self._config, parse_action)
        return self._effects[on]

    def _by_clock(self, now: float) -> list[EventBinding]:
        """Return the entries whose time has come."""
        found: list[EventBinding] = []
        if now >= self._look_idle:
            idle = self._desktop.idle()
            left = [wanted - idle for wanted in self._idle.values() if wanted > idle]
            found += [on for on, wanted in self._idle.items() if idle >= wanted and on not in self._past]
            self._past = {on for on, wanted in self._idle.items() if idle >= wanted}
            # What is past can only come again after something was used, and then it takes all of its time.
            self._look_idle = now + min([*left, *(self._idle[on] for on in self._past)])
        if now >= self._look_clock:
            day, before = self._desktop.time_of_day(), self._day
            if before is not None:
                passed = (day - before) % DAY
                found += [on for on, at in self._clock.items() if 0 < (at - before) % DAY <= passed]
            self._day = day
            self._look_clock = now + min(WAKES, *((at - day) % DAY or DAY for at in self._clock.values()))
        return found
