"""Edits of the user's files that leave everything else as it is, to the byte."""

import contextlib
from pathlib import Path
from typing import Final

import yaml

from jaklet.core.values.errors import StoreError
from jaklet.core.values.spans import Spot
from jaklet.files import read_ordinary, write_whole
from jaklet.yaml_files.reader import SourceFile

BOM = "\ufeff"
PLACES: Final = "places"


def replace_stretch(source: SourceFile, spot: Spot, new: str) -> str:
    """Return the text of a file with one stretch of a line written anew."""
    start = source.offset(spot.line) + spot.column - 1
    end = start + spot.end - spot.column
    return source.text[:start] + new + source.text[end:]


def with_place(source: SourceFile, name: str, place: str) -> str:
    """Return the text of a file with one more place in its section `places`, behind the others, or in a new section.

    Raises `StoreError` where the file is written so that it cannot be put in.
    """
    wanted = yaml.safe_load(source.text) or {}
    if isinstance(wanted, dict) and isinstance(wanted.get(PLACES) or {}, dict):
        wanted = {**wanted, PLACES: {**(wanted.get(PLACES) or {}), name: place}}
        text = _with_entry(source, f"{name}: {place}")
        with contextlib.suppress(yaml.YAMLError):  # what has come out is no YAML: there was no room for it
            if yaml.safe_load(text) == wanted:
                return text
    raise StoreError(f"{source.path} has no room for it", f"write it into the section by hand: {name}: {place}")


def _with_entry(source: SourceFile, entry: str) -> str:
    """Return the text with an entry in the section of places, where it is written as usual."""
    text, end = source.text, "\r\n" if "\r\n" in source.text else "\n"
    root = yaml.compose(text)
    pairs = root.value if isinstance(root, yaml.MappingNode) else []
    key, section = next(((key, value) for key, value in pairs if key.value == PLACES), (None, None))
    if key is None or section is None:
        before = "" if not text.strip() else end if text.endswith("\n") else 2 * end
        return f"{text}{before}{PLACES}:{end}  {entry}{end}"
    if section.start_mark.index == section.end_mark.index or isinstance(section, yaml.ScalarNode):
        return _with_line(source, key.end_mark.line + 1, f"  {entry}", end)
    if section.flow_style:
        at = section.end_mark.index - 1
        return f"{text[:at].rstrip()}{', ' if section.value else ''}{entry}{text[at:]}"
    indent = " " * section.value[0][0].start_mark.column
    return _with_line(source, _last_line(section) + 1, indent + entry, end)


def _with_line(source: SourceFile, after: int, line: str, end: str) -> str:
    """Return the text with a line behind another one, counted from 1."""
    if after >= len(source.lines):
        return f"{source.text}{end}{line}{end}"
    at = source.offset(after + 1)
    return f"{source.text[:at]}{line}{end}{source.text[at:]}"


def _last_line(node: yaml.Node) -> int:
    """Return the last line, counted from 0, on which something of a node is written; comments behind it are not its."""
    if isinstance(node, yaml.CollectionNode) and node.value and not node.flow_style:
        last = node.value[-1]
        return _last_line(last[1] if isinstance(last, tuple) else last)
    ends_before = node.end_mark.column == 0 and node.end_mark.line > node.start_mark.line  # a block of text
    return int(node.end_mark.line - ends_before)


def write_edited(path: Path, source: SourceFile, text: str) -> None:
    """Write a file that was read as `source`; raises `StoreError` if it has changed meanwhile, or cannot be written."""
    target = path.resolve()  # a link stays one
    try:
        now = read_ordinary(target).decode("utf-8")
        if now.removeprefix(BOM) != source.text:
            raise StoreError(f"{source.path} was changed meanwhile", "nothing was written; try again")
        write_whole(target, (BOM if now.startswith(BOM) else "") + text)
    except OSError as fault:
        raise StoreError(f"{source.path} cannot be written: {fault.strerror}", "check its permissions") from fault
