"""A desk as plain data and back, for whoever draws it in another process: all that is seen, and no more."""

from collections.abc import Mapping
from typing import Any

from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.geometry import Insets, Rect, SizeLimits


def desk_data(desk: Desk) -> dict[str, Any]:
    """Return a desk as data that JSON can hold. Limits of proportion are left out."""
    return {
        "displays": [list(display) for display in desk.displays],
        "windows": [[*window[:7], list(window.limits[:8]), *window[8:]] for window in desk.windows],
        "stacking": list(desk.stacking),
        "recent": list(desk.recent),
        "active": desk.active,
        "aimed": desk.aimed,
        "workspace": desk.workspace,
        "workspaces": desk.workspaces,
        "gaps": desk.gaps,
    }


def desk_from_data(data: Mapping[str, Any]) -> Desk:
    """Return the desk that was told; raises `TypeError` or `ValueError` for anything else."""
    return Desk(
        displays=tuple(Display(name, Rect(*rect), Rect(*work), main) for name, rect, work, main in data["displays"]),
        windows=tuple(_window(one) for one in data["windows"]),
        stacking=tuple(data["stacking"]),
        recent=tuple(data["recent"]),
        active=data["active"],
        aimed=data["aimed"],
        workspace=data["workspace"],
        workspaces=data["workspaces"],
        gaps=data["gaps"],
    )


def _window(data: list[Any]) -> Window:
    window = Window(*data)
    return window._replace(
        frame=Rect(*window.frame),
        border=Insets(*window.border),
        limits=SizeLimits(*window.limits),
        shape=WindowShape(window.shape),
    )
