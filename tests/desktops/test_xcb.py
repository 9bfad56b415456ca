"""The X library, loaded with the declarations that were made beforehand, and without them."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from jaklet.desktops import xcb_declarations
from jaklet.desktops.xcb_library import checksum, declarations_file
from tests.xserver import XServer

PROGRAM = """
import sys
from jaklet.desktops.x11 import keyboard_levels
levels = keyboard_levels()
usual = __import__("ctypes.util").util.find_library
print(len(levels) > 50, "pycparser" in sys.modules, usual("c") is not None)
"""


def test_the_declarations_are_those_of_the_library_here() -> None:
    path = declarations_file()
    assert path
    assert checksum(path.read_bytes()) == xcb_declarations.CHECKSUM, "another xcffib: python tools/make_xcb.py"


@pytest.mark.parametrize("changed", [False, True])
def test_another_release_parses_its_own(tmp_path: Path, x: XServer, changed: bool) -> None:
    """The same library with one more word in it is used as well, by parsing it."""
    path = declarations_file()
    assert path
    shutil.copytree(path.parent, tmp_path / "xcffib")
    if changed:
        with (tmp_path / "xcffib" / path.name).open("a") as file:
            file.write("# another release\n")
    env = {**x.env, "PYTHONPATH": str(tmp_path)}
    done = subprocess.run([sys.executable, "-c", PROGRAM], env=env, capture_output=True, text=True)
    assert done.stdout.split() == ["True", str(changed), "True"], done.stderr
