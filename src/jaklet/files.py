"""What all that writes files needs: values as a line of YAML, and files that are replaced whole or not at all."""

import contextlib
import errno
import os
import stat
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Any, Final

from jaklet.core.values.regexes import regex

MOST_BYTES: Final = 4_000_000  # far above any real config; keeps a wrong path (a log, a disk image) from filling memory
_BESIDE: Final = regex(r"\..+\.(\d+)\.new")  # what `write_whole` writes first: for which process


def read_ordinary(path: Path, most: int = MOST_BYTES) -> bytes:
    """Return the bytes of an ordinary file of no more than `most` bytes; raises `OSError` for all else.

    A pipe or a device may never come to an end, and is not even waited for.
    """
    descriptor = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)
    with open(descriptor, "rb") as file:
        if not stat.S_ISREG(os.fstat(descriptor).st_mode):
            raise OSError(errno.EINVAL, "it is no ordinary file", str(path))
        data: bytes | None = file.read(most + 1)
    if data is None:  # a file of the kernel that would have to be waited for
        raise OSError(errno.EINVAL, "it is no ordinary file", str(path))
    if len(data) > most:
        raise OSError(errno.EFBIG, f"the file is larger than {most // 1_000_000} MB", str(path))
    return data


def leftovers(folder: Path) -> Iterator[Path]:
    """Yield files in a folder that were begun by a process which is gone before it could put them in place."""
    try:
        names = os.listdir(folder)
    except OSError:
        return
    for name in names:
        found = _BESIDE.fullmatch(name)
        if found and not os.path.exists(f"/proc/{found[1]}"):
            yield folder / name


def yaml_line(value: object) -> str:
    """Return a value as YAML on one line, quoted only where it has to be."""
    import yaml  # only what writes needs it

    # What a terminal would not show as it is, such as a change of direction, stands there escaped.
    shown = all(text.isprintable() for text in _texts(value))
    text: str = yaml.dump(
        value, Dumper=_dumper(), default_flow_style=True, sort_keys=False, width=10**6, allow_unicode=shown
    )
    return text.strip().removesuffix("\n...").strip()


@cache
def _dumper() -> Any:
    """Return a YAML writer. A text with line ends is quoted, so that they stand in it as escapes."""
    import yaml

    class OneLine(getattr(yaml, "CSafeDumper", yaml.SafeDumper)):  # type: ignore[misc]
        pass

    def represented(dumper: Any, text: str) -> Any:
        style = '"' if len(text.splitlines()) > 1 or text.endswith(("\n", "\r")) else None
        return dumper.represent_scalar("tag:yaml.org,2002:str", text, style=style)

    OneLine.add_representer(str, represented)
    return OneLine


def _texts(value: object) -> Iterator[str]:
    """Yield all texts in a value."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for key, inner in value.items():
            yield from _texts(key)
            yield from _texts(inner)
    elif isinstance(value, (list, tuple)):
        for inner in value:
            yield from _texts(inner)


def write_new(path: Path, text: str) -> None:
    """Write a file that must not be there yet; raises `OSError`, `FileExistsError` if it is."""
    with open(path, "x", encoding="utf-8") as file:
        file.write(text)


def write_whole(path: Path, text: str) -> None:
    """Replace a file by this text, whole or not at all, and make it last; raises `OSError`. Its mode stays."""
    for old in leftovers(path.parent):
        with contextlib.suppress(OSError):
            old.unlink()
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
