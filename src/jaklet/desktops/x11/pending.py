"""What was asked of the focus and of frames, and is not told of yet by the server.

Keys can come faster than the window manager obeys, and each has to go on from what was asked last. What somebody else
does to the desk counts more than that, once it is done after what we asked: a window manager takes requests in order,
so that whatever it tells of after it has answered the barrier behind a request is later than the request. Before
that, another window in front may be one of before, or a step on the way.
"""

from collections.abc import Mapping
from typing import Final, NamedTuple

from jaklet.core.values.changes import Focus
from jaklet.core.values.geometry import Rect


class InFlight(NamedTuple):
    """What was asked for and is not there yet.

    `aimed`: the window that was asked to the front last, if any. `going`: the windows that will have been used once all
    is done, the last one last; steps of a walk are not. `moving`: the frames that were asked for, by window.
    """

    aimed: int | None = None
    going: tuple[int, ...] = ()
    moving: Mapping[int, Rect] = {}


AT_REST: Final = InFlight()


class PendingRequests:
    """Requests whose effect is still to come, each with the number of the barrier behind it. No requests here."""

    def __init__(self) -> None:
        self._aims: list[tuple[Focus, int]] = []
        self._frames: dict[int, tuple[Rect, int]] = {}
        self.is_other = False  # what is on its way, since somebody asked
        self._in_flight = AT_REST
        self._told_at = 0  # barriers that were answered when the server last told of the active window
        self._seen = 0  # the barrier of the request for that window, if it is not answered yet: it may be its effect

    @property
    def aimed(self) -> int | None:
        """The window that was asked to the front last; None if nothing is on its way."""
        return self._aims[-1][0].window if self._aims else None

    @property
    def in_flight(self) -> InFlight:
        """What is on its way; the same object as long as it is the same."""
        if self.is_other:
            self.is_other, aims = False, self._aims
            going = tuple([change.window for change, _ in aims if not change.walking])
            moving = {wid: frame for wid, (frame, _) in self._frames.items()}
            found = InFlight(self.aimed, going, moving)
            self._in_flight = self._in_flight if found == self._in_flight else found
        return self._in_flight

    def ask_focus(self, change: Focus, barrier: int) -> None:
        """Note that a window is asked to the front."""
        self._aims.append((change, barrier))
        self.is_other = True

    def ask_frame(self, wid: int, frame: Rect, barrier: int) -> None:
        """Note that a window is asked to a frame."""
        self._frames[wid] = frame, barrier
        self.is_other = True

    def told_of_focus(self, answered: int) -> None:
        """Note an event about the active window. `answered`: the barriers answered by then."""
        self._told_at = answered
        if self._seen <= answered:
            self._aims = [aim for aim in self._aims if aim[1] > self._seen]
            self._seen = 0
            self.is_other = True

    def told_of_frame(self, wid: int, answered: int) -> None:
        """Note an event about a window's frame: once its request is dealt with, the frame is what the server says."""
        if wid in self._frames and self._frames[wid][1] <= answered:
            del self._frames[wid]
            self.is_other = True

    def is_active(self, wid: int) -> list[tuple[int, bool]]:
        """Take in which window is active.

        Returns the windows that were in front since last told, this one last, and whether each is a step of a walk of
        ours: of several that follow one another quickly, the server is asked for the last alone.
        """
        if not self._aims:
            self._seen = 0
            return [(wid, False)]
        for i, (change, barrier) in enumerate(self._aims):
            if change.window == wid and barrier <= self._told_at:
                passed = self._passed(i + 1)
                del self._aims[: i + 1]
                self.is_other = True
                return passed
        i, self._seen = next(
            ((i, barrier) for i, (change, barrier) in enumerate(self._aims) if change.window == wid), (0, 0)
        )
        walking = self._aims[-1][0].walking
        if self._aims[-1][1] <= self._told_at:
            passed = self._passed(len(self._aims))
            self._aims.clear()  # somebody gave the focus away after we had asked for it
            self.is_other = True
            return [*passed, (wid, False)]
        return [*self._passed(i), (wid, walking)]

    def _passed(self, number: int) -> list[tuple[int, bool]]:
        return [(change.window, change.walking) for change, _ in self._aims[:number]]

    def forget(self, wid: int) -> None:
        """Take a window out that is gone."""
        self._frames.pop(wid, None)
        self._aims = [aim for aim in self._aims if aim[0].window != wid]
        self.is_other = True

    def clear(self) -> list[tuple[int, bool]]:
        """Take the desk at its word: all that was asked has been dealt with. Returns what `is_active` has left out."""
        passed = self._passed(len(self._aims))
        self._aims.clear()
        self._frames.clear()
        self.is_other = True
        return passed
