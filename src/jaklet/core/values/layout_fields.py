"""What a layout's file says: a row for each field of a window, of an arrangement, and of the layout itself.

Whatever reads, writes, saves over, compares or describes a layout goes through these tables. A new field is one
attribute of a value in `core.values.layouts` and one row here: its key, and how its text is read (`FieldKind`). Where
it is not a plain value, the row says how its attribute comes of the written text, and goes back into it.
"""

from collections.abc import Callable, Mapping
from enum import Enum
from typing import Any, Final, Generic, NamedTuple, TypeVar

from jaklet.core.values.desk import WindowShape
from jaklet.core.values.layouts import (
    ALL_PARTS,
    LAUNCH,
    MISSING,
    PARTS,
    Arrangement,
    Layout,
    LayoutEntry,
    SharedDisplay,
    Where,
    names_of,
)
from jaklet.core.values.places import Place
from jaklet.core.values.words import either, listed

ALL: Final = "all"  # the workspace of a window that is on each of them
MINIMISED: Final = "minimised"
T = TypeVar("T")


class FieldKind(Enum):
    """How the text of a field is read; `config.layout_keys` has the reader of each, and the names that it mentions."""

    TEXT = "text"
    PATTERN = "pattern"
    NUMBER = "number"
    TRUTH = "truth"
    WORDS = "words"
    MISSING = "missing"
    STATE = "state"
    APP = "app"
    APPS = "apps"
    DISPLAY = "display"
    DISPLAYS = "displays"
    SIZES = "sizes"
    PLACE = "place"
    WORKSPACE = "workspace"
    WORKSPACE_OR_ALL = "workspace or all"
    PARTS = "parts"
    OTHERS = "others"
    ACTIONS = "actions"
    SHARED = "shared"
    WINDOWS = "windows"
    VARIANTS = "variants"


def _same(value: Any) -> Any:
    return value


class LayoutField(NamedTuple, Generic[T]):
    """One field of a window (`LayoutEntry`), of an arrangement, or of a layout."""

    key: str
    kind: FieldKind
    meaning: str  # for the manual and the schema
    attribute: str = ""  # the one that it sets; empty for a part of another field's value
    usual: Any = None  # is not written
    data: Callable[[Any], Any] = _same  # from the attribute to plain data
    of: Callable[[T], Any] | None = None  # plain data, where it is not that of the attribute
    written: Callable[[T, Any], Any] | None = None  # the value in the file, where it is not the plain data
    built: Callable[[Mapping[str, Any], Where], Any] | None = None  # the attribute, where other keys have a part in it
    kept: bool = False  # a save over the layout keeps the former value, as no desk shows it
    inherited: bool = False  # can come from the base
    change: str = "{key} {was} -> {now}"  # how a difference is told; empty where that is done elsewhere
    words: Callable[[T], str] | None = None  # of the value, in a difference
    rule: Callable[[T], str] | None = None  # the line of `jaklet layout show`, empty for none

    @property
    def name(self) -> str:
        """The key in JSON, where no key has a space."""
        return self.key.replace(" ", "_")

    def value(self, one: T) -> Any:
        """Return the field of a value as plain data."""
        return self.of(one) if self.of else self.data(getattr(one, self.attribute))

    def in_file(self, one: T, around: Any) -> Any:
        """Return the field as it is written in a file, or None. `around`: the workspace, or arrangement, around it."""
        if self.written:
            return self.written(one, around)
        value = self.value(one)
        return None if value == self.usual or value == [] else value

    def attribute_of(self, said: Mapping[str, Any], workspace: Where = 1) -> Any:
        """Return the attribute that the values of all keys come to. `workspace`: that of the arrangement."""
        return self.built(said, workspace) if self.built else said.get(self.key, self.usual)

    def told(self, one: T) -> str:
        """Return the field in words, as differences have them."""
        return self.words(one) if self.words else str(self.value(one) or "none")


def state_of(entry: LayoutEntry) -> str:
    """Return the state of an entry's window in words; empty for a normal one."""
    shape = "" if entry.shape is WindowShape.NORMAL else entry.shape.value
    return ", ".join(filter(None, (shape, MINIMISED if entry.minimised else "", "above" if entry.above else "")))


