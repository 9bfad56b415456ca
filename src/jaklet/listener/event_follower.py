"""Which events of the config are due, and which of them would lead back to themselves without end."""

from collections.abc import Callable, Iterable, Iterator
from typing import Final, NamedTuple

from jaklet.core.actions.desk_events import DeskEvent, answers, events_between
from jaklet.core.actions.ports.desktop import Desktop, Moment
from jaklet.core.actions.ports.history import History
from jaklet.core.actions.possible_events import PossibleEvent, effects, leads_to
from jaklet.core.language.actions import parse_action
from jaklet.core.language.event_kinds import CLOCK, DAY, IDLE, RECALLED, STARTS
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.event_bindings import EventBinding
from jaklet.listener.tasks import NEVER

LINGERS: Final = 1.0  # seconds after its end in which what happens may still be due to an action
WAKES: Final = 60.0  # seconds for which a time of day is waited for at most: a machine may sleep meanwhile


class DueEvent(NamedTuple):
    """An entry whose action is to be done now. `chain`: the entries that led to it, and itself."""

    on: EventBinding
    window: int | None
    chain: tuple[EventBinding, ...]


class LoopedEvent(NamedTuple):
    """An entry that is not done, as it led to itself."""

    chain: tuple[EventBinding, ...]


class WatchedHistory:
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


class EventFollower:
    """Follows a desk and the clock. Nothing is asked of the desk where no entry waits for it."""

    def __init__(self, config: Config, desktop: Desktop) -> None:
        self._config = config
        self._desktop = desktop
        self._events = config.events
        self._seen: Desk | None = None
        self._effects: dict[EventBinding, frozenset[PossibleEvent]] = {}
        # Chains whose last action is over, and since when.
        self._ended: list[tuple[tuple[EventBinding, ...], float]] = []
        self._told: list[DeskEvent] = [DeskEvent(STARTS)]
        self._idle = {on: on.refs[0].amount for on in self._events if on.kind == IDLE}
        self._past: set[EventBinding] = set()  # the entries whose idle time has passed, until something is used again
        self._clock = {on: on.refs[0].amount for on in self._events if on.kind == CLOCK}
        self._look_idle = 0.0 if self._idle else NEVER
        self._look_clock = 0.0 if self._clock else NEVER
        self._day: float | None = None  # the time of day, when it was looked at last

    def follow(self, former: "EventFollower") -> "EventFollower":
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
        self._told.append(DeskEvent(RECALLED, layout))

    def ended(self, chain: tuple[EventBinding, ...], now: float) -> None:
        """An action is over that an entry began."""
        self._ended.append((chain, now))

    def due(self, moment: Moment, running: Iterable[tuple[EventBinding, ...]]) -> Iterator[DueEvent | LoopedEvent]:
        """Yield the entries that are due. `running`: the chains of what is under way."""
        told = self._news(moment.desk)
        if not self._events or (not told and moment.now < self.deadline):
            return
        self._ended = [(chain, at) for chain, at in self._ended if moment.now - at < LINGERS]
        causes = [*running, *(chain for chain, _ in self._ended)]
        front = self._config.front_app(moment.desk)
        live = [on for on in self._events if not on.scope.apps or on.scope.holds(front)]
        for happening in told:
            yield from (
                self._caused(on, happening.window, causes) for on in live if answers(on, happening, self._config)
            )
        for on in self._by_idleness(moment.now) + self._by_clock(moment.now):
            if on in live:
                yield DueEvent(on, None, (on,))

    def _news(self, now: Desk) -> list[DeskEvent]:
        """Return the events since the last call."""
        before, self._seen = self._seen, now
        told, self._told = self._told, []
        # A window manager that is replaced has no windows for a moment.
        is_other = before is not None and before is not now and not (len(before.windows) > 1 and not now.windows)
        if self._events and before is not None and is_other:
            told += events_between(before, now, self._config)
        return told

    def _caused(
        self, on: EventBinding, window: int | None, causes: Iterable[tuple[EventBinding, ...]]
    ) -> DueEvent | LoopedEvent:
        """Return an entry with the chain that led to it; a cut where it stands in that chain already."""
        chain: tuple[EventBinding, ...] = ()
        for cause in causes:
            if leads_to(self._made(cause[-1]), on, self._config):
                if on in cause:
                    return LoopedEvent((*cause, on))
                chain = max(chain, cause, key=len)
        return DueEvent(on, window, (*chain, on))

    def _made(self, on: EventBinding) -> frozenset[PossibleEvent]:
        if on not in self._effects:
            self._effects[on] = effects(on.action, self._config, parse_action)
        return self._effects[on]

    def _by_idleness(self, now: float) -> list[EventBinding]:
        """Return those for which nothing was used for long enough now."""
        if now < self._look_idle:
            return []
        idle = self._desktop.idle()
        past = {on for on, wanted in self._idle.items() if idle >= wanted}
        found = [on for on in self._idle if on in past and on not in self._past]
        self._past = past
        # What is past can only come again after something was used, and then it takes all of its time.
        self._look_idle = now + min(wanted if on in past else wanted - idle for on, wanted in self._idle.items())
        return found

    def _by_clock(self, now: float) -> list[EventBinding]:
        """Return those whose time of day has come."""
        if now < self._look_clock:
            return []
        day, before = self._desktop.time_of_day(), self._day
        self._day = day
        self._look_clock = now + min(WAKES, *((at - day) % DAY or DAY for at in self._clock.values()))
        if before is None:
            return []
        passed = (day - before) % DAY
        return [on for on, at in self._clock.items() if 0 < (at - before) % DAY <= passed]
