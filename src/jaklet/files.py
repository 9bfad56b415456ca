"""What all that writes files needs: values as a line of YAML, and files that are replaced whole or not at all."""

import contextlib
import os
import stat
from pathlib import Path
from typing import Any


def yaml_line(value: object) -> str:
    """Return a value as YAML on one line, quoted only where it has to be."""
    import yaml  # only what writes needs it

    dumper: Any = getattr(yaml, "CSafeDumper", yaml.SafeDumper)
    text: str = yaml.dump(
        value, Dumper=dumper, default_flow_style=True, sort_keys=False, width=10**6, allow_unicode=True
    )
    return text.strip().removesuffix("\n...").strip()


def write_new(path: Path, text: str) -> None:
    """Write a file that must not be there yet; raises `OSError`, `FileExistsError` if it is."""
    with open(path, "x", encoding="utf-8") as file:
        file.write(text)


def write_whole(path: Path, text: str) -> None:
    """Replace a file by this text, whole or not at all, and make it last; raises `OSError`. Its mode stays."""
    beside = path.with_name(f".{path.name}.{os.getpid()}.new")
    try:
        with open(beside, "w", encoding="utf-8", newline="") as file:
            with contextlib.suppress(FileNotFoundError):
                os.fchmod(file.fileno(), stat.S_IMODE(path.stat().st_mode))
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        os.replace(beside, path)
    except BaseException:
        with contextlib.suppress(OSError):
            beside.unlink()
        raise
    _sync_folder(path.parent)


def remove_whole(path: Path) -> None:
    """Take a file away, and make that last; raises `OSError`."""
    path.unlink()
    _sync_folder(path.parent)


def _sync_folder(path: Path) -> None:
    folder = os.open(path, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)
