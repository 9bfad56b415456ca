"""What a user can let Jaklet do on Plasma that no program may by itself: in words, with the file that does it."""

import shutil
import sys
from collections.abc import Iterator
from pathlib import Path

from jaklet.desktops.plasma.abilities import grant_file


def grant_lines() -> Iterator[str]:
    """Yield lines on pressing keys for programs: whether it is granted, how it is, and how that is taken back."""
    path, program = grant_file(), Path(sys.executable).resolve()
    renewed = "kbuildsycoca6" if shutil.which("kbuildsycoca6") else "kbuildsycoca5"  # Plasma 6 or 5
    if path.exists():
        yield f"pressing keys for programs is granted, by {path}"
        yield f"  it holds for {program}, and so for every program that this one runs"
        yield f"  to take it back: rm '{path}' && {renewed}"
        return
    yield "pressing keys for programs (press, type) is not granted: on Wayland no program may by itself"
    yield f"  KWin lets {program} do it, and so every program that this one runs, if there is this desktop entry:"
    yield f"    mkdir -p '{path.parent}' && cat > '{path}' <<END"
    yield from (f"    {line}" for line in grant_entry(program).splitlines())
    yield "    END"
    yield f"    {renewed}"
    yield f"  to take it back: rm '{path}' && {renewed}"


def grant_entry(program: Path) -> str:
    """Return the desktop entry by which KWin lets a program press keys."""
    return (
        f"[Desktop Entry]\nType=Application\nName=Jaklet presses keys\nExec={program}\nNoDisplay=true\n"
        "X-KDE-Wayland-Interfaces=org_kde_kwin_fake_input\n"
    )
