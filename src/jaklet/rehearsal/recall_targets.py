"""Which layouts a key may recall, by its action and by the macros that this runs; and what those macros depend on."""

from collections.abc import Iterable, Iterator
from typing import Final

from jaklet.core.actions.ports.layout_store import LayoutStore
from jaklet.core.language.actions import parse_action
from jaklet.core.language.steps import DoStep, RepeatStep, Step, WhenStep, steps_of
from jaklet.core.language.verbs import ENTER, LEAVE, PAUSE, RECALL, RESUME, RUN, FocusAfter, traits_of
from jaklet.core.values.config import Config
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.layouts import LAST
from jaklet.core.values.sentences import Action, Condition

NONE: Final = ""  # no layout was recalled
TURNS: Final = (ENTER, LEAVE, PAUSE, RESUME, RUN)  # what keys mean, whatever they do to windows
DEEPEST: Final = 8  # macros within macros


class RecallTargets:
    """The layouts that actions of a config may recall. Each action is looked into once."""

    def __init__(self, config: Config, shelf: LayoutStore) -> None:
        self.config, self.shelf = config, shelf
        self._found: dict[Action, frozenset[str]] = {}

    def of(self, action: Action) -> frozenset[str]:
        """Return the layouts one of which stands after an action that may recall: empty for one that never does."""
        if action not in self._found:
            self._found[action] = frozenset()  # a macro that runs itself is refused
            self._found[action] = self._after(action, frozenset({NONE})) - {NONE}
        return self._found[action]

    def _after(self, action: Action, before: frozenset[str]) -> frozenset[str]:
        """Return the layouts that may have been recalled last after an action.

        `before`: those before it; `NONE` for none.
        """
        if action.verb == RUN:
            return self._after_steps(self._steps_of(action), before)
        ref = action.named("LAYOUT")
        if action.verb != RECALL or ref is None or ref.name == LAST:
            return before
        layout = self.shelf.find(ref.name)
        return frozenset({layout.name}) if layout else before

    def _after_steps(self, steps: Iterable[Step], before: frozenset[str], depth: int = 0) -> frozenset[str]:
        for step in steps:
            match step:
                case DoStep(action, _, otherwise):
                    inner = self._steps_of(action) if action.verb == RUN and depth < DEEPEST else ()
                    done = self._after_steps(inner, before, depth + 1) if inner else self._after_plain(action, before)
                    before = done | self._after_steps(otherwise, before, depth) if otherwise else done
                case WhenStep(_, _, then, otherwise):
                    before = self._after_steps(then, before, depth) | self._after_steps(otherwise, before, depth)
                case RepeatStep(_, _, again):
                    before = self._after_steps(again, before, depth)
        return before

    def _after_plain(self, action: Action, before: frozenset[str]) -> frozenset[str]:
        return before if action.verb == RUN else self._after(action, before)

    def _steps_of(self, action: Action) -> tuple[Step, ...]:
        """Return the steps of the macro that an action runs; nothing for one that cannot be run."""
        macro = self.config.macros.get(action.refs[0].name)
        try:
            return steps_of(macro, action.refs[0].arguments, parse_action) if macro else ()
        except SentenceError:
            return ()

    def conditions(self) -> Iterator[Condition]:
        """Yield the conditions that macros ask for, of all that keys and events run."""
        ahead = [one.action for one in self.config.live] + [one.action for one in self.config.events]
        seen: set[Action] = set()
        while ahead:
            action = ahead.pop()
            if action.verb != RUN or action in seen:
                continue
            seen.add(action)
            steps = [*self._steps_of(action)]
            while steps:
                match steps.pop():
                    case DoStep(inner, _, otherwise):
                        ahead.append(inner)
                        steps += otherwise or ()
                    case WhenStep(condition, _, then, otherwise):
                        yield condition
                        steps += [*then, *otherwise]
                    case RepeatStep(_, _, again):
                        steps += again

    def watched_apps(self) -> Iterator[str]:
        """Yield the apps on whose windows it depends whether an event happens that keys depend on."""
        for one in self.config.events:
            stays = all(traits_of(action).focus is FocusAfter.STAYS for action in one.action.every())
            if stays and one.action.verb not in TURNS:
                continue
            named = [ref.name for ref in one.refs if ref.kind == "APP"]
            yield from named or (self.config.apps if one.kind.startswith("window") else ())
