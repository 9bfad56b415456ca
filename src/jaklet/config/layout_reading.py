"""Layout files as they are read: with positions, and with what they leave to the layout that they build on."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Final, NamedTuple

from jaklet.config.layout_keys import ARRANGEMENT_KEYS, ENTRY_KEYS, LAYOUT_KEYS, SHARED_KEYS, PositionedValue
from jaklet.config.reading import Mention
from jaklet.core.actions.layouts.displays import display_sizes
from jaklet.core.values.errors import StoreError
from jaklet.core.values.findings import finding
from jaklet.core.values.forms import NamedPlace, SamePlace
from jaklet.core.values.layout_fields import (
    ALL,
    ARRANGEMENT_FIELDS,
    ENTRY_FIELDS,
    LAYOUT_FIELDS,
    VARIANTS,
    WINDOWS,
    FieldKind,
)
from jaklet.core.values.layouts import Arrangement, Layout, LayoutEntry, SharedDisplay, Where, name_fault, names_of
from jaklet.core.values.places import Place
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import counted, nearest
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found
from jaklet.yaml_files.reader import SourceFile, Value, documents


class WrittenArrangement(NamedTuple):
    """An arrangement as it is written. `heads`: by key, with positions; `entries` None: there is no `windows`."""

    heads: Mapping[str, Any]
    entries: tuple["WrittenEntry", ...] | None


class WrittenEntry(NamedTuple):
    """A window as it is written: the values of its keys, and where it stands."""

    said: Mapping[str, Any]
    spot: Spot


class LayoutDraft(NamedTuple):
    """A layout as it is written, before what it builds on is added."""

    heads: Mapping[str, Any]
    arranged: tuple[WrittenArrangement, ...]


class LayoutReading(NamedTuple):
    """A layout and where it names things; `layout` is None where a fault kept it from being read.

    `entry_spots`: where the entries stand, arrangement by arrangement.
    """

    layout: Layout | None
    mentions: list[Mention]
    spots: Mapping[str, Spot]
    entry_spots: tuple[tuple[Spot, ...], ...] = ()


_BEGIN: Final = "begin with `layout: NAME`"
Bases = Callable[[str], LayoutDraft]  # returns what a layout says with all that it builds on; raises `StoreError`


def no_bases(name: str) -> LayoutDraft:
    """Know of no other layout."""
    raise StoreError(f"there is no layout {name} to build on")


def read_layout(source: SourceFile, found: Found, base_of: Bases = no_bases) -> LayoutReading:
    """Read a layout file, reporting every fault. Nothing in it can carry a command: it names apps."""
    mentions: list[Mention] = []
    spots: dict[str, Spot] = {}
    draft = read_draft(source, found, mentions, spots)
    if draft is None:
        return LayoutReading(None, mentions, spots)
    base = draft.heads.get("base")
    if base:
        try:
            draft = joined_layout(draft, base_of(base.read))
        except StoreError as fault:
            remedy = fault.remedy or "mend it, or take `base` away"
            found.append(finding("JK504", base.value.spot, problem=fault.message, remedy=remedy))
            return LayoutReading(None, mentions, spots)
    before = len(found)
    layout = _built(draft, found)
    entry_spots = tuple(tuple(entry.spot for entry in one.entries or ()) for one in draft.arranged)
    return LayoutReading(None if len(found) > before else layout, mentions, spots, entry_spots)


def read_draft(source: SourceFile, found: Found, mentions: list[Mention], spots: dict[str, Spot]) -> LayoutDraft | None:
    """Read what a layout file itself says; None where a fault keeps it from being used."""
    before = len(found)
    read = _read_keys(source, found, spots)
    if read is None:
        return None
    fault = name_fault(read["layout"].read)
    if fault:
        found.append(finding("JK108", spots["layout"], problem=fault, remedy="use a name such as departures"))
    own: list[Mention] = []
    for key, one in read.items():
        if key in _KINDS:
            _mention(_KINDS[key], one, own, found)
    arranged = [_arranged(read, own, found)]
    arranged += [_variant(item, own, found) for item in (read[VARIANTS].read.items() if VARIANTS in read else ())]
    known = {name for one in arranged for name in _displays(one)}
    mentions += [mention for mention in own if mention.kind != "display" or mention.name not in known]
    heads = {key: value for key, value in read.items() if key not in ARRANGEMENT_KEYS}
    return None if len(found) > before else LayoutDraft(heads, tuple(arranged))


_KINDS: Final[Mapping[str, FieldKind]] = {one.key: one.kind for one in LAYOUT_FIELDS}
_KINDS_OF_ENTRIES: Final[Mapping[str, FieldKind]] = {one.key: one.kind for one in ENTRY_FIELDS}


def _mention(kind: FieldKind, one: PositionedValue, mentions: list[Mention], found: Found) -> None:
    """Remember the names that a value of this kind mentions."""
    read, value = one
    match kind:
        case FieldKind.APP | FieldKind.DISPLAY:
            mentions.append(Mention(kind.value, read, value.spot))
        case FieldKind.APPS | FieldKind.DISPLAYS:
            of = FieldKind.APP if kind is FieldKind.APPS else FieldKind.DISPLAY
            mentions += [Mention(of.value, name.read, name.value.spot) for name in read]
        case FieldKind.WORKSPACE | FieldKind.WORKSPACE_OR_ALL:
            _mention_workspace(read, value, mentions)
        case FieldKind.OTHERS:
            _mention_workspace(read.workspace, value, mentions)
        case FieldKind.PLACE:
            _look_at_place(read, value.spot, mentions, found)
        case FieldKind.ACTIONS:
            for action in read:
                part = action.value.part
                mentions += [Mention(n.kind, n.name, part(n.start, n.end)) for n in action.read.names()]


def _displays(one: WrittenArrangement) -> Mapping[str, str]:
    """Return the displays that an arrangement names, each with its rectangle."""
    return one.heads["displays"].read if "displays" in one.heads else {}


def _read_keys(source: SourceFile, found: Found, spots: dict[str, Spot]) -> dict[str, Any] | None:
    """Read the keys of a layout file, and remember where some stand; None where it is no layout at all."""
    before = len(found)
    roots = documents(source, found, set())
    if len(found) > before:
        return None
    read = fields.fields(roots[0], "this layout", LAYOUT_KEYS, found) if roots else {}
    spots |= {key: read[key].value.spot for key in ("layout", "number", "base", "home", "focus") if key in read}
    if "layout" in read:
        return read
    if not roots or roots[0].is_map:
        start = Spot(source.path, 1, 1, 2)
        found.append(finding("JK106", start, what="this layout", key="layout", remedy=_BEGIN))
    return None


def _variant(item: Value, mentions: list[Mention], found: Found) -> WrittenArrangement:
    """Read an arrangement for other displays."""
    heads = fields.fields(item, "this variant", ARRANGEMENT_KEYS, found)
    if "displays" not in heads and item.is_map:
        remedy = "say for which: displays: {main: 1920x1080+0+0}"
        found.append(finding("JK106", item.spot, what="this variant", key="displays", remedy=remedy))
    return _arranged(heads, mentions, found)


def _arranged(read: Mapping[str, Any], mentions: list[Mention], found: Found) -> WrittenArrangement:
    entries = None
    if WINDOWS in read:
        every = [_entry(item, mentions, found) for item in read[WINDOWS].read.items()]
        entries = tuple(entry for entry in every if entry)
    heads = {one.key: read[one.key] for one in ARRANGEMENT_FIELDS if one.key in read}
    for one in ARRANGEMENT_FIELDS:
        if one.key in heads and one.kind is not FieldKind.SHARED:
            _mention(one.kind, heads[one.key], mentions, found)
    if "arranged" in heads:
        heads["arranged"] = [_shared(item, mentions, found) for item in read["arranged"].read.items()]
    return WrittenArrangement(heads, entries)


def _mention_workspace(where: Where | None, value: Value, mentions: list[Mention]) -> None:
    if isinstance(where, str) and where != ALL:
        mentions.append(Mention("workspace", where, value.spot))


def _shared(item: Value, mentions: list[Mention], found: Found) -> Mapping[str, Any]:
    """Read how windows share a display."""
    read = fields.fields(item, "what stays arranged", SHARED_KEYS, found)
    for key in ("display", "form"):
        if key not in read and item.is_map:
            remedy = "write {display: main, form: columns, order: [berths, radio]}"
            found.append(finding("JK106", item.spot, what="what stays arranged", key=key, remedy=remedy))
    if "display" in read:
        mentions.append(Mention("display", read["display"].read, read["display"].value.spot))
    if "form" in read:
        mentions += read["form"].mentions
    _mention_workspace(read.get("workspace"), item, mentions)
    return read


def _entry(value: Value, mentions: list[Mention], found: Found) -> WrittenEntry | None:
    """Read the keys of a window. A display in the sentence of its place is the same as one by itself."""
    if not value.is_map:
        remedy = "write - {app: berths, display: main, place: left 2/3}"
        found.append(finding("JK105", value.spot, what="a window", wanted="a mapping", found=value.kind, remedy=remedy))
        return None
    before = len(found)
    read = fields.fields(value, "this window", ENTRY_KEYS, found)
    if "app" not in read and "class" not in read and len(found) == before:
        found.append(finding("JK106", value.spot, what="this window", key="app", remedy="name its app, or its class"))
    for key, one in read.items():
        _mention(_KINDS_OF_ENTRIES[key], one, mentions, found)
    said = {key: _plain(one) for key, one in read.items()}
    if "place" in said:
        written = said["place"]
        said["place"] = written.form
        if written.display:
            said.setdefault("display", written.display)
    return WrittenEntry(said, value.spot)


def _look_at_place(written: Place, spot: Spot, mentions: list[Mention], found: Found) -> None:
    """Report what is no place for a window of a layout; remember what it names."""
    if written.then or isinstance(written.form, SamePlace):
        problem = "a layout needs one place for each window"
        found.append(finding("JK303", spot, problem=problem, remedy="write the one that is meant, such as left 2/3"))
    if isinstance(written.form, NamedPlace):
        mentions.append(Mention("place", written.form.name, spot))


def joined_layout(own: LayoutDraft, base: LayoutDraft) -> LayoutDraft:
    """Return a layout together with the one that it builds on; its own values win."""
    without = set(own.heads["without"].read if "without" in own.heads else ())
    heads = {**{key: value for key, value in base.heads.items() if key in _INHERITED}, **own.heads}
    arranged = tuple(_over(one, _same_displays(one, base), without) for one in own.arranged)
    return LayoutDraft(heads, arranged)


_INHERITED: Final = frozenset(one.key for one in LAYOUT_FIELDS if one.inherited)


def _same_displays(own: WrittenArrangement, base: LayoutDraft) -> WrittenArrangement:
    """Return the arrangement of a base that is for the same displays, else its first."""
    wanted = display_sizes(_displays(own))
    return next((one for one in base.arranged if display_sizes(_displays(one)) == wanted), base.arranged[0])


def _over(own: WrittenArrangement, base: WrittenArrangement, without: set[str]) -> WrittenArrangement:
    below = _named(base.entries or ())
    entries: list[WrittenEntry] = []
    for name, entry in _named(own.entries or ()).items():
        under = below.pop(name, None)
        entries.append(entry._replace(said={**under.said, **entry.said}) if under else entry)
    entries += [entry for name, entry in below.items() if name not in without]
    heads = {**base.heads, **own.heads}
    focus = heads.get("focus")
    if focus and "focus" not in own.heads and focus.read in without:
        del heads["focus"]
    if "arranged" in heads and "arranged" not in own.heads:
        heads["arranged"] = [_less(its, without) for its in heads["arranged"]]
    return WrittenArrangement(heads, tuple(entries))


def _less(its: Mapping[str, Any], without: set[str]) -> Mapping[str, Any]:
    """Return how windows share a display without some of them."""
    order = its.get("order", ())
    left = [i for i, name in enumerate(order) if name.read not in without]
    shares = its.get("shares", ())
    both = {"order": [order[i] for i in left], "shares": tuple(shares[i] for i in left if i < len(shares))}
    return {**its, **both}


def _named(entries: Sequence[WrittenEntry]) -> dict[str, WrittenEntry]:
    """Return entries by their names: the label, and which of it they are."""
    return dict(zip(written_names(entries), entries, strict=True))


def written_names(entries: Sequence[WrittenEntry]) -> list[str]:
    """Return the names of written entries: the label of each, with a number from the second of a label on."""
    return names_of(tuple(LayoutEntry(one.said.get("app"), one.said.get("class"), None, None) for one in entries))


def _built(draft: LayoutDraft, found: Found) -> Layout:
    """Return the layout that a draft comes to; a focus that is no window of it is reported."""
    said = {key: _plain(one) for key, one in draft.heads.items()}
    every = [_arrangement(one, found) for one in draft.arranged]
    own = {one.attribute: one.attribute_of(said) for one in LAYOUT_FIELDS if one.attribute}
    return Layout(**own, **every[0]._asdict(), variants=tuple(every[1:]))


def _plain(one: PositionedValue) -> Any:
    """Return a value without positions: neither its own, nor those of the names in it."""
    if isinstance(one.read, tuple) and one.read and isinstance(one.read[0], PositionedValue):
        return tuple(name.read for name in one.read)
    return one.read


def _arrangement(one: WrittenArrangement, found: Found) -> Arrangement:
    said = {key: value.read for key, value in one.heads.items() if isinstance(value, PositionedValue)}
    own = {field.attribute: field.attribute_of(said) for field in ARRANGEMENT_FIELDS}
    workspace = own["workspace"]
    entries = tuple(_built_entry(entry.said, workspace) for entry in one.entries or ())
    own["focus"] = _focus(one.heads["focus"], entries, found) if "focus" in one.heads else None
    before = len(found)
    arranged = [_built_shared(its, entries, workspace, found) for its in one.heads.get("arranged", ())]
    own["arranged"] = tuple(arranged) if len(found) == before else ()
    return Arrangement(**own, entries=entries)


def _built_shared(
    said: Mapping[str, Any], entries: tuple[LayoutEntry, ...], workspace: Where, found: Found
) -> SharedDisplay:
    order = [_focus(name, entries, found, "`order` names") for name in said.get("order", ())]
    shares = said.get("shares", ())
    if shares and len(shares) != len(order):
        value = said["display"].value
        problem = f"`order` names {counted(len(order), 'window')}, and `shares` has {len(shares)}"
        found.append(finding("JK108", value.spot, problem=problem, remedy="give each window of `order` its share"))
    return SharedDisplay(
        said["display"].read,
        said["form"].ref.sharing,
        tuple(i for i in order if i is not None),
        shares,
        said.get("workspace", workspace),
    )


def _built_entry(said: Mapping[str, Any], workspace: Where) -> LayoutEntry:
    return LayoutEntry(**{one.attribute: one.attribute_of(said, workspace) for one in ENTRY_FIELDS if one.attribute})


def _focus(
    read: PositionedValue, entries: tuple[LayoutEntry, ...], found: Found, what: str = "focus is to go to"
) -> int | None:
    """Return the index of `LABEL [K]`: the K-th window, from the front, of that app or class."""
    wanted = read.read
    names = names_of(entries)
    wanted = wanted.removesuffix(" 1")
    if wanted in names:
        return names.index(wanted)
    near = nearest(wanted, names)
    remedy = f"did you mean {near[0]}?" if near else "name one of the windows listed below it"
    problem = f"{what} {read.read!r}, and this layout has no such window"
    found.append(finding("JK108", read.value.spot, problem=problem, remedy=remedy))
    return None
