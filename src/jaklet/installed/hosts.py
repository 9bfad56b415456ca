"""The hosts that the user's SSH client knows by name (ssh_config(5))."""

import glob
import re
import shlex
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from jaklet.core.values.regexes import regex
from jaklet.files import read_ordinary

DEEPEST: Final = 8  # files that include files; ssh itself stops at 16
_LINE: Final = regex(r"\s*(host|include)(?:\s*=\s*|\s+)(.+)", re.IGNORECASE)


def ssh_hosts(config: Path | None = None) -> list[str]:
    """Return the names in `Host` lines that stand for one host each, in the order of the file, without doubles."""
    return list(dict.fromkeys(_hosts(config or Path("~/.ssh/config").expanduser(), DEEPEST)))


def _hosts(path: Path, depth: int) -> Iterator[str]:
    try:
        lines = read_ordinary(path).decode("utf-8", "replace").splitlines()
    except OSError:
        return  # no file, no hosts
    for line in lines:
        found = _LINE.fullmatch(line)
        if not found:
            continue
        try:
            words = shlex.split(found[2], comments=True)
        except ValueError:
            continue  # ssh would refuse the whole file; what else it holds may still be of use here
        for word in words:
            if found[1].lower() == "include" and depth:
                # A path that is not absolute is below ~/.ssh.
                pattern = str(Path("~/.ssh").expanduser() / Path(word).expanduser())
                for file in sorted(glob.glob(pattern)):
                    yield from _hosts(Path(file), depth - 1)
            elif found[1].lower() == "host" and not re.search(r"[*?!]", word) and word[:1] not in ("-", ""):
                yield word
