"""The conversation with our code in a compositor (`agent.js`): requests go there, and what has changed comes back.

How it gets there and who carries the words is each compositor's own: its room has a class that stands on this one.
"""

import contextlib
import time as clock
from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping, Sequence
from importlib.resources import files
from typing import Any, Final, Self

from jeepney import Message

from jaklet.core.values.errors import DeskError
from jaklet.desktops.compositor.bus import Bus, is_signal, member_of, owner_of

BEGINS: Final = 30.0  # seconds that a compositor may take until all of it is there
BETWEEN: Final = 0.2  # seconds between two tries
NEVER: Final = float("inf")


def agent_text() -> str:
    """Return the text that runs in every compositor; its own comes behind it."""
    return files("jaklet.desktops.compositor").joinpath("agent.js").read_text()


class Agent(ABC):
    """Our code in a compositor, at work.

    `state`: what it has told, the latest of each thing; `windows`: the same of each window, by its id there, in the
    order in which they opened; `changed`: which of them it has told of since somebody took that away.
    `begun_again`: called when the compositor is another one than before. `service`: the compositor's name on the bus.
    """

    service: str
    name: str  # the compositor's, for people

    def __init__(self, bus: Bus) -> None:
        self.bus = bus
        self._is_other = False  # the compositor, since this began
        self._again_at = self._again_by = 0.0  # when that is tried again, and until when
        self.sent = 0  # the number of the last work that was handed over, or waits to be
        self.state: dict[str, Any] = {}
        self.windows: dict[str, dict[str, Any]] = {}
        self.changed: dict[str, None] = {}
        self.begun_again: list[Callable[[], None]] = []
        self.owner = owner_of(bus, self.service)
        bus.others.append(self._heard)
        bus.follow_owner(self.service)
        self._begin()

    @classmethod
    def start(cls) -> Self:
        """Begin; raises `DeskError` where there is no such compositor, or our code in it does not answer."""
        bus = Bus.open(cls.name)
        try:
            return cls(bus)
        except BaseException:
            bus.close()
            raise

    @abstractmethod
    def _begin(self) -> None:
        """Begin the conversation, after which `state` is there; raises `DeskError`."""

    @abstractmethod
    def _forget(self) -> None:
        """Forget what was on its way: it went to a compositor that has gone."""

    @abstractmethod
    def ask(self, requests: Sequence[dict[str, Any]]) -> int:
        """Hand over work; return its number, which `state` has once it is done."""

    @abstractmethod
    def _answered(self, message: Message) -> bool:
        """Take in what was said to us; true if things are otherwise now."""

    @abstractmethod
    def number_of(self, uuid: str) -> int:
        """Return the id of a window by its id there, the same for every process of ours."""

    @abstractmethod
    def title_of(self, title: str) -> str:
        """Return the title of a window as its program has given it."""

    @abstractmethod
    def display_names(self) -> Mapping[tuple[int, int], str]:
        """Return the connectors of displays by their corners; raises `DeskError`."""

    @abstractmethod
    def provide(self, workspaces: int) -> None:
        """Have this many workspaces: new ones come last, and the last ones go."""

    @property
    def due(self) -> float:
        """When something is to be done here at the latest; infinity for nothing."""
        return self._again_at if self._is_other and self.owner else NEVER

    def take(self, seconds: float = 0.0) -> bool:
        """Take in what has come, and wait for it for so long at most; true if things are otherwise now."""
        news = self.bus.take(seconds)
        if self._is_other and self.owner and clock.monotonic() >= self._again_at:
            news |= self._begin_again()
        return news

    def _heard(self, message: Message) -> bool:
        if is_signal(message) and member_of(message) == "NameOwnerChanged" and message.body[0] == self.service:
            self.owner = str(message.body[2])
            self.is_to_begin_again()
            return False
        return self._answered(message)

    def is_to_begin_again(self) -> None:
        """Let `take` begin again, and not this call: somebody may wait for an answer."""
        self._is_other, self._again_at, self._again_by = True, 0.0, clock.monotonic() + BEGINS

    def _take_state(self, news: dict[str, Any]) -> None:
        for one in news.pop("windows"):
            self.windows[one["id"]] = one
            self.changed[one["id"]] = None
        for gone in news.pop("gone"):
            self.windows.pop(gone, None)
            self.changed[gone] = None
        self.state = self.state | news

    def _begin_again(self) -> bool:
        """Begin with the compositor that has come; while there was none, things stayed as they were told last.

        The compositor has its name before all of it is there, and may end again meanwhile: so this may take some tries.
        Raises `DeskError` after the last one.
        """
        former = self.state, self.windows
        self._forget()
        self.state, self.windows, self.sent = {}, {}, 0
        self._is_other = False  # what is asked now is asked of this one, and another may come meanwhile
        try:
            self._begin()
            for each in self.begun_again:
                each()
        except DeskError:
            self._is_other = True
            self.state, self.windows = former
            if clock.monotonic() > self._again_by:
                raise
            self._again_at = clock.monotonic() + BETWEEN
            return False
        self.changed |= dict.fromkeys(former[1])
        return True

    def close(self) -> None:
        """End the conversation: what it held goes back."""
        with contextlib.suppress(DeskError, OSError):
            self._end()
        self.bus.close()

    @abstractmethod
    def _end(self) -> None:
        """Let our code there have an end; raises `DeskError` or `OSError`."""
