"""Workspaces that were made when they were needed, and are given back when they are empty, if the settings say so."""

from collections.abc import Callable
from typing import Final

from jaklet.core.actions.ports.desktop import Desktop, Moment
from jaklet.core.actions.workspaces import given_back, needed_workspaces
from jaklet.core.values.config import Config
from jaklet.core.values.desk_abilities import Ability
from jaklet.core.values.sentences import Action
from jaklet.listener.tasks import RunningTask, TaskRunner

GIVES_BACK: Final = Action("workspaces", (), "workspaces")


class SpareWorkspaces:
    """Follows the desk. It never gives back what was there at the start, or what the settings want."""

    def __init__(self, desktop: Desktop, tasks: TaskRunner, config: Callable[[], Config]) -> None:
        self._desktop, self._tasks, self._config = desktop, tasks, config
        self._least = 0  # as many as there were when this was looked at first
        self._tried = (0, 0)  # how many were wanted of how many: what was refused is not asked for again

    def step(self, moment: Moment) -> None:
        """Give back what is empty at the end of the row, once nothing else is under way."""
        desk = moment.desk
        self._least = self._least or desk.workspaces
        settings = self._config().settings
        if not settings.give_back or self._tasks.running:
            return
        wanted = needed_workspaces(desk, settings.workspaces or self._least)
        before, self._tried = self._tried, (wanted, desk.workspaces)
        if wanted < desk.workspaces and before != self._tried and Ability.MAKE_WORKSPACES in desk.abilities:
            self._tasks.start(RunningTask((), GIVES_BACK, given_back(wanted, moment)), 0, moment)
