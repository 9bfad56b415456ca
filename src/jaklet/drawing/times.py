"""Times as one would say them."""

import time

DAY = 86400


def time_text(used: float | None) -> str:
    """Return a time, in seconds since the epoch, as one would say it; None: never."""
    if used is None:
        return "never"
    now = time.time()
    at, today = time.localtime(used), time.localtime(now)
    if (at.tm_year, at.tm_yday) == (today.tm_year, today.tm_yday):
        return time.strftime("today %H:%M", at)
    is_near = used > now or (now - used) // DAY < 6
    return time.strftime("%a %H:%M" if is_near else "%Y-%m-%d", at)