def _workspace_read(said: Mapping[str, Any], workspace: Where) -> Where | None:
    on: Where = said.get("workspace", workspace)
    return None if on == ALL else on


def _workspace_written(entry: LayoutEntry, workspace: Where) -> Where | None:
    return None if entry.workspace == workspace else ALL if entry.workspace is None else entry.workspace


def _shape_read(said: Mapping[str, Any], _workspace: Where) -> WindowShape:
    state = said.get("state", WindowShape.NORMAL.value)
    return WindowShape.NORMAL if state == MINIMISED else WindowShape(state)


def _shape_written(entry: LayoutEntry, _workspace: Where) -> str | None:
    if entry.shape is not WindowShape.NORMAL:
        return entry.shape.value
    return MINIMISED if entry.minimised else None


def _texts(actions: Any) -> list[str]:
    return [action.text for action in actions]


ENTRY_FIELDS: Final[tuple[LayoutField[LayoutEntry], ...]] = (
    LayoutField("app", FieldKind.APP, "the app whose window it is", "app", change=""),
    LayoutField(
        "class", FieldKind.TEXT, "the class of a window that no app claims; such a window cannot be launched", "cls",
        written=lambda entry, _: None if entry.app else entry.cls or "", change="",
    ),
    LayoutField("title", FieldKind.PATTERN, "its title, or a pattern: tells windows of one app apart", "title"),
    LayoutField("role", FieldKind.TEXT, "its window role: tells windows of one app apart", "role"),
    LayoutField("nth", FieldKind.NUMBER, "which one of its app it is, in the order in which they opened", "nth"),
    LayoutField(
        "display", FieldKind.DISPLAY, "the display on which it stands", of=lambda entry: entry.display, change="",
    ),
    LayoutField(
        "place", FieldKind.PLACE, "where it stands; where not given, it stays where it is", "place",
        data=lambda place: str(place.form) if place else None, change="",
        built=lambda said, _: Place(said["place"], said.get("display")) if "place" in said else None,
    ),
    LayoutField(
        "workspace", FieldKind.WORKSPACE_OR_ALL, f"a number or name, or `{ALL}`; the layout's own where not given",
        "workspace", 1, written=_workspace_written, built=_workspace_read,
        words=lambda entry: str(entry.workspace or ALL),
    ),
    LayoutField(
        "state", FieldKind.STATE, "`normal`, `minimised`, `maximised` or `fullscreen`",
        "shape", data=lambda shape: shape.value, written=_shape_written, built=_shape_read,
        change="{was} -> {now}", words=lambda entry: state_of(entry) or WindowShape.NORMAL.value,
    ),
    LayoutField(
        MINIMISED, FieldKind.TRUTH, "`true` beside another state: out of view, and in that state once it is shown",
        MINIMISED, False, change="",
        written=lambda entry, _: True if entry.minimised and entry.shape is not WindowShape.NORMAL else None,
        built=lambda said, _: said.get("state") == MINIMISED or said.get(MINIMISED, False),
    ),
    LayoutField("above", FieldKind.TRUTH, "`true`: kept above other windows", "above", False, change=""),
    LayoutField(
        "missing", FieldKind.MISSING,
        f"what becomes of it where it is not open: {either([f'`{one}`' for one in MISSING])}",
        "missing", LAUNCH, kept=True,
    ),
    LayoutField(
        "after", FieldKind.ACTIONS, "what is done with it once all stands: an action, or a list of them", "after", (),
        data=_texts, kept=True, change="then: {now}", words=lambda entry: "; ".join(_texts(entry.after)) or "nothing",
    ),
)  # fmt: skip


def _shared_written(one: Arrangement, its: SharedDisplay) -> dict[str, object]:
    names = names_of(one.entries)
    written: dict[str, object] = {"display": its.display, "form": str(its.form), "order": [names[i] for i in its.order]}
    if its.shares:
        written["shares"] = [str(share) for share in its.shares]
    return written | ({"workspace": its.workspace} if its.workspace != one.workspace else {})


