"""What the listener of this desk goes by, beside the config as it is now."""

import os
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from jaklet.checks.run import Checked


def desk_name() -> str:
    """Return the name under which the listener of this X server is found."""
    display = os.environ.get("DISPLAY", "")
    return f"x11{display.removesuffix('.0')}"


def listener_status(desk: str | None) -> dict[str, Any] | None:
    """Return what the listener of this desk says of itself; None if there is none."""
    from jaklet.cli.opening import tabletop_path
    from jaklet.core.errors import JakletError

    if not os.environ.get("DISPLAY") or tabletop_path(desk):
        return None
    from jaklet.listener.control import request, socket_path

    path = socket_path(desk_name())
    if path is None or not path.exists():
        return None
    try:
        status = request(path, "status", limit=2.0)
    except JakletError:
        return None
    return status if isinstance(status, dict) else None


def active(result: "Checked", desk: str | None) -> dict[str, Any] | None:
    """Return what of a checked config the listener does not go by yet; None if none listens to this config."""
    from jaklet.core.keys.active import pending

    status = listener_status(desk)
    if status is None or status.get("config") != str(result.path):
        return None
    found = pending(result.config, status.get("bindings", ()), status.get("refused", {}))
    return {"pid": status.get("pid"), "layer": status.get("layer", ""), **found._asdict()}


def active_lines(result: "Checked", desk: str | None) -> list[str]:
    """Return the same for people."""
    from jaklet.core.words import counted

    known = active(result, desk)
    if known is None:
        return []
    who = f"the listener (process {known['pid']})"
    changed = len(known["added"]) + len(known["gone"])
    if not result.usable:
        lines = [f"{who} goes on with the config as it was before these errors"]
    elif changed:
        lines = [f"{who} does not go by {counted(changed, 'change')} yet: run `jaklet reload`"]
        lines += [f"  new: {text}" for text in known["added"]] + [f"  gone: {text}" for text in known["gone"]]
    else:
        lines = [f"{who} goes by all of this"]
    if known["refused"]:
        needs = "needs" if len(known["refused"]) == 1 else "need"
        lines.append(f"{counted(len(known['refused']), 'binding')} {needs} more than a reload:")
        lines += [f"  {text}" for text in known["refused"]]
    return lines
