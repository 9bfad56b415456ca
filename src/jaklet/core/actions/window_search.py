"""Which window a person means by a few words."""

from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window

FRONT = "front"


def windows_meant(words: str, desk: Desk, config: Config) -> tuple[Window, ...]:
    """Return the windows that the words can mean, the one used last first.

    `front`; a window's id, as X tools write it or in decimal; an app's name; else a part of title, class or instance,
    whether in capitals or not.
    """
    if words == FRONT:
        return (desk.front,) if desk.front else ()
    if window := desk.by_id.get(_number(words)):
        return (window,)
    rank = {wid: place for place, wid in enumerate(desk.recent)}
    windows = sorted(desk.windows, key=lambda window: rank.get(window.id, len(rank)))
    own = tuple(window for window in windows if config.claims.app_of(window, desk) == words)
    if own:
        return own
    small = words.casefold()
    return tuple(
        window
        for window in windows
        if any(small in text.casefold() for text in (window.title, window.cls, window.instance))
    )


def _number(words: str) -> int:
    try:
        return int(words, 0)
    except ValueError:
        return 0  # no window has this id (X protocol, None)
