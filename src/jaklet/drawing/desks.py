"""A desk as text: displays to scale, and in them the windows in view, front ones over those behind.

A character cell is taken to be twice as high as it is wide.
"""

from collections.abc import Mapping, Sequence
from typing import Any, Final, NamedTuple

from jaklet.core.actions.placing.lost import is_lost, lost_windows
from jaklet.core.actions.placing.window_stands import form_filled
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.directions import VisibilityTest
from jaklet.core.values.geometry import Rect
from jaklet.core.values.words import counted, printable, shortened
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.tables import table_text

LIGHT: Final = "┌┐└┘─│"
HEAVY: Final = "┏┓┗┛━┃"
MIN_COLUMNS: Final = 40


class ScreenLabel(NamedTuple):
    """A part of the screen with a word in it, such as a cell of a grid with its address."""

    frame: Rect
    text: str


class Canvas:
    """Cells of a character and a role."""

    def __init__(self, columns: int, rows: int) -> None:
        self.cells = [[(" ", "") for _ in range(columns)] for _ in range(rows)]

    def put(self, x: int, y: int, text: str, role: str = "", *, beneath: bool = False) -> None:
        """Write text from a cell to the right; what falls outside is left out, and what is taken if it is `beneath`."""
        if 0 <= y < len(self.cells):
            for i, character in enumerate(text):
                if 0 <= x + i < len(self.cells[y]) and not (beneath and self.cells[y][x + i][0] != " "):
                    self.cells[y][x + i] = (character, role)

    def box(self, left: int, top: int, right: int, bottom: int, lines: str, role: str) -> None:
        """Draw a box with blank inside; `right` and `bottom` are its last cells."""
        a, b, c, d, flat, upright = tuple(lines)
        self.put(left, top, a + flat * (right - left - 1) + b, role)
        for y in range(top + 1, bottom):
            self.put(left, y, upright + " " * (right - left - 1) + upright, role)
        if bottom > top:
            self.put(left, bottom, c + flat * (right - left - 1) + d, role)

    def text(self, ink: Ink) -> str:
        """Return the rows, each run of one role painted."""
        rows = []
        for row in self.cells:
            painted, run, role = "", "", ""
            for character, its in [*row, ("", "end")]:
                if its != role:
                    painted += ink(run, role)
                    run, role = "", its
                run += character
            rows.append(painted.rstrip())
        return "\n".join(rows)


class _Scale:
    """From pixels of one display to cells inside its box."""

    def __init__(self, display: Display, left: int, top: int, columns: int, rows: int) -> None:
        self.rect, self.left, self.top, self.columns, self.rows = display.rect, left, top, columns, rows

    def x(self, pixel: int) -> int:
        """Return the column of a pixel."""
        inside = (pixel - self.rect.x) * self.columns / max(1, self.rect.width)
        return self.left + min(max(round(inside), 0), self.columns)

    def y(self, pixel: int) -> int:
        """Return the row of a pixel."""
        inside = (pixel - self.rect.y) * self.rows / max(1, self.rect.height)
        return self.top + min(max(round(inside), 0), self.rows)


def draw_desk(
    desk: Desk,
    config: Config,
    columns: int,
    ink: Ink = PLAIN,
    marks: Sequence[ScreenLabel] = (),
    names: Mapping[int, str] | None = None,
) -> str:
    """Return the displays with the windows in view that are within reach; by default named and numbered as listed."""
    names = window_names(desk, config) if names is None else names
    bounds = bounds_of([display.rect for display in desk.displays])
    frames = 2 * len({display.rect.x for display in desk.displays})
    per_pixel = (max(columns, MIN_COLUMNS) - frames) / max(1, bounds.width)
    scales = {display.name: _scale(display, desk, bounds, per_pixel) for display in desk.displays}
    height = max(scale.top + scale.rows for scale in scales.values()) + 1
    canvas = Canvas(max(columns, MIN_COLUMNS), height)
    for display in desk.displays:
        _draw_display(canvas, scales[display.name], display, config)
    for wid in desk.stacking:
        window = desk.by_id.get(wid)
        if window and desk.in_view(window) and not is_lost(window, desk.displays):
            scale = scales[desk.display_of(window.frame).name]
            _draw_window(canvas, scale, window, names[wid], wid == desk.active)
    for mark in marks:
        _draw_mark(canvas, scales[desk.display_of(mark.frame).name], mark)
    return canvas.text(ink)


