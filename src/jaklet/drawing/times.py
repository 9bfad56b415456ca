"""Times as one would say them."""

from datetime import datetime


def time_text(used: float | None) -> str:
    """Return a time, in seconds since the epoch, as one would say it; None: never."""
    if used is None:
        return "never"
    at, now = datetime.fromtimestamp(used), datetime.now()
    if at.date() == now.date():
        return f"today {at:%H:%M}"
    return f"{at:%a %H:%M}" if (now - at).days < 6 else f"{at:%Y-%m-%d}"
