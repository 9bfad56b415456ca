"""What the listener of this desk goes by, beside the config as it is now."""

from typing import TYPE_CHECKING, Any

from jaklet.cli.serving import status

if TYPE_CHECKING:
    from jaklet.checks.run import Checked


def active(result: "Checked", desk: str | None) -> dict[str, Any] | None:
    """Return what of a checked config the listener does not go by yet; None if none listens to this config."""
    from jaklet.core.keys.active import pending

    told = status(desk)
    if told is None or told.get("config") != str(result.path):
        return None
    found = pending(result.config, told.get("bindings", ()), told.get("refused", {}))
    return {"pid": told.get("pid"), "layer": told.get("layer", ""), **found._asdict()}


def active_lines(result: "Checked", desk: str | None) -> list[str]:
    """Return the same for people."""
    from jaklet.core.values.words import counted

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
