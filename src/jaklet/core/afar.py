"""Bringing a window here from another workspace or display, with its share of the work area."""

from jaklet.core.config import Config
from jaklet.core.desk import Change, Desk, Display, Move, Reshape, Reveal, Send, Shape, Window
from jaklet.core.forms import At, Form, frame_of
from jaklet.core.geometry import Rect, settled
from jaklet.core.recognise import recognised


def brought(window: Window, shape: Shape, here: Display, desk: Desk, config: Config) -> tuple[Change, ...]:
    """Return what it still takes for a window to be on the workspace that is shown and on this display.

    `shape`: the one it had. A maximised window is made normal first, as it would stay where it is; what it needs
    after that is known when its normal frame is.
    """
    changes: tuple[Change, ...] = ()
    if not desk.in_view(window._replace(minimised=False)):
        changes += (Send(window.id, desk.workspace),)
    there = desk.display_of(window.frame)
    if window.minimised:
        changes += (Reveal(window.id),)
    if there.name != here.name:
        if window.shape is not Shape.NORMAL:
            return (*changes, Reshape(window.id, Shape.NORMAL))
        return (*changes, Move(window.id, _same_share(window, there, here, config)))
    if window.shape is not shape:
        changes += (Reshape(window.id, shape),)
    return changes


def _same_share(window: Window, there: Display, here: Display, config: Config) -> Rect:
    """Return the frame that takes the same share of another display; of the same size if it is none."""
    gap = config.settings.gap
    form: Form = recognised(window.frame, there.work, gap, window.border, window.limits, {}, there.name)
    if isinstance(form, At):
        work, old = here.work, window.frame
        width, height = min(old.width, work.width), min(old.height, work.height)
        x = min(max(form.x, 0), work.width - width)
        y = min(max(form.y, 0), work.height - height)
        form = At(x, y, width, height)
    return settled(frame_of(form, here.work, gap), window.border, window.limits, form.anchor)
