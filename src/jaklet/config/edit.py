"""Edits of the user's files that leave everything else as it is, to the byte."""

from pathlib import Path

from jaklet.config.reader import Source
from jaklet.core.values.errors import StoreError
from jaklet.core.values.spans import Spot
from jaklet.files import read_ordinary, write_whole

BOM = "\ufeff"


def replaced(source: Source, spot: Spot, new: str) -> str:
    """Return the text of a file with one stretch of a line written anew."""
    start = source.offset(spot.line) + spot.column - 1
    end = start + spot.end - spot.column
    return source.text[:start] + new + source.text[end:]


def write_edited(path: Path, source: Source, text: str) -> None:
    """Write a file that was read as `source`; raises `StoreError` if it has changed meanwhile, or cannot be written."""
    target = path.resolve()  # a link stays one
    try:
        now = read_ordinary(target).decode("utf-8")
        if now.removeprefix(BOM) != source.text:
            raise StoreError(f"{source.path} was changed meanwhile", "nothing was written; try again")
        write_whole(target, (BOM if now.startswith(BOM) else "") + text)
    except OSError as fault:
        raise StoreError(f"{source.path} cannot be written: {fault.strerror}", "check its permissions") from fault
