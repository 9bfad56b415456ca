"""What came of chords that were rehearsed: in words, as small drawings side by side, as panels, as data."""

from collections.abc import Iterator, Sequence
from typing import Any, Final

from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.words import cell_width, counted, cut_to_cells, printable
from jaklet.drawing.desks import desk_data, draw_desk, place_of
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.panels import DeskPanel, hidden_told, panel_names
from jaklet.rehearsal.stage import PressResult

BESIDE: Final = "   "
LEAST: Final = 44  # columns of a drawing, below which nothing can be read in it
WINDOWS: Final = 8  # of one act that are told one by one


def act_lines(act: PressResult, config: Config, ink: Ink = PLAIN, width: int = 100) -> list[str]:
    """Return in words what came of one chord: what it is bound to, each step, and where windows went."""
    head = f"{act.number}. {act.pressed}"
    lines = [f"{ink(head, 'strong')}  {printable(act.meaning)}"]
    for line in act.lines:
        told = cut_to_cells(printable(line.text), width - 12)
        lines.append(f"{line.at:7.1f} s  {ink(told, 'error' if line.failed else '')}")
    went = [*desk_differences(act.before, act.after, config)]
    if not went and all(line.kind == "change" for line in act.lines):
        went = ["the desk is as it was"]
    lines += [f"{'':>9}  {cut_to_cells(one, width - 12)}" for one in went]
    on = f"layer {act.layer} is on"
    if act.layer and all(line.text != on for line in act.lines):
        lines.append(f"{'':>9}  {on}")
    lines += [ink(f"{'':>9}  still waiting: {printable(one)}", "warning") for one in act.waits]
    return lines


def desk_differences(before: Desk, after: Desk, config: Config) -> Iterator[str]:
    """Yield the differences between two desks: windows that came, went and moved, the focus, the workspace."""
    told = []
    for window in after.windows:
        former = before.by_id.get(window.id)
        name = _name(window, after, config)
        if former is None:
            told.append(f"{name} opened {_stands(window, after, config)}")
        elif (was := _stands(former, before, config)) != (now := _stands(window, after, config)):
            told.append(f"{name} went from {was} to {now}")
        elif former.frame != window.frame:
            told.append(f"{name} went from {former.frame} to {window.frame}")
    told += [f"{_name(one, before, config)} closed" for one in before.windows if one.id not in after.by_id]
    yield from told[:WINDOWS]
    if len(told) > WINDOWS:
        yield f"and {counted(len(told) - WINDOWS, 'window')} more"
    if before.workspace != after.workspace:
        yield f"{config.workspace_told(after.workspace)} is shown"
    if before.active != after.active:
        front = after.by_id.get(after.active) if after.active is not None else None
        yield f"focus: {_name(front, after, config) if front else 'none'}"


def _name(window: Window, desk: Desk, config: Config) -> str:
    return printable(config.claims.app_of(window, desk) or window.cls or "window")


def _stands(window: Window, desk: Desk, config: Config) -> str:
    """Return where a window stands, in words."""
    if window.minimised:
        return "minimised"
    display = config.role_of(desk.display_of(window.frame))
    where = f"{place_of(window, desk, config)} on {display}"
    on = window.workspace
    return where if on in (None, desk.workspace) or on is None else f"{where}, {config.workspace_told(on)}"


def frames_of(acts: Sequence[PressResult]) -> list[tuple[str, Desk]]:
    """Return the desks to be drawn, each with what led to it.

    The first one, and then one for each chord or step of a macro that changed anything.
    """
    found = [("0. at the start", acts[0].before)] if acts else []
    for act in acts:
        steps = [*act.frames]
        if steps and steps[-1][1] == act.after:
            steps.pop()
        letters = "abcdefghijklmnopqrstuvwxyz"
        found += [(f"{act.number}{letters[i % len(letters)]}. {step}", desk) for i, (step, desk) in enumerate(steps)]
        title = f"{act.number}. {act.pressed}: {act.meaning}"
        if act.after != found[-1][1]:
            found.append((title, act.after))
    return found


def strip_text(acts: Sequence[PressResult], config: Config, width: int, ink: Ink = PLAIN) -> str:
    """Return the desks drawn to scale, numbered, as many side by side as there is room for."""
    frames = frames_of(acts)
    beside = max(1, min(len(frames), width // (LEAST + len(BESIDE))))
    wide = (width - (beside - 1) * len(BESIDE)) // beside
    rows = []
    for i in range(0, len(frames), beside):
        blocks = [_block(title, desk, config, wide, ink) for title, desk in frames[i : i + beside]]
        rows.append(_side_by_side(blocks, wide))
    return "\n\n".join(rows)


def _block(title: str, desk: Desk, config: Config, width: int, ink: Ink) -> list[tuple[str, int]]:
    """Return the lines of a drawing, each with how many cells it takes."""
    panel = DeskPanel(title, desk)
    names = panel_names(panel, config)
    short = cut_to_cells(printable(title), width)
    plain = draw_desk(desk, config, width, PLAIN, names=names).split("\n")
    drawn = draw_desk(desk, config, width, ink, names=names).split("\n")
    lines = [(ink(short, "strong"), cell_width(short))]
    lines += [(line, cell_width(bare)) for line, bare in zip(drawn, plain, strict=True)]
    hidden = cut_to_cells(hidden_told(panel, names), width)
    return [*lines, (ink(hidden, "faint"), cell_width(hidden))] if hidden else lines


def _side_by_side(blocks: list[list[tuple[str, int]]], width: int) -> str:
    rows = []
    for i in range(max(map(len, blocks))):
        row = [block[i] if i < len(block) else ("", 0) for block in blocks]
        rows.append(BESIDE.join(line + " " * (width - wide) for line, wide in row).rstrip())
    return "\n".join(rows)


def act_data(act: PressResult, config: Config) -> dict[str, Any]:
    """Return an act as data for JSON."""
    return {
        "number": act.number,
        "pressed": act.pressed,
        "meaning": act.meaning,
        "failed": act.failed,
        "passed": act.passed,
        "took": act.took,
        "layer": act.layer,
        "layout": act.layout,
        "lines": [line._asdict() for line in act.lines],
        "moves": [*desk_differences(act.before, act.after, config)],
        "waits": list(act.waits),
        "desk": desk_data(act.after, config),
    }
