"""What the user's files say, as values."""

from collections.abc import Mapping
from functools import cached_property
from types import MappingProxyType
from typing import Any, Final, NamedTuple

from jaklet.core.values.apps import App, AppClaims
from jaklet.core.values.chords import Keys, keys_written
from jaklet.core.values.desk import Desk, Display
from jaklet.core.values.event_bindings import EventBinding
from jaklet.core.values.geometry import Insets, Length
from jaklet.core.values.hands import BOTH_FREE, Hands
from jaklet.core.values.macros import REFUSE, Macro
from jaklet.core.values.places import Place
from jaklet.core.values.scopes import EVERYWHERE, Scope
from jaklet.core.values.sentences import Action, Ref
from jaklet.core.values.sharings import SWAPS, Sharing
from jaklet.core.values.spans import Spot

DEFAULT_WAIT: Final = 10.0
DEFAULT_SEQUENCE: Final = 2.0
DEFAULT_TERMINAL: Final = ("x-terminal-emulator", "-e")  # Debian policy 11.8.3; other systems name theirs


NO_GAP: Final = Length(None, 0)


NEVER: Final = float("inf")
OVERLAY, DESKTOP, LOG = "overlay", "desktop", "log"
NOTICES: Final = (OVERLAY, DESKTOP, LOG)
FAILURES, EVERYTHING = "failures", "all"


DARK, LIGHT, LIKE_DESKTOP = "dark", "light", "desktop"  # looks


class Overlay(NamedTuple):
    """How things are shown over the windows.

    `look`: dark, light, or as the desktop is; `size`: of the text; `scale`: None for that of the display; `at`: where a
    card is on its display; `display`: on which one; `hints`: after how many seconds the next keys are shown; `held`:
    after how many the layouts are whose numbers go with the modifiers that are held; `alternatives`: a walk through
    those of a place is shown; `says`: what is told of actions, only those that failed or all.
    """

    look: str = DARK
    size: str = "normal"
    scale: float | None = None
    at: str = "centre"
    display: str = "focus"
    hints: float = 0.4
    held: float = 0.8
    alternatives: bool = True
    says: str = FAILURES


class Settings(NamedTuple):
    """`gap` between windows, `rim` at the edges of the work area (None: as wide as the gap).

    `wait`: how long a launched program may take to show its window, in seconds.

    `terminal`: the command to which a program that runs in a terminal is added.
    `sequence`: how long the next chord of a sequence is waited for, in seconds.
    `at_once`: a short word is done as soon as it stands in `pick`, without Enter.
    `no_gap_alone`: a window that is the only one in view on its display has no gap around it.
    `workspaces`: how many there should be, None where that is left to the desk; `make_workspaces`: one that is named
    and is not there is made, where else the action is refused.
    `give_back`: the last ones go when they are empty, as far as there were more than there should be.
    `dragged`: what becomes of a window that is dragged where others stay arranged (`sharings.DRAGGED`).
    `windows_return`: to a display that has come back, if the user has not moved them since.
    `on_displays`: what becomes of the layout that stands when displays come or go (`FOLLOW`).
    `meanwhile`: what becomes of a macro that is begun while another one runs (`core.values.macros`).
    `display_sets`: by name, the displays that the config is used with, as `main 1920x1080, quay 1280x1024`.
    `notices`: where what is to be told is shown, beside the log (`NOTICES`); `overlay`: how things are shown there.
    `counts`: what is chosen in the finder is counted, and comes first the next time.
    `hands`: which of them is at the mouse, and which fingers are to be spared.
    `take_over`: chords that the desktop itself has, and is to lend as long as the listener runs.
    `keyboards`: names of those on which the keys should work, as they are written; the one that is used most first.
    """

    gap: Length = NO_GAP
    rim: Length | None = None
    no_gap_alone: bool = False
    workspaces: int | None = None
    make_workspaces: bool = False
    windows_return: bool = True
    wait: float = DEFAULT_WAIT
    terminal: tuple[str, ...] = DEFAULT_TERMINAL
    at_once: bool = False
    sequence: float = DEFAULT_SEQUENCE
    keyboards: tuple[str, ...] = ()
    on_displays: str = "offer"
    meanwhile: str = REFUSE
    notices: str = OVERLAY
    overlay: Overlay = Overlay()
    counts: bool = True
    dragged: str = SWAPS
    give_back: bool = False
    hands: Hands = BOTH_FREE
    display_sets: tuple[tuple[str, str], ...] = ()
    take_over: Keys = ()


RECALL, OFFER, LEAVE = "recall", "offer", "leave"
FOLLOW: Final = (RECALL, OFFER, LEAVE)
DEFAULTS: Final = Settings()


class Binding(NamedTuple):
    """A chord or sequence tied to an action, and where it stands. One that is `off` is listed and does nothing.

    `layer`: the one in which it is live; empty for what is live from the start. `scope`: the apps in which it is.
    `repeat`: done again and again while the key is held. `on_release`: done when the key is let go.
    `family`: chord and action as they are written, where they stand for several.
    """

    keys: Keys
    action: Action
    spot: Spot
    note: str = ""
    sure: bool = False  # it may kill without asking
    heading: str = ""
    off: bool = False
    family: tuple[str, str] | None = None
    layer: str = ""
    scope: Scope = EVERYWHERE
    repeat: bool = False
    on_release: bool = False

    @property
    def written(self) -> str:
        """The chords as they are written, with their layer."""
        keys = keys_written(self.keys)
        return f"{keys} ({self.layer})" if self.layer else keys

    @property
    def described(self) -> str:
        """All that makes this binding differ from another, on one line."""
        edge = " on release" if self.on_release else " repeated" if self.repeat else ""
        return f"{self.written}{edge} {self.scope}: {self.action}"


