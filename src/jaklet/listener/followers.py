"""Those who follow: clients that are told of actions, notices, layers and windows, as they come."""

from typing import Any

from jaklet.core.actions.desk_events import events_between
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.listener.control import ControlServer
from jaklet.listener.rpc import notification


class Followers:
    """Tells them, where there are any. `control`: by whom they are reached, once there is one."""

    def __init__(self) -> None:
        self.control: ControlServer | None = None
        self._before: Desk | None = None  # as they were told last

    def add(self, desk: Desk) -> None:
        """Tell the client whose request this is of what happens from now on."""
        if self.control:
            self.control.follow()
            self._before = desk

    def tell(self, what: str, **params: Any) -> None:
        """Tell them something."""
        if self.control and self.control.is_followed:
            self.control.tell(notification("event", {"what": what, **params}))

    def look(self, desk: Desk, config: Config) -> None:
        """Tell them of windows, the focus and displays."""
        if not (self.control and self.control.is_followed):
            return
        before, self._before = self._before, desk
        if before is not None and before is not desk:
            for one in events_between(before, desk, config):
                self.tell("happened", event=one.kind, name=one.name, window=one.window)
