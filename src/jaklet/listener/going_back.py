"""Windows that go back: programs that put their window somewhere else a moment after it was placed.

Nobody can foresee that the first time, and no key waits for it. What an action has placed is watched for a second after
its end; what moves then, and not by a hand, a key or a display that came or went, is told of, and known from then on.
"""

from collections.abc import Callable
from typing import Final, NamedTuple

from jaklet.core.actions.change_words import window_name
from jaklet.core.actions.ports.desktop import Desktop, Moment
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, WindowShape
from jaklet.core.values.geometry import Rect
from jaklet.core.values.notices import Notice

WATCHED: Final = 1.0  # seconds after an action


class PlacedWindow(NamedTuple):
    """Where a window stood when the action that had placed it ended, when that was, and the displays then."""

    frame: Rect
    at: float
    displays: tuple[Display, ...]


class GoingBack:
    """Watches windows that were placed.

    `learn` is told a window's class, and after how many seconds it went back; `stays` the class of one that did not.
    """

    def __init__(
        self,
        desktop: Desktop,
        config: Callable[[], Config],
        post: Callable[[Notice], None],
        learn: Callable[[str, float], None],
        stays: Callable[[str], None],
    ) -> None:
        self._desktop, self._config, self._post, self._learn, self._stays = desktop, config, post, learn, stays
        self._placed: dict[int, PlacedWindow] = {}

    def placed(self, windows: set[int], moment: Moment) -> None:
        """Watch windows that an action has placed, and is done with."""
        desk = moment.desk
        for wid in windows:
            window = desk.by_id.get(wid)
            if window and window.shape is WindowShape.NORMAL and not window.minimised:
                self._placed[wid] = PlacedWindow(window.frame, moment.now, desk.displays)

    def forget(self, windows: set[int]) -> None:
        """Watch windows no longer that another action moves."""
        for wid in windows:
            self._placed.pop(wid, None)

    def look(self, moment: Moment) -> None:
        """See which windows have gone back."""
        for wid, placed in list(self._placed.items()):
            window, after = moment.desk.by_id.get(wid), moment.now - placed.at
            if window is None or after > WATCHED or placed.displays != moment.desk.displays:
                del self._placed[wid]
                if window and window.frame == placed.frame:
                    self._stays(window.cls)
            elif window.frame != placed.frame and window.shape is WindowShape.NORMAL:
                del self._placed[wid]
                if not self._desktop.is_dragging():
                    self._learn(window.cls, after)
                    self._tell(wid, moment.desk)

    def _tell(self, wid: int, desk: Desk) -> None:
        window = desk.by_id[wid]
        x, y = window.frame[:2]
        name = window_name(window, desk, self._config())
        self._post(Notice(f"{name} went back to {x},{y}"))
