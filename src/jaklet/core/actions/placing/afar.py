"""Bringing a window here from another workspace or display, with its share of the work area."""

from jaklet.core.actions.placing.window_stands import filling, form_elsewhere
from jaklet.core.values.changes import Change, Move, Reshape, Reveal, Send
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.geometry import Rect


def brought(window: Window, shape: WindowShape, here: Display, desk: Desk, config: Config) -> tuple[Change, ...]:
    """Return the changes that bring a window to the shown workspace and to this display.

    `shape`: the one it had. A maximised window is made normal first, as it would stay where it is; what it needs
    after that is known when its normal frame is.
    """
    changes: tuple[Change, ...] = ()
    if not desk.in_view(window._replace(minimised=False)):
        changes += (Send(window.id, desk.workspace),)
    if window.minimised:
        changes += (Reveal(window.id),)
    return changes + changes_to_bring(window, shape, here, desk, config)


def changes_to_bring(
    window: Window, shape: WindowShape, here: Display, desk: Desk, config: Config
) -> tuple[Change, ...]:
    """Return the changes that bring a window to this display in its former shape, as `brought`."""
    if desk.display_of(window.frame).name != here.name:
        if window.shape is not WindowShape.NORMAL:
            return (Reshape(window.id, WindowShape.NORMAL),)
        return (Move(window.id, share_on(window, here, desk, config)),)
    return () if window.shape is shape else (Reshape(window.id, shape),)


def share_on(window: Window, here: Display, desk: Desk, config: Config) -> Rect:
    """Return the frame that takes the same share of another display; of the same size if it is none."""
    return filling(form_elsewhere(window, here, desk, config), window, here, desk, config).frame(window)