def _shared_data(its: SharedDisplay) -> dict[str, object]:
    return {
        "display": its.display, "workspace": its.workspace, "form": str(its.form), "order": list(its.order),
        "shares": [str(share) for share in its.shares],
    }  # fmt: skip


WINDOWS: Final = "windows"
VARIANTS: Final = "variants"
ARRANGEMENT_FIELDS: Final[tuple[LayoutField[Arrangement], ...]] = (
    LayoutField(
        "displays", FieldKind.SIZES, "the displays that it was saved on, each with its rectangle", "displays", {}, dict,
    ),
    LayoutField("workspace", FieldKind.WORKSPACE, "the workspace that is shown: a number or name", "workspace", 1),
    LayoutField(
        "focus", FieldKind.TEXT,
        "the window that has the focus: its app, with a number where there are several", "focus",
        written=lambda one, _: None if one.focus is None else names_of(one.entries)[one.focus], change="",
    ),
    LayoutField(
        "arranged", FieldKind.SHARED,
        "what [stays arranged](arranged.md#layouts): a list of `{display, form, order, shares, workspace}`",
        "arranged", (), data=lambda every: [_shared_data(its) for its in every],
        written=lambda one, _: [_shared_written(one, its) for its in one.arranged] or None,
    ),
)  # fmt: skip
ARRANGEMENT_LISTS: Final = {WINDOWS: "a list of its windows, from front to back"}
_OTHERS: Final = {"leave": "stay", "minimise": "are minimised", "close": "are asked to close"}


def _others_rule(layout: Layout) -> str:
    rule = layout.rule
    told = f"other windows {_OTHERS.get(rule.what, f'go to workspace {rule.workspace}')}"
    return told if layout.others or not layout.entries else ""


def _parts(held: frozenset[str]) -> list[str]:
    return [part for part in PARTS if part in held]


LAYOUT_FIELDS: Final[tuple[LayoutField[Layout], ...]] = (
    LayoutField("layout", FieldKind.TEXT, "its name, which is the file's", "name", change=""),
    LayoutField("number", FieldKind.NUMBER, "the number that recalls it", "number"),
    LayoutField("note", FieldKind.TEXT, "a line about it", "note", ""),
    LayoutField(
        "home", FieldKind.TRUTH, "`true`: `recall home` recalls it", "home", False, kept=True,
        rule=lambda layout: "the one to return to: recall home" if layout.home else "",
    ),
    LayoutField(
        "base", FieldKind.TEXT, "the layout that it builds on", "base", kept=True,
        rule=lambda layout: f"builds on {layout.base}" if layout.base else "",
    ),
    LayoutField(
        "without", FieldKind.WORDS, "the windows of its base that it leaves out", written=lambda *_: None, change="",
    ),
    LayoutField(
        "holds", FieldKind.PARTS, f"a list of {listed([f'`{part}`' for part in PARTS])}; all where not given", "holds",
        ALL_PARTS, _parts, inherited=True,
        written=lambda layout, _: None if layout.holds == ALL_PARTS else _parts(layout.holds),
        rule=lambda one: "" if one.holds == ALL_PARTS else f"holds {listed(_parts(one.holds))}, and nothing else",
    ),
    LayoutField(
        "only on", FieldKind.DISPLAYS,
        "displays that it is about; windows on others are no others", "only_on", (), list,
        inherited=True, rule=lambda one: f"only on display {listed(one.only_on)}" if one.only_on else "",
    ),
    LayoutField(
        "others", FieldKind.OTHERS, "other windows in view: `leave`, `minimise`, `close`, or `workspace 3`", "others",
        kept=True, inherited=True, of=lambda layout: str(layout.rule),
        written=lambda layout, _: str(layout.others) if layout.others else None, rule=_others_rule,
    ),
    LayoutField(
        "absent", FieldKind.APPS, "apps that go out of view", "absent", (), list, kept=True, inherited=True,
        rule=lambda one: f"out of view: {listed(one.absent)}" if one.absent else "",
    ),
)  # fmt: skip
LAYOUT_LISTS: Final = {VARIANTS: "a list of arrangements for other displays, each with the keys from `displays` on"}
