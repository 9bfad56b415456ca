"""Tabletop files: a readable YAML text for a `Room`, read with positions and written whole."""

from collections.abc import Callable, Collection
from itertools import pairwise
from pathlib import Path
from typing import Final

from jaklet.core.values.desk import NORMAL, Display, WindowShape
from jaklet.core.values.errors import StoreError
from jaklet.core.values.findings import Finding
from jaklet.core.values.geometry import NO_LIMITS, Rect
from jaklet.desktops.tabletop.reading import read_tabletop
from jaklet.desktops.tabletop.room import Program, Room, TabletopWindow
from jaklet.files import read_ordinary, write_whole, yaml_line
from jaklet.yaml_files.reader import SourceFile, documents, read_source

MOST_TOLD: Final = 5  # faults of a file that cannot be used
MARK: Final = "# --- the desk as it was left"
STATE: Final = ("windows", "stacking", "recent", "active", "workspace", "gaps")  # sections that are written anew


def read_room(path: Path) -> Room:
    """Read a tabletop file; raises `StoreError` with the places and causes of what is wrong."""
    found: list[Finding] = []
    source = read_source(path, str(path), found)
    room, faults = read_tabletop(source) if source else (None, found)
    if room is None:
        first, *more = faults
        remedy = first.remedy if path.exists() else "`jaklet demo --write FOLDER` makes one"
        told = [f"{one.spot.line}:{one.spot.column}: {one.cause}" for one in more[: MOST_TOLD - 1]]
        told += [f"and {len(more) - len(told)} more: jaklet check {path}"] if len(more) > len(told) else []
        raise StoreError("; ".join([f"tabletop {first.spot}: {first.cause}", *told]), remedy)
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
    """Return the keys of a program's entry, without those of default value."""
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


def _window_map(wid: int, standing: TabletopWindow) -> dict[str, object]:
    window = standing.window
    written: dict[str, object] = {"id": wid, "program": standing.program, "title": window.title}
    written["frame"] = _geometry(window.frame)
    if window.workspace != 1:
        written["workspace"] = window.workspace or "all"
    if window.shape is not WindowShape.NORMAL:
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
    """Write what changes on a tabletop back to its file; all else in it stays as the user wrote it, wherever it is."""
    kept = _without(STATE, read_ordinary(path).decode("utf-8"))
    lines = [MARK, f"workspace: {room.workspace}"]
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


def _without(sections: Collection[str], text: str) -> str:
    """Return a text without these sections and the line above them; comments below a section are not part of it."""
    source = SourceFile("", text)
    gone = {number for number, line in enumerate(source.lines) if line.startswith(MARK)}
    for root in documents(source, [], set()):
        for key, value in root.pairs():
            if key.text in sections:
                first, last = key.node.start_mark.line, value.node.end_mark.line + bool(value.node.end_mark.column)
                while last > first + 1 and source.line(last).lstrip()[:1] in ("", "#"):
                    last -= 1
                gone.update(range(first, last))
    return "".join(
        text[start:end]
        for number, (start, end) in enumerate(pairwise([*source.starts, len(text)]))
        if number not in gone
    )
