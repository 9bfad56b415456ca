"""Layouts as text, written for people to read and edit. What is written over keeps its comments, and its wording.

Over a former text, every line that still says the same stays as it is, to the letter; a line that changes keeps the
comment behind it; a comment on a line of its own is never lost.
"""

import contextlib
from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any, Final, NamedTuple, TypeVar

import yaml

from jaklet.config.layout_reading import Bases, LayoutDraft, no_bases, read_draft, read_layout, written_names
from jaklet.core.values.errors import StoreError
from jaklet.core.values.layout_fields import (
    ARRANGEMENT_FIELDS,
    ENTRY_FIELDS,
    LAYOUT_FIELDS,
    VARIANTS,
    WINDOWS,
    LayoutField,
)
from jaklet.core.values.layouts import Arrangement, Layout, LayoutEntry, Where, names_of
from jaklet.files import yaml_line
from jaklet.yaml_files.reader import Loader, SourceFile

T = TypeVar("T")


def layout_text(layout: Layout, without: Sequence[str] = ()) -> str:
    """Return a layout as the text of its file; `read_layout` reads it back as the same layout.

    `without`: what of its base it leaves out, by name.
    """
    lines = [f"{key}: {yaml_line(value)}" for key, value in _heads(layout).items()]
    lines += [f"without: {yaml_line(list(without))}"] if without else []
    return "\n".join([*lines, *_windows(layout.arrangement), *_variants(layout)]) + "\n"


def _written(fields: Sequence[LayoutField[T]], one: T, around: Any = None) -> dict[str, object]:
    """Return the keys of a value as they are written, without those of usual value."""
    found = {field.key: field.in_file(one, around) for field in fields}
    return {key: value for key, value in found.items() if value is not None}


def _heads(layout: Layout) -> dict[str, object]:
    return _written(LAYOUT_FIELDS, layout) | _arrangement_heads(layout.arrangement)


def _arrangement_heads(one: Arrangement) -> dict[str, object]:
    return _written(ARRANGEMENT_FIELDS, one)


def _windows(one: Arrangement) -> list[str]:
    items = [f"- {yaml_line(entry_map(entry, one.workspace))}" for entry in one.entries]
    return [f"{WINDOWS}:", *items] if items else [f"{WINDOWS}: []"]


def _variants(layout: Layout) -> list[str]:
    lines = [f"{VARIANTS}:"] if layout.variants else []
    for one in layout.variants:
        own = [f"{key}: {yaml_line(value)}" for key, value in _arrangement_heads(one).items()] + _windows(one)
        lines += [f"{'- ' if i == 0 else '  '}{line}" for i, line in enumerate(own)]
    return lines


def entry_map(entry: LayoutEntry, workspace: Where) -> dict[str, object]:
    """Return an entry as it is written, in a layout of this workspace."""
    return _written(ENTRY_FIELDS, entry, workspace)


def text_over(former: str, layout: Layout, base_of: Bases = no_bases) -> str:
    """Return a layout as the text of its file, in the place of a former text.

    What its base says already, and the file did not, is left to the base.
    """
    if _reads_as(former, layout, base_of):
        return former  # whichever way it is written
    candidates = []
    with contextlib.suppress(_StrangeError):
        candidates.append(_merged(former, layout, base_of))
    candidates.append(layout_text(layout))
    if layout.base:
        with contextlib.suppress(StoreError):
            below = base_of(layout.base).arranged[0].entries or ()
            left_out = [name for name in written_names(below) if name not in names_of(layout.entries)]
            candidates.append(layout_text(layout, left_out))
    for candidate in candidates:
        whole = _with_comments(former, candidate)
        if _reads_as(whole, layout, base_of):
            return whole
    # What differs from the base cannot be told from it: the layout stands alone from now on.
    return _with_comments(former, layout_text(layout._replace(base=None)))


def _reads_as(text: str, layout: Layout, base_of: Bases) -> bool:
    return read_layout(SourceFile("", text), [], base_of).layout == layout


class _StrangeError(Exception):
    """A text that is not written line by line."""


class _Block(NamedTuple):
    """Some lines of a file: comments and blank lines before, and what they belong to."""

    lead: list[str]
    lines: list[str]
    tail: str = ""  # the comment behind a value on one line


def _merged(former: str, layout: Layout, base_of: Bases) -> str:
    """Return the former text with what has changed written anew; raises `_StrangeError` where it has no such lines."""
    source = SourceFile("", former)
    draft = read_draft(source, [], [], {})
    before = read_layout(source, [], base_of).layout
    if draft is None or before is None:
        raise _StrangeError
    blocks, end = _blocks(former)
    old, new = _heads(before), _heads(layout)
    inherited = old.keys() - blocks.keys()  # from the base
    lines: list[str] = []
    done = set()
    for key, block in blocks.items():
        lines += block.lead
        done.add(key)
        if key in (WINDOWS, VARIANTS):
            continue
        if (key in old and old.get(key) == new.get(key)) or key == "without":
            lines += block.lines
        elif key in new:
            lines.append(f"{key}: {yaml_line(new[key])}{block.tail}")
    for key, value in new.items():
        if key not in done and not (key in inherited and old[key] == value):
            lines.append(f"{key}: {yaml_line(value)}")
    lines += _merged_windows(former, draft, before, layout)
    if layout.variants == before.variants and VARIANTS in blocks:
        lines += blocks[VARIANTS].lines
    else:
        lines += _variants(layout)
    return "\n".join([*lines, *end]) + "\n"


