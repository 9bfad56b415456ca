"""The listener of a desk, as commands find it."""

import os
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from jaklet.core.values.sharings import KeptArrangements


def listener_status(desk: str | None) -> dict[str, Any] | None:
    """Return the status of a desk's listener; None where none runs."""
    from jaklet.core.values.errors import JakletError
    from jaklet.desktops.addresses import address_of
    from jaklet.locations import socket_path

    address = address_of(desk)
    path = socket_path(address.listener) if address and address.listener else None
    if path is None or not os.path.exists(path):
        return None
    from jaklet.listener.control_client import request

    try:
        told = request(path, "status", limit=2.0)
    except JakletError:
        return None
    return told if isinstance(told, dict) else None


def kept_by_listener(desk: str | None) -> "KeptArrangements | None":
    """Return how the listener of a desk keeps everything arranged; None where none does."""
    from jaklet.core.language.kept import kept_from
    from jaklet.core.values.errors import JakletError

    if listener_status(desk) is None:
        return None
    try:
        plain = ask_listener("kept")
        return None if plain is None else kept_from(plain)
    except (JakletError, TypeError, ValueError, KeyError):  # it may be one of another version
        return None


def _desk_meant() -> str | None:
    """Return the kind of real desk that JAKLET_DESK names, for commands without `--desk`; None for what is here."""
    from jaklet.locations import HERE

    desk = os.environ.get("JAKLET_DESK")
    return desk if desk in HERE else None


def ask_listener(method: str, **params: Any) -> Any:
    """Ask the listener of the desk that is here for something; raises `JakletError` where none runs, or it refuses."""
    from jaklet.core.values.errors import DeskError, UsageError
    from jaklet.desktops.addresses import address_here
    from jaklet.listener.control_client import request
    from jaklet.locations import socket_path

    try:
        address = address_here(_desk_meant(), "a listener runs on a real desk")
    except DeskError as fault:
        raise UsageError(fault.message, fault.remedy) from fault
    path = socket_path(address.listener)
    if path is None:
        remedy = "send it SIGHUP or SIGTERM instead"
        raise UsageError("XDG_RUNTIME_DIR is not set, so the listener cannot be found", remedy)
    return request(path, method, **params)


def tidy_after_listener() -> bool:
    """Give back what a listener has left behind that was killed, and say so; False if there was nothing."""
    from jaklet.cli import terminal
    from jaklet.config.paths import state_folder
    from jaklet.desktops.addresses import address_of

    address = address_of(_desk_meant())
    lines = list(address.tidy(state_folder)) if address else []
    for line in lines:
        terminal.say(line)
    return bool(lines)


def left_behind(desk: str | None) -> list[str]:
    """Return lines on what a listener of a desk has left behind that was killed; nothing while one runs."""
    from jaklet.config.paths import state_folder
    from jaklet.desktops.addresses import address_of

    address = address_of(desk)
    return [*address.left(state_folder)] if address and listener_status(desk) is None else []
