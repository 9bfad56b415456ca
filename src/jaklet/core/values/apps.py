"""Apps: how a program is launched, and which windows are its."""

from collections.abc import Callable, Iterable, Mapping
from operator import attrgetter
from typing import Final, NamedTuple
from zlib import crc32

from jaklet.core.values import globs
from jaklet.core.values.chords import Keys
from jaklet.core.values.desk import DIALOG, Desk, Window
from jaklet.core.values.sentences import Action
from jaklet.core.values.sharings import YES

# What a rule may name, from the least telling to the most. The rule with the greater score has the window: a more
# telling part counts for more than all less telling ones together, and a part in full for more than its pattern.
# So two rules have the same score only where they name the same parts in the same way.
# Each with the field of a window that it is about.
_FIELDS: Final = {
    "kind": "kind", "process": "process", "class": "cls", "instance": "instance", "role": "role", "title": "title"
}  # fmt: skip
RULE_PARTS: Final[Mapping[str, Callable[[Window], str]]] = {part: attrgetter(_FIELDS[part]) for part in _FIELDS}
_PARTS_OF: Final[Callable[[Window], tuple[str, ...]]] = attrgetter(*_FIELDS.values())
_PATTERN: Final = {part: 1 << 2 * i for i, part in enumerate(RULE_PARTS)}  # in full: twice as much
SMALL: Final = ("class", "instance")  # KWin tells these in small letters, whatever a program says
MOST_KEPT: Final = 5000  # titles change for ever; the listener stays small


def _in_small_letters(part: str, wanted: str, has: str) -> bool:
    """True if a part fits that a desktop may have told in small letters alone."""
    return part in SMALL and has.islower() and globs.matches(wanted.lower(), has)


class WindowRule(NamedTuple):
    """What a window must have, part by part (`RULE_PARTS`), as patterns; it has to match in all."""

    parts: tuple[tuple[str, str], ...]

    @property
    def score(self) -> int:
        """How much the rule says."""
        return sum(
            _PATTERN[part] * (1 if globs.is_pattern(wanted) else 2)
            for part, wanted in self.parts
            if globs.says_something(wanted)
        )

    def claims(self, window: Window) -> bool:
        """True if the window is one of these."""
        return self.miss(window) is None

    def miss(self, window: Window) -> tuple[str, str, str] | None:
        """Return the first part in which a window does not match: part, what is wanted, what it has."""
        for part, wanted in self.parts:
            has = RULE_PARTS[part](window)
            if has != wanted and not globs.matches(wanted, has) and not _in_small_letters(part, wanted, has):
                return part, wanted, has
        return None

    def rivals(self, other: "WindowRule") -> bool:
        """True if some window could match both, and neither says more."""
        mine, its = dict(self.parts), dict(other.parts)
        return self.score == other.score and all(globs.overlap(mine[part], its[part]) for part in mine.keys() & its)

    def __str__(self) -> str:
        return ", ".join(f"{part}: {wanted}" for part, wanted in self.parts)


class App(NamedTuple):
    """A named program. `command` is empty where Jaklet cannot launch it; a window is its if any of `rules` claims it.

    `folder`: where it starts, the home folder if empty. `in_terminal`: the command runs in the user's terminal program.
    `bring_here`: going to it from another workspace or display brings its window, and does not change the view.
    `opens`: what is done once with each new window of it.
    `wait`: how long it may take to show its window, in seconds; None: as all. `least`: the least width and height in
    pixels with which it is of use. `types`: what is typed goes into it as text.
    `terminal`: it is one, as its desktop entry says. `may_press`: what layouts may press for it beside the harmless.
    `arranged`: how its windows take part on a workspace that stays arranged (`sharings`).
    `stays`: its windows are minimised instead of closed. `guessed`: no rule was written, and these are the usual ones.
    """

    name: str
    command: tuple[str, ...]
    rules: tuple[WindowRule, ...]
    folder: str = ""
    environment: tuple[tuple[str, str], ...] = ()
    in_terminal: bool = False
    bring_here: bool = False
    stays: bool = False
    guessed: bool = False
    opens: tuple[Action, ...] = ()
    wait: float | None = None
    least: tuple[int, int] | None = None
    types: bool = False
    terminal: bool = False
    may_press: Keys = ()
    arranged: str = YES

    def command_line(self, terminal: tuple[str, ...]) -> tuple[str, ...]:
        """Return the command line that launches it.

        `terminal`: the command to which a program in a terminal is added.
        """
        return (*terminal, *self.command) if self.in_terminal else self.command


