"""Tabletop files: a readable YAML text for a `Room`, read with positions and written whole."""

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any, Final

from jaklet.core.values.abilities import EVERY, Ability, ability_called
from jaklet.core.values.chords import MODIFIERS, Chord, parse_chord
from jaklet.core.values.desk import DIALOG, NORMAL, Display, Shape
from jaklet.core.values.errors import SentenceError, StoreError
from jaklet.core.values.geometry import NO_LIMITS, Rect, SizeLimits, Strut, work_area
from jaklet.core.values.recency import Recency
from jaklet.core.values.regexes import regex
from jaklet.core.values.words import listed
from jaklet.desktops.tabletop.room import Program, Room, Standing
from jaklet.files import read_ordinary, write_whole, yaml_line

GEOMETRY: Final = regex(r"(\d{1,5})x(\d{1,5})([+-]\d{1,5})([+-]\d{1,5})")  # as X tools write it, XParseGeometry(3)
SIZE: Final = regex(r"(\d{1,5})x(\d{1,5})")
BAR: Final = regex(r"(left|right|top|bottom) (\d{1,4})")
TIME: Final = regex(r"(\d{1,6})(ms|s)")


class TabletopError(StoreError):
    """A text is no tabletop: what is wrong, and where. `line`, `column`, `end` count from 1; None: it is all of it."""

    def __init__(self, message: str, value: object = None, remedy: str = "") -> None:
        super().__init__(message, remedy)
        place: tuple[int | None, int, int] = getattr(value, "at", (None, 1, 2))
        self.line, self.column, self.end = place


class _Placed(str):
    """A text of the file, which knows where it stands."""

    at: tuple[int, int, int]


def _match(pattern: re.Pattern[str], value: Any, key: str, wanted: str) -> re.Match[str]:
    found = pattern.fullmatch(str(value))
    if not found:
        raise TabletopError(f"{key}: {value!r} should be {wanted}", value)
    return found


def _frame(value: Any, key: str) -> Rect:
    width, height, x, y = _match(GEOMETRY, value, key, "a geometry such as 800x600+100+50").groups()
    return Rect(int(x), int(y), max(1, int(width)), max(1, int(height)))


def _pair(value: Any, key: str) -> tuple[int, int]:
    found = _match(SIZE, value, key, "a size such as 800x600")
    return int(found[1]), int(found[2])


def _seconds(value: Any, key: str) -> float:
    found = _match(TIME, value, key, "a time such as 300ms or 2s")
    return int(found[1]) * (0.001 if found[2] == "ms" else 1)


def _display(entry: dict[str, Any], primary: bool) -> Display:
    rect = _frame(entry.get("area"), "area")
    struts = []
    bars = entry.get("bars", [entry["bar"]] if "bar" in entry else [])
    for bar in bars if isinstance(bars, list) else [bars]:
        found = _match(BAR, bar, "bar", "a side and a depth, such as top 32")
        side, depth = found[1], int(found[2])
        strips = {
            "left": Rect(rect.x, rect.y, depth, rect.height),
            "right": Rect(rect.right - depth, rect.y, depth, rect.height),
            "top": Rect(rect.x, rect.y, rect.width, depth),
            "bottom": Rect(rect.x, rect.bottom - depth, rect.width, depth),
        }
        struts.append(Strut(side, strips[side]))
    return Display(str(entry.get("name", "?")), rect, work_area(rect, struts), primary)


def _program(name: str, entry: dict[str, Any]) -> Program:
    width, height = _pair(entry.get("size", "800x600"), "size")
    least = _pair(entry["least"], "least") if "least" in entry else (1, 1)
    most = _pair(entry["most"], "most") if "most" in entry else (NO_LIMITS.max_width, NO_LIMITS.max_height)
    step = _pair(entry["step"], "step") if "step" in entry else (1, 1)
    return Program(
        name=name,
        cls=str(entry.get("class", name)),
        instance=str(entry.get("instance", name)),
        title=str(entry.get("title", name)),
        width=width,
        height=height,
        takes=_seconds(entry.get("takes", "200ms"), "takes"),
        limits=SizeLimits(*least, *most, 0, 0, *step),
        fails=_number(entry.get("fails", 0), "fails"),
        says=str(entry.get("says", "")),
        entry=str(entry.get("entry", "")),
        kind=_kind(entry),
        stubborn=str(entry.get("stubborn", False)).lower() == "true",
        silent=str(entry.get("silent", False)).lower() == "true",
    )


def _kind(entry: dict[str, Any]) -> str:
    kind = entry.get("kind", NORMAL)
    if kind not in (NORMAL, DIALOG):
        raise TabletopError(f"kind: {kind!r} should be {NORMAL} or {DIALOG}", kind)
    return str(kind)


def _number(value: Any, key: str) -> int:
    if not re.fullmatch(r"-?\d{1,9}", str(value)):
        raise TabletopError(f"{key}: {value!r} should be a whole number", value)
    return int(value)


def _chord(text: Any) -> Chord:
    try:
        return parse_chord(str(text))
    except SentenceError as fault:
        raise TabletopError(f"keyboard: {text!r}: {fault.message}", text) from fault


