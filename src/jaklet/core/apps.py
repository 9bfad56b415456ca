"""Apps: how a program is launched, and which windows are its."""

from collections.abc import Iterable, Mapping
from typing import Final, NamedTuple

from jaklet.core.desk import Desk, Window

# What a rule may name, and how much it says about a window: the rule with the greater sum has it. The weights
# are powers of two, so that two rules of equal sum name the same parts, and can only tie by being the same.
RULE_PARTS: Final[Mapping[str, int]] = {"class": 1, "instance": 2, "role": 4, "title": 8}


class WindowRule(NamedTuple):
    """What a window must have, part by part (`RULE_PARTS`); it has to match in all."""

    parts: tuple[tuple[str, str], ...]

    @property
    def weight(self) -> int:
        """How much the rule says."""
        return sum(RULE_PARTS[part] for part, _ in self.parts)

    def claims(self, window: Window) -> bool:
        """True if the window is one of these."""
        return all(_part_of(window, part) == value for part, value in self.parts)

    def __str__(self) -> str:
        return ", ".join(f"{part}: {value}" for part, value in self.parts)


def _part_of(window: Window, part: str) -> str:
    match part:
        case "class":
            return window.cls
        case "instance":
            return window.instance
        case "role":
            return window.role
        case _:
            return window.title


class App(NamedTuple):
    """A named program. `command` is empty where Jaklet cannot launch it."""

    name: str
    command: tuple[str, ...]
    rule: WindowRule


def default_rule(command: tuple[str, ...]) -> WindowRule:
    """Return the rule of an app that gives none: the instance is the program's file name (ICCCM 4.1.2.5)."""
    return WindowRule((("instance", command[0].rsplit("/", 1)[-1]),))


class Claims:
    """Which app a window belongs to; answers are kept, as the same few windows are asked about again."""

    def __init__(self, apps: Iterable[App]) -> None:
        self._rules = sorted(((app.rule, app.name) for app in apps), key=lambda pair: -pair[0].weight)
        self._kept: dict[tuple[str, str, str, str], str | None] = {}

    def app_of(self, window: Window) -> str | None:
        """Return the name of the app with the most telling rule that claims the window."""
        key = (window.cls, window.instance, window.role, window.title)
        if key not in self._kept:
            if len(self._kept) > 5000:  # titles change for ever; the listener stays small
                self._kept.clear()
            self._kept[key] = next((name for rule, name in self._rules if rule.claims(window)), None)
        return self._kept[key]

    def windows_of(self, app: str, desk: Desk) -> tuple[Window, ...]:
        """Return the app's windows in the order in which they opened."""
        return tuple(window for window in desk.windows if self.app_of(window) == app)
