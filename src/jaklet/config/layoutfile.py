"""Layout files: read with positions, and written for people to read and edit."""

from collections.abc import Mapping
from typing import Any, Final, NamedTuple

from jaklet.config import fields
from jaklet.config.fields import Found, Table
from jaklet.config.reader import Source, Value, documents
from jaklet.config.reading import Mention
from jaklet.core.desk import Shape
from jaklet.core.findings import finding
from jaklet.core.layouts import Entry, Layout, name_fault
from jaklet.core.places.forms import Full, Named, Same
from jaklet.core.places.places import Place
from jaklet.core.spans import Spot
from jaklet.core.words import nearest
from jaklet.files import yaml_line

MINIMISED: Final = "minimised"
ALL: Final = "all"


class LayoutReading(NamedTuple):
    """A layout and where it names things; `layout` is None where a fault kept it from being read."""

    layout: Layout | None
    mentions: list[Mention]
    spots: Mapping[str, Spot]


class _Positioned(NamedTuple):
    read: Any
    value: Value


def _kept(reader: fields.Reader) -> fields.Reader:
    def read(value: Value, what: str, found: Found) -> _Positioned | None:
        got = reader(value, what, found)
        return None if got is None else _Positioned(got, value)

    return read


def _workspace(value: Value, what: str, found: Found) -> int | str | None:
    return ALL if value.text == ALL else fields.number(value, what, found)


def _list(value: Value, what: str, found: Found) -> Value | None:
    if value.is_list:
        return value
    remedy = "write one line per window, each beginning with -"
    found.append(finding("JK105", value.spot, what=what, wanted="a list", found=value.kind, remedy=remedy))
    return None


def _displays(value: Value, what: str, found: Found) -> dict[str, str]:
    return {name: item.text or "" for _, name, item in fields.mapping(value, what, found)}


LAYOUT_KEYS: Final[Table] = {
    "layout": _kept(fields.text),
    "number": _kept(fields.number),
    "note": fields.text,
    "displays": _displays,
    "workspace": fields.number,
    "focus": _kept(fields.text),
    "windows": _list,
}
ENTRY_KEYS: Final[Table] = {
    "app": _kept(fields.text),
    "class": fields.text,
    "title": fields.text,
    "display": _kept(fields.text),
    "place": _kept(fields.place),
    "workspace": _workspace,
    "state": fields.choice(MINIMISED, *Shape),
    "minimised": fields.truth,
}


def read_layout(source: Source, found: Found) -> LayoutReading:
    """Read a layout file, reporting every fault. Nothing in it can carry a command: it names apps."""
    mentions: list[Mention] = []
    before = len(found)
    roots = documents(source, found, set())
    start = Spot(source.path, 1, 1, 2)
    if len(found) > before or not roots:
        if not roots and len(found) == before:
            found.append(finding("JK106", start, what="this layout", key="layout", remedy="begin with `layout: NAME`"))
        return LayoutReading(None, mentions, {})
    read = fields.fields(roots[0], "this layout", LAYOUT_KEYS, found)
    spots: dict[str, Spot] = {key: read[key].value.spot for key in ("layout", "number") if key in read}
    if "layout" not in read:
        if roots[0].is_map:
            found.append(finding("JK106", start, what="this layout", key="layout", remedy="begin with `layout: NAME`"))
        return LayoutReading(None, mentions, spots)
    name = read["layout"].read
    fault = name_fault(name)
    if fault:
        found.append(finding("JK108", spots["layout"], problem=fault, remedy="use a name such as departures"))
    workspace = read.get("workspace", 1)
    entries = (
        [_entry(item, workspace, mentions, found) for item in read["windows"].items()] if "windows" in read else []
    )
    whole = tuple(entry for entry in entries if entry)
    focus = _focus(read["focus"], whole, found) if "focus" in read else None
    known = read.get("displays", {})
    mentions = [mention for mention in mentions if mention.kind != "display" or mention.name not in known]
    if len(found) > before:
        return LayoutReading(None, mentions, spots)
    number = read["number"].read if "number" in read else None
    layout = Layout(
        name=name,
        number=number,
        note=read.get("note", ""),
        workspace=workspace,
        focus=focus,
        displays=known,
        entries=whole,
    )
    return LayoutReading(layout, mentions, spots)


