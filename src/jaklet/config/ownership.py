"""Whether other users can change what Jaklet acts by: a file, or a folder on the way to it.

Bindings start programs, so whoever can write a file of the config, or put another one in its place, could act as this
user. In a sticky folder such as /tmp only the owner of a file can rename or remove it (inode(7)).
"""

import os
import stat
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.spans import Spot

ROOT: Final = 0
UNMAPPED: Final = 65534  # as whom a user namespace shows owners that it has no number for (user_namespaces(7))


def exposed_file(path: Path, shown: str) -> Finding | None:
    """Return a finding where other users can write a file; None where they cannot. Raises `OSError`."""
    state = path.stat()
    if state.st_uid not in (os.getuid(), ROOT):
        return _exposed(shown, "this file", "it belongs to another user", f"cp {shown} to a file of your own")
    if _lets_others_write(state):
        return _exposed(shown, "this file", f"mode {stat.filemode(state.st_mode)}", f"chmod go-w {shown}")
    return None


def exposed_folders(folder: Path, shown: str) -> Iterator[Finding]:
    """Yield a finding for each folder, this one and all above it, in which others can exchange files.

    `shown`: the file at which to report them. The way as it is written counts, and the way that its links lead to.
    """
    written = Path(os.path.abspath(folder))
    resolved = Path(os.path.realpath(folder))
    for one in dict.fromkeys((written, *written.parents, resolved, *resolved.parents)):
        try:
            state = one.stat()
        except OSError:
            continue  # not there, so that nothing is read in it
        if state.st_uid not in (os.getuid(), ROOT, UNMAPPED):
            problem, remedy = "it belongs to another user", "keep the config in a folder of your own"
        elif _lets_others_write(state) and not state.st_mode & stat.S_ISVTX:
            problem, remedy = f"mode {stat.filemode(state.st_mode)}", f"chmod go-w {one}"
        else:
            continue
        yield _exposed(shown, f"the folder {one}", problem, remedy)


def _lets_others_write(state: os.stat_result) -> bool:
    by_group = state.st_mode & stat.S_IWGRP and state.st_gid not in (os.getgid(), ROOT)
    return bool(state.st_mode & stat.S_IWOTH or by_group)


def _exposed(shown: str, what: str, problem: str, remedy: str) -> Finding:
    return finding("JK109", Spot(shown, 1, 1, 2), what=what, problem=problem, remedy=remedy)