def tie(app: str, command: tuple[str, ...]) -> str:
    """Return the note for its first window: the app, and a mark of the command, which may change later."""
    raw = "\0".join(command).encode("utf-8", "surrogateescape")
    return f"{app} {crc32(raw):08x}"


def default_rule(command: tuple[str, ...]) -> WindowRule:
    """Return the rule of an app that gives none: the instance is the program's file name (ICCCM 4.1.2.5)."""
    return exactly(instance=command[0].rsplit("/", 1)[-1])


def _plain(text: str) -> str:
    return "".join(f"\\{c}" if c in "*?\\" else c for c in text)


def exactly(**parts: str) -> WindowRule:
    """Return a rule of these texts in full, whatever characters they have. `cls` stands for the class."""
    return WindowRule(tuple((part.replace("cls", "class"), _plain(text)) for part, text in parts.items()))


class RuleVerdict(NamedTuple):
    """How one rule judges one window. `miss`: the part in which it does not match, wanted, and had."""

    app: str
    rule: WindowRule
    miss: tuple[str, str, str] | None


class AppClaims:
    """Which app a window belongs to; answers are kept, as the same few windows are asked about again.

    A window that was launched for an app is that app's, whatever the rules say, as long as the app is launched in that
    way. A dialog that no rule of kind dialog claims belongs to its parent's app. Else the rule with the greatest score
    has it, the earlier one of two equal.
    """

    def __init__(self, apps: Iterable[App], terminal: tuple[str, ...] = ()) -> None:
        """Judge by the rules of some apps. `terminal`: the command that programs in a terminal are added to."""
        apps = tuple(apps)
        self._ties = {app.name: app.name for app in apps}
        self._ties |= {tie(app.name, app.command_line(terminal)): app.name for app in apps if app.command}
        rules = ((app.name, rule) for app in apps for rule in app.rules)
        self._rules = sorted(rules, key=lambda pair: -pair[1].score)
        self._kept: dict[tuple[str, ...], tuple[str, ...]] = {}
        self._seen: dict[int, tuple[Window, str | None]] = {}  # window id -> as it was when judged, and its app
        self._desk: Desk | None = None  # the one that was prepared last
        self._windows: dict[str | None, list[Window]] = {}

    def app_of(self, window: Window, desk: Desk) -> str | None:
        """Return the name of the app that has the window."""
        if window.parent is None:
            seen = self._seen.get(window.id)
            if seen and seen[0] is window:
                return seen[1]
        app = self._judged(window, desk)
        if len(self._seen) > MOST_KEPT:
            self._seen.clear()
        self._seen[window.id] = window, app
        return app

    def _judged(self, window: Window, desk: Desk) -> str | None:
        main = desk.family(window)
        if main is not window:
            of_dialogs = ((name, rule) for name, rule in self._rules if ("kind", DIALOG) in rule.parts)
            own = next((name for name, rule in of_dialogs if rule.claims(window)), None)
            if own:
                return own
        if tied := self.tied(main):
            return tied
        return next(iter(self._claimants(main)), None)

    def tied(self, window: Window) -> str | None:
        """Return the app that a window was launched for, if the app is launched in that way still."""
        return self._ties.get(window.launched_for) if window.launched_for else None

    def _claimants(self, window: Window) -> tuple[str, ...]:
        """Return the apps whose rules claim a window with the greatest score."""
        key = _PARTS_OF(window)
        if key not in self._kept:
            if len(self._kept) > MOST_KEPT:
                self._kept.clear()
            fitting = [(rule.score, name) for name, rule in self._rules if rule.claims(window)]
            best = fitting[0][0] if fitting else 0
            self._kept[key] = tuple(dict.fromkeys(name for score, name in fitting if score == best))
        return self._kept[key]

    def rivals(self, window: Window, desk: Desk) -> tuple[str, ...]:
        """Return the other apps whose rules claim a window with the same score as the app that has it."""
        if self.tied(window) or desk.family(window) is not window:
            return ()
        return self._claimants(window)[1:]

    def verdicts(self, window: Window) -> list[RuleVerdict]:
        """Return how each rule judges a window, the greatest score first."""
        return [RuleVerdict(name, rule, rule.miss(window)) for name, rule in self._rules]

    def windows_of(self, app: str, desk: Desk) -> tuple[Window, ...]:
        """Return the app's windows in the order in which they opened, without the dialogs of others."""
        self.prepare(desk)
        return tuple(self._windows.get(app, ()))

    def prepare(self, desk: Desk) -> None:
        """Sort the windows of a desk by their apps, so that asking for those of one takes no time."""
        if self._desk is desk:
            return
        self._windows = {}
        for window in desk.main_windows:
            self._windows.setdefault(self.app_of(window, desk), []).append(window)
        self._desk = desk