def _ability(word: Any) -> Ability:
    found = ability_called(str(word))
    if found is None:
        raise TabletopError(f"lacks: {word!r} is no ability; there are {listed([one.word for one in Ability])}", word)
    return found


def _windows(room: Room, entries: list[dict[str, Any]]) -> None:
    for entry in entries:
        program = room.programs.get(str(entry.get("program")))
        if program is None:
            name = entry.get("program")
            raise TabletopError(f"windows: program {name!r} is not under `programs`", name)
        frame = _frame(entry["frame"], "frame") if "frame" in entry else None
        workspace = entry.get("workspace", 1)
        shape = entry.get("state", Shape.NORMAL.value)
        if shape not in list(Shape):
            raise TabletopError(f"state: {shape!r} should be one of {', '.join(Shape)}", shape)
        wid = room.add(
            program,
            frame,
            _number(entry["id"], "id") if "id" in entry else None,
            workspace=None if workspace == "all" else _number(workspace, "workspace"),
            shape=Shape(str(shape)),
            minimised=str(entry.get("minimised", False)).lower() == "true",
            kind=_kind({"kind": program.kind} | entry),
            parent=_number(entry["parent"], "parent") if "parent" in entry else None,
            above=str(entry.get("above", False)).lower() == "true",
            launched_for=str(entry.get("launched for", "")),
            **({"title": str(entry["title"])} if "title" in entry else {}),
        )
        if "normal" in entry:
            room.standing[wid].normal = _frame(entry["normal"], "normal")
    room.used = Recency(reversed(room.stacking))
    room.active = next(iter(room.used.order), None)


def _order(room: Room, data: dict[str, Any]) -> None:
    for key, order in (("stacking", room.stacking), ("recent", room.used.order)):
        if key in data:
            wanted = [_number(wid, key) for wid in data[key]]
            if sorted(wanted) != sorted(room.standing):
                raise TabletopError(f"{key}: it does not name each window once", next(iter(data[key]), None))
            order[:] = wanted
    if "active" in data:
        room.active = None if data["active"] in (None, "none") else _number(data["active"], "active")
        if room.active is not None and room.active not in room.standing:
            raise TabletopError(f"active: there is no window {room.active}", data["active"])


def read_room(path: Path) -> Room:
    """Read a tabletop file; raises `StoreError` with the file's name and what is wrong."""
    try:
        return parse_room(read_ordinary(path).decode("utf-8"))
    except OSError as fault:
        raise StoreError(
            f"tabletop {path} cannot be read: {fault.strerror}", "`jaklet demo --write FOLDER` makes one"
        ) from fault
    except UnicodeDecodeError as fault:
        raise StoreError(f"tabletop {path}: {fault}") from fault
    except TabletopError as fault:
        where = f":{fault.line}:{fault.column}" if fault.line else ""
        raise StoreError(f"tabletop {path}{where}: {fault.message}", fault.remedy) from fault


def parse_room(text: str) -> Room:
    """Read the text of a tabletop; raises `TabletopError`."""
    import yaml

    base: Any = getattr(yaml, "CBaseLoader", yaml.BaseLoader)  # all scalars stay text

    class Loader(base):  # type: ignore[misc]
        def construct_scalar(self, node: Any) -> _Placed:
            placed, (start, end) = _Placed(super().construct_scalar(node)), (node.start_mark, node.end_mark)
            last = end.column if end.line == start.line else start.column + 1
            placed.at = (start.line + 1, start.column + 1, last + 1)
            return placed

    try:
        return _room(yaml.load(text, Loader=Loader))
    except yaml.YAMLError as fault:
        error = TabletopError(f"it is not YAML: {getattr(fault, 'problem', fault)}")
        mark = getattr(fault, "problem_mark", None)
        if mark:
            error.line, error.column, error.end = mark.line + 1, mark.column + 1, mark.column + 2
        raise error from fault
    except (TypeError, ValueError, AttributeError, KeyError, IndexError) as fault:
        raise TabletopError(f"it is not built as a tabletop is: {fault}", None, "compare it with the demo's") from fault


def _room(data: Any) -> Room:
    if not isinstance(data, dict) or not data.get("displays"):
        raise TabletopError("it has no `displays`", None, "write one: displays: [{name: DP-1, area: 1920x1080+0+0}]")
    displays = tuple(_display(entry, i == 0) for i, entry in enumerate(data["displays"]))
    room = Room(displays, name=str(data.get("tabletop", "tabletop")))
    programs = data.get("programs") or {}
    room.programs = {str(name): _program(str(name), entry or {}) for name, entry in programs.items()}
    room.workspaces = _number(data.get("workspaces", 4), "workspaces")
    room.workspace = _number(data.get("workspace", 1), "workspace")
    room.gaps = str(data.get("gaps", "on")) != "off"
    taken = (data.get("keyboard") or {}).get("taken", ())
    owners = taken.items() if isinstance(taken, dict) else ((text, "another program") for text in taken)
    named = {str(text): str(owner) for text, owner in owners}
    room.taken = {_chord(text): owner for text, owner in named.items() if text not in MODIFIERS}
    room.taken_modifiers = {text: owner for text, owner in named.items() if text in MODIFIERS}
    room.abilities = EVERY - {_ability(word) for word in data.get("lacks") or ()}
    _windows(room, data.get("windows") or [])
    _order(room, data)
    return room


