"""Layouts as pictures: a sheet of panels as PNG, SVG or PDF, drawn by Matplotlib, which is loaded nowhere else."""

from collections.abc import Mapping, Sequence
from math import ceil
from typing import TYPE_CHECKING, Final

from jaklet.core.values.config import Config
from jaklet.core.values.desk import Display, Window
from jaklet.core.values.geometry import Rect
from jaklet.core.values.words import shortened
from jaklet.drawing.colours import colour_of, room_for_words
from jaklet.drawing.desks import bounds_of
from jaklet.drawing.figure_files import format_of, new_figure, write_figures
from jaklet.drawing.panels import DeskPanel, figure_lines, hidden_told, panel_names

if TYPE_CHECKING:
    from matplotlib.axes import Axes

SIZE: Final = (12.8, 8.0)  # inches, at 100 dots each
FEW: Final = 6  # panels in two columns; more are in three
LEAST: Final = {1: 2.9, 2: 2.9, 3: 2.2}  # inches that a row takes, by the number of columns
FEWEST: Final = 3  # letters of a word that still say something
BEZEL, WORK, BAR, INK, FAINT = "#38464e", "#eef1f3", "#b9c4c9", "#1f2a30", "#66727a"


def draw_panels(panels: Sequence[DeskPanel], config: Config, out: str, *, figures: bool = False) -> None:
    """Write panels as one picture, in the format that the file's name ends in; raises `JakletError`."""
    format_of(out)
    columns = 1 if len(panels) == 1 else 2 if len(panels) <= FEW else 3
    rows = ceil(len(panels) / columns)
    high = max(SIZE[1] * min(1, rows / columns), LEAST[columns] * rows)
    figure = new_figure(SIZE[0], high, "constrained")
    axes = figure.subplots(rows, columns, squeeze=False)
    apps = list(dict.fromkeys(_app(window, panel, config) for panel in panels for window in panel.desk.windows))
    colours = {app: colour_of(app, config) for app in apps}
    for i, panel in enumerate(panels):
        _draw(axes[i // columns][i % columns], panel, config, colours, figures, columns > 2)
    for i in range(len(panels), rows * columns):
        axes[i // columns][i % columns].set_axis_off()
    _legend(figure, colours)
    _fit(figure)
    write_figures([figure], out)


def _app(window: Window, panel: DeskPanel, config: Config) -> str:
    entries = panel.layout.entries if panel.layout else ()
    if window.id <= len(entries):
        return entries[window.id - 1].label
    return config.claims.app_of(window, panel.desk) or window.cls


def _fit(figure: object) -> None:
    """Shorten the words on windows to the room that they have, once the sheet is laid out."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure

    assert isinstance(figure, Figure)
    figure.draw_without_rendering()
    canvas = figure.canvas
    assert isinstance(canvas, FigureCanvasAgg)
    renderer = canvas.get_renderer()  # type: ignore[no-untyped-call]  # typed in part only
    for axes in figure.axes:
        per_pixel = abs(axes.transData.transform((1, 0))[0] - axes.transData.transform((0, 0))[0])
        for text in [one for one in axes.texts if one.get_gid()]:
            wide, high = (float(part) * per_pixel * 0.94 for part in str(text.get_gid()).split())
            text.set_gid(None)
            lines = text.get_text().split("\n")
            extent = text.get_window_extent(renderer)
            letter = extent.width / max(1, *map(len, lines))
            most = int(wide / letter) if letter else 0
            fitting = [shortened(line, most) for line in lines[: max(0, int(high / (extent.height / len(lines))))]]
            text.set_text("\n".join(fitting) if most > FEWEST else "")


def _legend(figure: object, colours: Mapping[str, str]) -> None:
    from matplotlib.figure import Figure
    from matplotlib.patches import Patch

    assert isinstance(figure, Figure)
    handles = [Patch(facecolor=colour, edgecolor="white", label=app) for app, colour in colours.items()]
    handles.append(Patch(facecolor="white", edgecolor=INK, linewidth=2.5, label="focus"))
    handles.append(Patch(facecolor="none", edgecolor="none", label="1 2 3: from the front"))
    figure.legend(handles=handles, loc="outside lower center", ncols=min(len(handles), 8), frameon=False, fontsize=9)


def _draw(
    axes: "Axes", panel: DeskPanel, config: Config, colours: Mapping[str, str], figures: bool, small: bool = False
) -> None:
    desk, names = panel.desk, panel_names(panel, config)
    bounds = bounds_of([display.rect for display in desk.displays])
    room = max(bounds.width, bounds.height) * 0.03
    axes.set_xlim(bounds.x - room, bounds.right + room)
    axes.set_ylim(bounds.bottom + room, bounds.y - 2.2 * room)
    axes.set_aspect("equal")
    axes.set_axis_off()
    axes.set_title(
        shortened(panel.title, 44 if small else 80),
        fontsize=10 if small else 12,
        fontweight="bold",
        color=INK,
        loc="left",
    )
    for display in desk.displays:
        _display(axes, display, config, room)
    shown = [w for wid in desk.stacking if (w := desk.by_id.get(wid)) and desk.in_view(w)]
    for depth, window in enumerate(shown):
        order = str(len(shown) - depth) if len(shown) > 1 else ""
        above = [other.frame for other in shown[depth + 1 :]]
        words = room_for_words(window.frame, above, window.frame.height / 2)
        colour = colours[_app(window, panel, config)]
        _window(axes, window, names[window.id], colour, window.id == desk.active, depth + 1, order, words)
    below = [hidden_told(panel, names)] if hidden_told(panel, names) else []
    below += figure_lines(panel, names) if figures else []
    if below:
        text = "\n".join(shortened(line, 110) for line in below)
        axes.text(bounds.x, bounds.bottom + room, text, fontsize=8, color=FAINT, va="top")


def _display(axes: "Axes", display: Display, config: Config, room: float) -> None:
    from matplotlib.patches import Rectangle

    rect, work, edge = display.rect, display.work, room / 6
    axes.add_patch(
        Rectangle(
            (rect.x - edge, rect.y - edge), rect.width + 2 * edge, rect.height + 2 * edge, color=BEZEL, zorder=0.1
        )
    )
    axes.add_patch(Rectangle((rect.x, rect.y), rect.width, rect.height, color=BAR, zorder=0.2))
    axes.add_patch(Rectangle((work.x, work.y), work.width, work.height, color=WORK, zorder=0.3))
    # Displays that touch would hide each other's edge.
    outline = Rectangle(
        (rect.x, rect.y), rect.width, rect.height, fill=False, edgecolor=BEZEL, linewidth=1.5, zorder=0.4
    )
    axes.add_patch(outline)
    label = f"{config.role_of(display)}  {rect.width}x{rect.height}"
    axes.text(rect.x, rect.y - 2 * edge, label, fontsize=8, color=INK, va="bottom")


def _window(
    axes: "Axes", window: Window, name: str, colour: str, active: bool, depth: float, order: str, words: Rect
) -> None:
    """Draw a window. `words`: where its words can be seen; they are made to fit when the sheet is laid out."""
    from matplotlib.patches import Rectangle

    frame = window.frame
    shadow = Rectangle(
        (frame.x + 10, frame.y + 10), frame.width, frame.height, color=INK, alpha=0.18, linewidth=0, zorder=depth
    )
    body = Rectangle(
        (frame.x, frame.y), frame.width, frame.height, facecolor=colour, edgecolor=INK if active else "white",
        linewidth=2.5 if active else 1.0, zorder=depth + 0.1,
    )  # fmt: skip
    axes.add_patch(shadow)
    axes.add_patch(body)
    app, _, key = name.partition(" [")
    label, _, share = app.partition(" ")
    lines = [label, share, f"[{key}" if key else "", "focus" if active else "", window.title]
    text = axes.text(
        words.x + frame.width * 0.03, frame.y + frame.height * 0.04, "\n".join(line for line in lines if line),
        fontsize=8.5, color="white", va="top", zorder=depth + 0.2, clip_on=True,
        fontweight="bold" if active else "normal",
    )  # fmt: skip
    text.set_clip_path(body)
    text.set_gid(f"{words.width} {frame.height}")
    axes.text(
        frame.right - frame.width * 0.02, frame.y + frame.height * 0.03, order,
        fontsize=7.5, color="white", va="top", ha="right", zorder=depth + 0.2, alpha=0.85,
    )  # fmt: skip
