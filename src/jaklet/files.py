"""Files that are replaced whole or not at all."""

import contextlib
import os
from pathlib import Path


def write_whole(path: Path, text: str) -> None:
    """Replace a file by this text, whole or not at all, and make it last; raises `OSError`."""
    beside = path.with_name(f".{path.name}.{os.getpid()}.new")
    try:
        with open(beside, "w", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        os.replace(beside, path)
    except BaseException:
        with contextlib.suppress(OSError):
            beside.unlink()
        raise
    folder = os.open(path.parent, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)