def _entry(value: Value, workspace: int, mentions: list[Mention], found: Found) -> Entry | None:
    if not value.is_map:
        remedy = "write - {app: berths, display: main, place: left 2/3}"
        found.append(finding("JK105", value.spot, what="a window", wanted="a mapping", found=value.kind, remedy=remedy))
        return None
    before = len(found)
    read = fields.fields(value, "this window", ENTRY_KEYS, found)
    if "app" not in read and "class" not in read and len(found) == before:
        found.append(finding("JK106", value.spot, what="this window", key="app", remedy="name its app, or its class"))
    if "app" in read:
        mentions.append(Mention("app", read["app"].read, read["app"].value.spot))
    display = None
    if "display" in read:
        display = read["display"].read
        mentions.append(Mention("display", display, read["display"].value.spot))
    place = Place(Full(), display)
    if "place" in read:
        written = read["place"].read
        place = Place(written.form, display or written.display)
        if written.then or isinstance(written.form, Same):
            problem = "a layout needs one place for each window"
            remedy = "write the one that is meant, such as left 2/3"
            found.append(finding("JK303", read["place"].value.spot, problem=problem, remedy=remedy))
        if isinstance(written.form, Named):
            mentions.append(Mention("place", written.form.name, read["place"].value.spot))
    state = read.get("state", Shape.NORMAL.value)
    on = read.get("workspace", workspace)
    return Entry(
        app=read["app"].read if "app" in read else None,
        cls=read.get("class"),
        title=read.get("title"),
        place=place,
        workspace=None if on == ALL else on,
        shape=Shape.NORMAL if state == MINIMISED else Shape(state),
        minimised=state == MINIMISED or read.get("minimised", False),
    )


def _focus(read: _Positioned, entries: tuple[Entry, ...], found: Found) -> int | None:
    """Focus := LABEL [K]: the K-th window, from the front, of that app or class."""
    wanted = read.read
    label, _, count = wanted.rpartition(" ")
    if not label or not count.isdigit():
        label, count = wanted, "1"
    of_label = [i for i, entry in enumerate(entries) if entry.label == label]
    if 1 <= int(count) <= len(of_label):
        return of_label[int(count) - 1]
    near = nearest(label, [entry.label for entry in entries])
    remedy = f"did you mean {near[0]}?" if near and label != near[0] else "name one of the windows listed below it"
    problem = f"focus is to go to {wanted!r}, and this layout has no such window"
    found.append(finding("JK108", read.value.spot, problem=problem, remedy=remedy))
    return None


def layout_text(layout: Layout) -> str:
    """Return a layout as the text of its file; `read_layout` reads it back as the same layout."""
    head: dict[str, object] = {"layout": layout.name}
    if layout.number is not None:
        head["number"] = layout.number
    if layout.note:
        head["note"] = layout.note
    if layout.displays:
        head["displays"] = dict(layout.displays)
    if layout.workspace != 1:
        head["workspace"] = layout.workspace
    if layout.focus is not None:
        label = layout.entries[layout.focus].label
        rank = sum(entry.label == label for entry in layout.entries[: layout.focus + 1])
        head["focus"] = label if rank == 1 else f"{label} {rank}"
    lines = [f"{key}: {yaml_line(value)}" for key, value in head.items()]
    lines.append("windows:" if layout.entries else "windows: []")
    lines += [f"- {yaml_line(_entry_map(entry, layout))}" for entry in layout.entries]
    return "\n".join(lines) + "\n"


def _entry_map(entry: Entry, layout: Layout) -> dict[str, object]:
    written: dict[str, object] = {"app": entry.app} if entry.app else {"class": entry.cls or ""}
    if entry.title is not None:
        written["title"] = entry.title
    if entry.place.display:
        written["display"] = entry.place.display
    written["place"] = str(entry.place.form)
    if entry.workspace != layout.workspace:
        written["workspace"] = ALL if entry.workspace is None else entry.workspace
    if entry.shape is not Shape.NORMAL:
        written["state"] = entry.shape.value
        if entry.minimised:
            written[MINIMISED] = True
    elif entry.minimised:
        written["state"] = MINIMISED
    return written
