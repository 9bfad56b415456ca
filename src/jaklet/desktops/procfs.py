"""What the kernel tells of processes: names, parents, sessions, first environments (proc(5))."""

import os
from pathlib import Path
from typing import Final

_CUT: Final = 15  # the kernel keeps so much of a name, proc_pid_comm(5)


def name_of(pid: int) -> str:
    """Return a process's name; where the kernel has cut it, in full if the command line has it. Empty if it is gone."""
    try:
        name = Path(f"/proc/{pid}/comm").read_text(encoding="utf-8", errors="replace").rstrip("\n")
        if len(name) < _CUT:
            return name
        words = Path(f"/proc/{pid}/cmdline").read_bytes().split(b"\0")[:2]
    except OSError:
        return ""
    files = (os.path.basename(word).decode("utf-8", "replace") for word in words)
    return next((file for file in files if file.startswith(name)), name)


def descends(pid: int, ancestor: int) -> bool:
    """True if a process is another, was started by it or by one of its, or is in the session that it leads."""
    for _ in range(64):  # far deeper than any real tree, and an end where one is read while it changes
        if pid == ancestor:
            return True
        try:
            # The name in the second field may hold spaces and brackets; what follows the last bracket is plain.
            state = Path(f"/proc/{pid}/stat").read_text(errors="replace").rpartition(")")[2].split()
        except OSError:
            return False
        if int(state[3]) == ancestor:
            return True
        pid = int(state[1])
        if pid <= 1:
            return False
    return False


def program_date(pid: int) -> str:
    """Return when the program of a process was last changed, in seconds since the epoch; empty if that is not known."""
    try:
        return f"{os.stat(f'/proc/{pid}/exe').st_mtime:.0f}"
    except OSError:
        return ""


def began_with(pid: int, setting: str) -> bool:
    """True if a process was started with this `NAME=value` in its environment."""
    try:
        return setting.encode() in Path(f"/proc/{pid}/environ").read_bytes().split(b"\0")
    except OSError:
        return False
