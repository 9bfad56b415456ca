"""The listener of a desk, as commands find it."""

import os
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from jaklet.core.actions.ports import ChordDesktop


def desk_name() -> str:
    """Return the name under which the listener of this X server is found."""
    display = os.environ.get("DISPLAY", "")
    return f"x11{display.removesuffix('.0')}"


def status() -> dict[str, Any] | None:
    """Return what the listener of this X server says of itself; None if there is none."""
    from jaklet.core.values.errors import JakletError
    from jaklet.listener.client import request
    from jaklet.listener.control import socket_path

    path = socket_path(desk_name())
    if path is None or not path.exists():
        return None
    try:
        told = request(path, "status", limit=2.0)
    except JakletError:
        return None
    return told if isinstance(told, dict) else None


def ask(method: str, **params: Any) -> Any:
    """Ask the listener of this X server for something; raises `JakletError` where none runs, or it refuses."""
    from jaklet.core.values.errors import UsageError
    from jaklet.listener.client import request
    from jaklet.listener.control import socket_path

    if not os.environ.get("DISPLAY"):
        raise UsageError("there is no desk here, as DISPLAY is not set", "a listener runs on an X server")
    path = socket_path(desk_name())
    if path is None:
        remedy = "send it SIGHUP or SIGTERM instead"
        raise UsageError("XDG_RUNTIME_DIR is not set, so the listener cannot be found", remedy)
    return request(path, method, **params)


def is_listening(desktop: "ChordDesktop") -> bool:
    """Return whether a listener serves this desk."""
    return desktop.identity().startswith("x11") and status() is not None