def _merged_windows(former: str, draft: LayoutDraft, before: Layout, layout: Layout) -> list[str]:
    """Return the lines of the windows: those that say the same as they are, others with the comments about them."""
    items, dash = _items(former)
    if len(items) != len(draft.arranged[0].entries or ()):
        raise _StrangeError
    old = dict(zip(names_of(before.entries), before.entries, strict=True))
    blocks = dict(zip(old, items, strict=False))
    from_base = dict(list(old.items())[len(items) :]) if layout.base else {}  # own windows stand before those
    same = _that_say_the_same(blocks, old, before.workspace, layout)
    names, lines = names_of(layout.entries), list[str]()
    for name, entry in zip(names, layout.entries, strict=True):
        if name in same:
            block = blocks.pop(same[name])
            lines += [*block.lead, *block.lines]
        elif from_base.get(name) != entry:
            block = _NOTHING if name in same.values() else blocks.pop(name, _NOTHING)
            lines += [*block.lead, f"{dash}- {yaml_line(entry_map(entry, layout.workspace))}{block.tail}"]
    # What they were about is gone; they are not.
    comments_left = [line for block in blocks.values() for line in block.lead if line.strip()]
    without = _without([name for name in from_base if name not in names], draft)
    return [*without, f"{WINDOWS}:" if lines else f"{WINDOWS}: []", *lines, *comments_left]


def _without(gone: list[str], draft: LayoutDraft) -> list[str]:
    """Return the line that leaves out windows of the base, where the file has none yet."""
    return [f"without: {yaml_line(gone)}"] if gone and "without" not in draft.heads else []


_NOTHING: Final = _Block([], [])


def _that_say_the_same(
    blocks: Mapping[str, _Block], old: Mapping[str, LayoutEntry], workspace: Where, layout: Layout
) -> dict[str, str]:
    """Return which windows of a layout say what one of a former text says, which may have had another rank then."""
    if workspace != layout.workspace:
        return {}  # the same words would say something else
    texts = {str(entry_map(old[name], workspace)): name for name in blocks}
    found = {}
    for name, entry in zip(names_of(layout.entries), layout.entries, strict=True):
        former = texts.pop(str(entry_map(entry, workspace)), None)
        if former:
            found[name] = former
    return found


def _blocks(text: str) -> tuple[Mapping[str, _Block], list[str]]:
    """Return the lines of each key of the file, and what stands behind the last."""
    lines = text.splitlines()
    node = yaml.compose(text, Loader=Loader)
    if not isinstance(node, yaml.MappingNode) or node.flow_style or any("\t" in line[:1] for line in lines):
        raise _StrangeError
    starts = [key.start_mark.line for key, _ in node.value]
    if any(key.start_mark.column for key, _ in node.value) or len(set(starts)) < len(starts):
        raise _StrangeError
    blocks: dict[str, _Block] = {}
    lead, pending = _split(lines[: starts[0]]) if starts else ([], [])
    lead = [*lead, *pending]
    if any(line.strip() in ("---", "...") or line.startswith("%") for line in lines):
        raise _StrangeError
    for (key, value), start, stop in zip(node.value, starts, [*starts[1:], len(lines)], strict=True):
        own, after = _split(lines[start:stop])
        blocks[key.value] = _Block(lead, own, _behind(lines, value))
        lead = after
    return blocks, lead


def _items(text: str) -> tuple[list[_Block], str]:
    """Return the lines of each window of the first arrangement, and what stands before their dashes."""
    lines = text.splitlines()
    node = yaml.compose(text, Loader=Loader)
    pairs = node.value if isinstance(node, yaml.MappingNode) else []
    found = next((value for key, value in pairs if key.value == WINDOWS), None)
    if found is None or not found.value:
        return [], ""
    if found.flow_style:
        raise _StrangeError
    block = _blocks(text)[0][WINDOWS]
    first = next(key for key, _ in pairs if key.value == WINDOWS).start_mark.line
    end = first + len(block.lines)
    starts = [item.start_mark.line for item in found.value]
    if len(set(starts)) < len(starts) or starts[0] == first:
        raise _StrangeError
    lead, dash = lines[first + 1 : starts[0]], lines[starts[0]].partition("-")[0]
    items = []
    for item, start, stop in zip(found.value, starts, [*starts[1:], end], strict=True):
        own, after = _split(lines[start:stop])
        items.append(_Block(lead, own, _behind(lines, item)))
        lead = after
    if lead:
        raise _StrangeError  # cannot be: the block ends with its last value
    return items, dash


def _split(lines: Sequence[str]) -> tuple[list[str], list[str]]:
    """Return lines, and the comments and blank lines at their end, which belong to what follows."""
    end = len(lines)
    while end and (not lines[end - 1].strip() or lines[end - 1].lstrip().startswith("#")):
        end -= 1
    return list(lines[:end]), list(lines[end:])


def _behind(lines: Sequence[str], node: yaml.Node) -> str:
    """Return the comment behind a value that ends on the line on which it begins, with the space before it."""
    if node.start_mark.line != node.end_mark.line:
        return ""
    rest = lines[node.end_mark.line][node.end_mark.column :]
    return rest.rstrip() if rest.lstrip().startswith("#") else ""


def comments(text: str) -> Counter[str]:
    """Return the comments that stand on lines of their own."""
    return Counter(line.strip() for line in text.splitlines() if line.lstrip().startswith("#"))


def _with_comments(former: str, text: str) -> str:
    """Return a text with the comments of the former one that it has not kept at its beginning."""
    lost = list((comments(former) - comments(text)).elements())
    return "\n".join([*lost, text]) if lost else text