def _geometry(rect: Rect) -> str:
    return f"{rect.width}x{rect.height}{rect.x:+d}{rect.y:+d}"


def write_room(room: Room, path: Path, role_of: Callable[[Display], str]) -> None:
    """Write a whole tabletop to a file, as a person would edit it; raises `StoreError`."""
    lines = [
        "# A tabletop: a simulated desk. Displays, the programs that can be launched on it, and its windows.",
        f"tabletop: {yaml_line(path.stem)}",
        "displays:",
        *(f"- {yaml_line(_display_map(display))}  # {role_of(display)}" for display in room.displays),
        "programs:" if room.programs else "programs: {}",
        *(f"  {yaml_line(name)}: {yaml_line(_program_map(program))}" for name, program in room.programs.items()),
        f"workspaces: {room.workspaces}",
    ]
    try:
        write_whole(path, "\n".join(lines) + "\n")
    except OSError as fault:
        raise StoreError(
            f"tabletop {path} could not be written: {fault.strerror or fault}", "choose another file"
        ) from fault
    save_room(room, path)


def _display_map(display: Display) -> dict[str, object]:
    written: dict[str, object] = {"name": display.name, "area": _geometry(display.rect)}
    rect, work = display.rect, display.work
    depths = {
        "left": work.x - rect.x,
        "top": work.y - rect.y,
        "right": rect.right - work.right,
        "bottom": rect.bottom - work.bottom,
    }
    bars = [f"{side} {depth}" for side, depth in depths.items() if depth > 0]
    return written | ({"bars": bars} if len(bars) > 1 else {"bar": bars[0]} if bars else {})


def _program_map(program: Program) -> dict[str, object]:
    """Return what is particular about a program."""
    plain = {"class": (program.cls, program.name), "instance": (program.instance, program.name)}
    written: dict[str, object] = {key: value for key, (value, usual) in plain.items() if value != usual}
    written |= {
        "title": program.title,
        "size": f"{program.width}x{program.height}",
        "takes": f"{round(program.takes * 1000)}ms",
    }
    limits = program.limits
    if (limits.min_width, limits.min_height) != (1, 1):
        written["least"] = f"{limits.min_width}x{limits.min_height}"
    if (limits.max_width, limits.max_height) != (NO_LIMITS.max_width, NO_LIMITS.max_height):
        written["most"] = f"{limits.max_width}x{limits.max_height}"
    if (limits.step_width, limits.step_height) != (1, 1):
        written["step"] = f"{limits.step_width}x{limits.step_height}"
    own = {"fails": program.fails, "says": program.says, "entry": program.entry}
    written |= {key: value for key, value in own.items() if value}
    written |= {key: True for key in ("stubborn", "silent") if getattr(program, key)}
    return written


def _window_map(wid: int, standing: Standing) -> dict[str, object]:
    window = standing.window
    written: dict[str, object] = {"id": wid, "program": standing.program, "title": window.title}
    written["frame"] = _geometry(window.frame)
    if window.workspace != 1:
        written["workspace"] = window.workspace or "all"
    if window.shape is not Shape.NORMAL:
        written["state"] = window.shape.value
        written["normal"] = _geometry(standing.normal)
    if window.minimised:
        written["minimised"] = True
    if window.above:
        written["above"] = True
    if window.kind != NORMAL:
        written["kind"] = window.kind
    if window.parent is not None:
        written["parent"] = window.parent
    if window.launched_for:
        written["launched for"] = window.launched_for
    return written


def save_room(room: Room, path: Path) -> None:
    """Write what changes on a tabletop back to its file; the head of the file, as the user wrote it, stays."""
    head = re.split(
        r"^# --- the desk as it was left", read_ordinary(path).decode("utf-8"), maxsplit=1, flags=re.MULTILINE
    )[0]
    kept = re.split(r"^(?=(?:windows|stacking|recent|active|workspace|gaps):)", head, maxsplit=1, flags=re.MULTILINE)[0]
    lines = ["# --- the desk as it was left", f"workspace: {room.workspace}"]
    lines += [] if room.gaps else ["gaps: off"]
    lines.append("windows:" if room.standing else "windows: []")
    lines += [f"- {yaml_line(_window_map(wid, standing))}" for wid, standing in room.standing.items()]
    lines += [
        f"stacking: {room.stacking}",
        f"recent: {list(room.desk().recent)}",
        f"active: {room.active if room.active is not None else 'none'}",
    ]
    try:
        write_whole(path, kept.rstrip("\n") + "\n" + "\n".join(lines) + "\n")
    except OSError as fault:
        raise StoreError(
            f"tabletop {path} could not be saved: {fault.strerror or fault}", "see to its folder"
        ) from fault