class Layer(NamedTuple):
    """A set of bindings that is live once it is entered.

    It ends after one action, unless it `stays`; it always ends `ends_after` seconds without a key, if that is given.
    `passes_on`: a key that is not bound in it ends it, and means what it means without it; else such a key is dropped.
    """

    name: str
    stays: bool = False
    ends_after: float | None = None
    passes_on: bool = False
    note: str = ""


class Word(NamedTuple):
    """A short name for an action, to be typed. `sure`: it may kill without asking."""

    action: Action
    note: str = ""
    sure: bool = False


_NOTHING: Final[Mapping[Any, Any]] = MappingProxyType({})


class _ConfigFields(NamedTuple):
    """What is read of a configuration: see `Config`."""

    settings: Settings = DEFAULTS
    displays: Mapping[str, str] = _NOTHING
    apps: Mapping[str, App] = _NOTHING
    places: Mapping[str, Place] = _NOTHING
    bindings: tuple[Binding, ...] = ()
    layers: Mapping[str, Layer] = _NOTHING
    words: Mapping[str, Word] = _NOTHING
    gaps: Mapping[str, tuple[Length | None, Length | None]] = _NOTHING
    elses: Mapping[str, str] = _NOTHING
    reserved: Mapping[str, Insets] = _NOTHING
    macros: Mapping[str, Macro] = _NOTHING
    events: tuple[EventBinding, ...] = ()
    workspaces: Mapping[str, int] = _NOTHING
    arranged: Mapping[int, Sharing] = _NOTHING
    arranged_displays: Mapping[str, Sharing] = _NOTHING


class Config(_ConfigFields):
    """A whole configuration that has been read. Role names of displays map to connector names.

    `workspaces`: names of workspaces, with their numbers. `arranged`: those that stay arranged, by number, and displays
    that do, by role.
    `gaps`: what a display has of its own, by role: gap and rim, None for what is as everywhere. `elses`: which display
    stands in for one that is not there, both by role. `reserved`: the edges of displays to keep free, by role.
    """

    @property
    def kept_free(self) -> Mapping[str, Insets]:
        """The edges of displays to keep free, by the names of their connectors."""
        return {self.displays.get(role, role): edges for role, edges in self.reserved.items()}

    @cached_property
    def claims(self) -> AppClaims:
        """Which window belongs to which app."""
        return AppClaims(self.apps.values(), self.settings.terminal)

    @cached_property
    def live(self) -> tuple[Binding, ...]:
        """The bindings that are not off."""
        return tuple(binding for binding in self.bindings if not binding.off)

    def front_app(self, desk: Desk) -> str | None:
        """Return the app of the window in front, if there is one and it is known."""
        front = desk.front
        return self.claims.app_of(front, desk) if front else None

    def wait_of(self, app: str) -> float:
        """Return how long an app may take to show its window, in seconds."""
        own = self.apps[app].wait if app in self.apps else None
        return self.settings.wait if own is None else own

    def word(self, text: str) -> Word | None:
        """Return the word of this name, in capitals or not; None where there is none."""
        small = text.strip().lower()
        return next((word for name, word in self.words.items() if name.lower() == small), None)

    def display(self, name: str, desk: Desk) -> Display | None:
        """Return the display with this role name, else with this connector name; None if it is not there."""
        return desk.display_named(self.displays.get(name, name))

    def workspace_of(self, ref: Ref) -> int:
        """Return the number of a workspace that a sentence names (N or WORKSPACE); 0 for a name that is not known."""
        return int(ref.name) if ref.kind == "N" else self.workspaces.get(ref.name, 0)

    def workspace_number(self, where: int | str) -> int:
        """Return the number of a workspace that has it, or a name; 0 for a name that is not known."""
        return where if isinstance(where, int) else self.workspaces.get(where, 0)

    def workspace_written(self, number: int) -> int | str:
        """Return the name of a workspace; its number where it has none."""
        return next((name for name, its in self.workspaces.items() if its == number), number)

    def workspace_told(self, number: int) -> str:
        """Return a workspace for a message: `workspace mail`, `workspace 2`."""
        return f"workspace {self.workspace_written(number)}"

    def sharing_of(self, workspace: int, display: Display) -> Sharing | None:
        """Return how a workspace is to stay arranged on a display: by the display's own form, else by its own."""
        return self.arranged_displays.get(self.role_of(display)) or self.arranged.get(workspace)

    def where_told(self, workspace: int, display: Display) -> str:
        """Return a workspace on a display for a message: `workspace mail on main`."""
        return f"{self.workspace_told(workspace)} on {self.role_of(display)}"

    def role_of(self, display: Display) -> str:
        """Return the name the user gave a display, else its connector name."""
        return next((role for role, name in self.displays.items() if name == display.name), display.name)
