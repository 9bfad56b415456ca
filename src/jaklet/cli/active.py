"""What the listener of this desk goes by, beside the config as it is now."""

from typing import TYPE_CHECKING, Any

from jaklet.cli.listener_calls import listener_status

if TYPE_CHECKING:
    from jaklet.checks.run import CheckedConfig


def changes_not_in_use(result: "CheckedConfig", desk: str | None) -> dict[str, Any] | None:
    """Return the bindings of a checked config that the listener does not use yet.

    None if no listener uses this config.
    """
    told = listener_status(desk)
    if told is None or told.get("config") != str(result.path):
        return None
    from jaklet.core.keys.binding_changes import pending

    found = pending(result.config, told.get("bindings", ()), told.get("refused", {}))
    known = {"pid": told.get("pid"), "layer": told.get("layer", ""), "current": told.get("current", True)}
    return {**known, **found._asdict()}


def active_lines(result: "CheckedConfig", desk: str | None) -> list[str]:
    """Return the same for people."""
    known = changes_not_in_use(result, desk)
    if known is None:
        return []
    if not result.usable:
        return [f"the listener (process {known['pid']}) goes on with the config as it was before these errors"]
    from jaklet.drawing.status import pending_lines

    return pending_lines(known["pid"], known["added"], known["gone"], known["refused"], known["current"])