def window_names(desk: Desk, config: Config) -> Mapping[int, str]:
    """Return the labels of drawn windows by their ids: the number in the list, and the name."""
    return {
        window.id: f"{number} {printable(config.claims.app_of(window, desk) or window.cls or 'window')}"
        for number, window in enumerate(listed_windows(desk), 1)
    }


def _draw_mark(canvas: Canvas, scale: _Scale, mark: ScreenLabel) -> None:
    """Write a word into the middle of a part of the screen, and a dot at its corner, where nothing else stands."""
    left, right = scale.x(mark.frame.x), scale.x(mark.frame.right)
    top, bottom = scale.y(mark.frame.y), scale.y(mark.frame.bottom)
    canvas.put(left, top, "·", "faint", beneath=True)
    canvas.put((left + right - len(mark.text)) // 2, (top + bottom) // 2, mark.text, "faint", beneath=True)


def bounds_of(rects: Sequence[Rect]) -> Rect:
    """Return the smallest rectangle around all of these."""
    x, y = min(rect.x for rect in rects), min(rect.y for rect in rects)
    return Rect(x, y, max(rect.right for rect in rects) - x, max(rect.bottom for rect in rects) - y)


def _scale(display: Display, desk: Desk, bounds: Rect, per_pixel: float) -> _Scale:
    rect = display.rect
    before = sum(2 for x in {other.rect.x for other in desk.displays if other.rect.right <= rect.x})
    above = sum(2 for y in {other.rect.y for other in desk.displays if other.rect.bottom <= rect.y})
    left = round((rect.x - bounds.x) * per_pixel) + before + 1
    top = round((rect.y - bounds.y) * per_pixel / 2) + above + 1
    return _Scale(
        display, left, top, max(10, round(rect.width * per_pixel)), max(4, round(rect.height * per_pixel / 2))
    )


def _draw_display(canvas: Canvas, scale: _Scale, display: Display, config: Config) -> None:
    right, bottom = scale.left + scale.columns, scale.top + scale.rows
    canvas.box(scale.left - 1, scale.top - 1, right, bottom, HEAVY, "faint")
    role = config.role_of(display)
    connector = "" if role == display.name else f" {display.name}"
    label = f" {role}{connector} {display.rect.width}x{display.rect.height} "
    canvas.put(scale.left + 1, scale.top - 1, shortened(label, scale.columns - 2), "strong")
    work = display.work
    for y in range(scale.top, bottom):  # what bars keep free is shaded
        for x in range(scale.left, right):
            inside = scale.x(work.x) <= x < scale.x(work.right) and scale.y(work.y) <= y < scale.y(work.bottom)
            if not inside:
                canvas.put(x, y, "░", "faint")


def _draw_window(canvas: Canvas, scale: _Scale, window: Window, label: str, active: bool) -> None:
    frame = window.frame
    left, top = scale.x(frame.x), scale.y(frame.y)
    right, bottom = max(left + 3, scale.x(frame.right) - 1), max(top + 1, scale.y(frame.bottom) - 1)
    role = "active" if active else "window"
    canvas.box(left, top, right, bottom, HEAVY if active else LIGHT, role)
    canvas.put(left + 1, top, shortened(f" {label} ", right - left - 1), role)
    if bottom - top > 2:
        canvas.put(left + 2, top + 1, shortened(window.title, right - left - 3))
    if bottom - top > 3:
        canvas.put(left + 2, top + 2, shortened(f"{frame.width}x{frame.height}", right - left - 3), "faint")


def listed_windows(desk: Desk) -> list[Window]:
    """Return the windows from front to back, those out of view last."""
    rank = {wid: i for i, wid in enumerate(desk.stacking)}
    return sorted(desk.windows, key=lambda w: (not desk.in_view(w), -rank.get(w.id, -1)))


def state_of(window: Window, desk: Desk) -> str:
    """Return a window's state in words."""
    words = ["minimised"] if window.minimised else []
    words += ["lost"] if is_lost(window, desk.displays) else []
    words += ["covered"] if is_covered(window, desk) else []
    words += ["kept above"] if window.above else []
    words += ["focus"] if window.id == desk.active else []
    return ", ".join(words)


def is_covered(window: Window, desk: Desk) -> bool:
    """True if other windows leave nothing of a window to be seen that is in view."""
    return desk.in_view(window) and not VisibilityTest(desk)(window)


def place_of(window: Window, desk: Desk, config: Config) -> str:
    """Return the place that a window fills, in words; or that it is maximised or fullscreen."""
    if window.shape in (WindowShape.MAXIMISED, WindowShape.FULLSCREEN):
        return window.shape.value
    return str(form_filled(window, window.frame, desk, config))


def desk_rows(desk: Desk, config: Config) -> list[tuple[str, ...]]:
    """Return the table of windows: number, app, title, display, place, workspace, state."""
    rows: list[tuple[str, ...]] = []
    for number, window in enumerate(listed_windows(desk), 1):
        rows.append(
            (
                str(number),
                config.claims.app_of(window, desk) or f"({window.cls or '?'})",
                shortened(window.title, 32),
                config.role_of(desk.display_of(window.frame)),
                place_of(window, desk, config),
                "all" if window.workspace is None else str(config.workspace_written(window.workspace)),
                state_of(window, desk),
            )
        )
    return rows


def _arranged_told(desk: Desk, config: Config) -> list[str]:
    """Return in words what of the workspace in view a listener keeps arranged, by the config."""
    forms = {
        config.role_of(display): form
        for display in desk.displays
        if (form := config.sharing_of(desk.workspace, display))
    }
    told = config.workspace_told(desk.workspace)
    if len(forms) == len(desk.displays) and len(set(forms.values())) == 1:
        return [f"a listener keeps {told} arranged: {next(iter(forms.values()))}"]
    return [f"a listener keeps {told} arranged on {role}: {form}" for role, form in forms.items()]


HEADS: Final = ("#", "app", "title", "display", "place", "workspace", "state")


def desk_text(desk: Desk, config: Config, columns: int, ink: Ink = PLAIN, arranged: Sequence[str] | None = None) -> str:
    """Return the drawing, one line about the whole, and the table.

    `arranged`: what a listener says that it keeps arranged; None where none runs: the config says what one would.
    """
    seen = sum(desk.in_view(window) for window in desk.windows)
    name = config.workspace_written(desk.workspace)
    called = "" if isinstance(name, int) else f" ({name})"
    line = (
        f"workspace {desk.workspace}{called} of {desk.workspaces}"
        f" · {counted(len(desk.windows), 'window')}, {seen} in view"
        f" · focus: {'none' if desk.active is None or desk.active not in desk.by_id else desk_name(desk, config)}"
        f"{'' if desk.gaps else ' · gaps off'}"
    )
    parts = [draw_desk(desk, config, columns, ink), line]
    if arranged is None:
        parts += _arranged_told(desk, config)
    elif arranged:
        parts += [f"the listener keeps arranged: {'; '.join(map(printable, arranged))}"]
    lost = lost_windows(desk)
    if lost:
        one = len(lost) == 1
        them = f"{'it is' if one else 'they are'} not drawn; `jaklet act gather` brings {'it' if one else 'them'} back"
        parts.append(ink(f"{counted(len(lost), 'window')} out of reach: {them}", "warning"))
    if desk.windows:
        parts.append(table_text(HEADS, desk_rows(desk, config), columns if ink.coloured else None, ink))
    return "\n".join(parts)


def desk_name(desk: Desk, config: Config) -> str:
    """Return the name of the active window."""
    window = desk.by_id[desk.active or 0]
    return config.claims.app_of(window, desk) or printable(window.cls) or "a window"


def desk_data(desk: Desk, config: Config) -> dict[str, Any]:
    """Return the desk as plain data; windows from front to back, frames in pixels."""
    return {
        "displays": [
            {"name": config.role_of(d), "connector": d.name, "frame": d.rect._asdict(), "work": d.work._asdict()}
            for d in desk.displays
        ],
        "workspace": desk.workspace,
        "workspaces": desk.workspaces,
        "focus": desk.active,
        "gaps": desk.gaps,
        "windows": [
            {
                "id": window.id,
                "app": config.claims.app_of(window, desk),
                "class": window.cls,
                "instance": window.instance,
                "role": window.role,
                "title": window.title,
                "process": window.process,
                "kind": window.kind,
                "parent": window.parent,
                "display": config.role_of(desk.display_of(window.frame)),
                "place": place_of(window, desk, config),
                "frame": window.frame._asdict(),
                "workspace": window.workspace,
                "state": window.shape.value,
                "minimised": window.minimised,
                "above": window.above,
                "lost": is_lost(window, desk.displays),
                "covered": is_covered(window, desk),
            }
            for window in listed_windows(desk)
        ],
    }
