"""What to do where a library is missing that only some commands need: by the way in which this Jaklet was installed.

The library is named, and never Jaklet with an extra: a public index may have somebody else's program under that name.
"""

import shlex
import sys
from pathlib import Path


def install(library: str) -> str:
    """Return the command that installs a library beside this Jaklet."""
    prefix = Path(sys.prefix)
    if prefix.parent.name == "venvs" and "pipx" in prefix.parts:
        return f"pipx inject {prefix.name} {library}"
    return f"{shlex.quote(sys.executable)} -m pip install {library}"
