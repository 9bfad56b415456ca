"""The X library, and how to load it without its compiler.

xcffib says in C what libxcb has, and lets cffi parse that at each start, with a parser of C: an eighth of the
time until the listener hears its first key, and 2.6 MB. `xcb_declarations.py` has what comes of it, made by
`tools/make_xcb.py`. It is used for the very text that it was made from: any other release of xcffib parses its own.
"""

import contextlib
import ctypes
import sys
import zlib
from importlib.machinery import PathFinder
from pathlib import Path
from types import ModuleType
from typing import TYPE_CHECKING, Any, Final

from jaklet.core.values.errors import DeskError

if TYPE_CHECKING:
    from collections.abc import Iterator

PACKAGE: Final = "xcffib"
DECLARATIONS: Final = f"{PACKAGE}.ffi"  # the module that parses them
SEARCH: Final = "ctypes.util"


def declarations_file() -> Path | None:
    """Return where the declarations of the installed xcffib stand, or None without one."""
    found = PathFinder.find_spec(PACKAGE)
    return Path(found.origin).with_name("ffi.py") if found and found.origin else None


def checksum(declarations: bytes) -> int:
    """Return the checksum of a text of declarations."""
    return zlib.crc32(declarations)


@contextlib.contextmanager
def loading_xcb() -> "Iterator[None]":
    """Load xcffib, and what stands on it, within; raises `DeskError` where there is no libxcb."""
    try:
        if PACKAGE not in sys.modules:
            _use_declarations()
            with _plain_search():
                import xcffib  # noqa: F401
        yield
    except (ImportError, OSError) as fault:
        raise DeskError(
            f"the X library libxcb cannot be loaded: {fault}", "install it; on Debian: sudo apt install libxcb1"
        ) from fault


def _use_declarations() -> None:
    """Let xcffib have the declarations that were made beforehand, where they are its own."""
    path = declarations_file()
    if path and path.is_file():
        from jaklet.desktops import xcb_declarations

        if checksum(path.read_bytes()) == xcb_declarations.CHECKSUM:
            sys.modules[DECLARATIONS] = xcb_declarations


@contextlib.contextmanager
def _plain_search() -> "Iterator[None]":
    """Let xcffib search for libxcb as the linker does.

    `ctypes.util`, which it asks, starts a program for that, and loads modules that are of no other use here.
    """
    if SEARCH in sys.modules:
        yield
        return
    search: Any = ModuleType(SEARCH)
    search.find_library = lambda name: f"lib{name}.so.1"
    ctypes.util = sys.modules[SEARCH] = search
    try:
        yield
    finally:
        del sys.modules[SEARCH], ctypes.util
