"""YAML read at node level: every value keeps its position, duplicate keys stay visible, scalars stay text.

A fault in YAML ends the parser's work on a file. So that the rest of the file is still checked, the file is then
read again section by section, split where a line begins without space.
"""

import errno
import re
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from functools import cached_property
from itertools import pairwise
from pathlib import Path
from typing import Any, Final

import yaml

from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.regexes import regex
from jaklet.core.values.spans import Spot
from jaklet.files import read_ordinary


class Loader(getattr(yaml, "CSafeLoader", yaml.SafeLoader)):  # type: ignore[misc]
    """Composes nodes without what YAML takes their texts for, which takes a third of the time: readers know better.

    By libyaml where PyYAML was built with it, which is eight times as fast.
    """

    def resolve(self, kind: Any, value: Any, implicit: Any) -> str:
        """Return no tag."""
        return ""

    def descend_resolver(self, node: Any, index: Any) -> None:
        """Do without."""

    def ascend_resolver(self) -> None:
        """Do without."""


MOST_VALUES: Final = (
    250_000  # lines and commas, which is about what there can be of values; the parser takes 20 us each
)
SMALL: Final = 16  # pairs of a mapping that is looked through several times
DEEPEST: Final = 100  # values within values; a config needs six
_NUL: Final = regex(r"\\(?:0|x00|u0000|U00000000)")
_BRACKET: Final = regex(r"[\[\]{}]")
_INDENTED: Final = regex(rf"^[ \t?:-]{{{DEEPEST}}}", re.MULTILINE)
_BREAK: Final = regex("\r\n|[\n\r\x85\u2028\u2029]")  # the line breaks of YAML 1.1


class SourceFile:
    """The text of one file, and its name as the user would write it."""

    def __init__(self, path: str, text: str) -> None:
        self.path = path
        self.text = text
        plain = text.isascii() and "\r" not in text  # as nearly all are, and then it takes a tenth of the time
        self.lines = text.split("\n") if plain else _BREAK.split(text)

    def line(self, number: int) -> str:
        """Return a line, counted from 1; empty behind the end."""
        return self.lines[number - 1] if 0 < number <= len(self.lines) else ""

    def offset(self, number: int) -> int:
        """Return where a line begins in the text, both counted from 1 and 0."""
        return self.starts[number - 1]

    @cached_property
    def starts(self) -> list[int]:
        """Where each line begins in the text."""
        return [0, *(found.end() for found in _BREAK.finditer(self.text))]

    def spot(self, line: int, column: int, end: int) -> Spot:
        """Return a spot from a line and columns counted from 0."""
        return Spot(self.path, line + 1, column + 1, max(end, column + 1) + 1)


class Value:
    """A node of the file with its position. `text`: a scalar as it is written, quotes taken off; None for all else."""

    __slots__ = ("_pairs", "node", "source", "text")

    def __init__(self, source: SourceFile, node: yaml.Node) -> None:
        self.source = source
        self.node = node
        self._pairs: Sequence[tuple[Value, Value]] | None = None
        # A config can have a hundred thousand of these, each asked for its text several times.
        scalar = type(node) is yaml.ScalarNode and (node.value or node.style)
        self.text: str | None = node.value if scalar else None

    @property
    def is_map(self) -> bool:
        """True for a mapping."""
        return isinstance(self.node, yaml.MappingNode)

    @property
    def is_in_braces(self) -> bool:
        """True for a mapping that is written in braces."""
        return isinstance(self.node, yaml.MappingNode) and bool(self.node.flow_style)

    @property
    def is_list(self) -> bool:
        """True for a sequence."""
        return isinstance(self.node, yaml.SequenceNode)

    @property
    def is_empty(self) -> bool:
        """True where nothing is written."""
        node = self.node
        return isinstance(node, yaml.ScalarNode) and not node.value and not node.style

    @property
    def kind(self) -> str:
        """What this is, in words for a message."""
        if self.is_map:
            return "a mapping"
        if self.is_list:
            return "a list"
        return "empty" if self.is_empty else f"{self.text!r}"

    @property
    def spot(self) -> Spot:
        """The value's first line, quotes left out."""
        node = self.node
        start, end = node.start_mark, node.end_mark
        style = node.style if isinstance(node, yaml.ScalarNode) else None
        if self.text is not None and not style and start.line == end.line:  # as nearly all are
            return Spot(self.source.path, start.line + 1, start.column + 1, end.column + 1)
        quoted = style in ("'", '"')
        last = end.column - quoted if end.line == start.line else len(self.source.line(start.line + 1))
        return self.source.spot(start.line, start.column + quoted, last)

    def part(self, start: int, end: int) -> Spot:
        """Return the spot of some characters of the scalar; the whole of it where quoting moves them about."""
        spot = self.spot
        raw = self.source.line(spot.line)[spot.column - 1 : spot.end - 1]
        return spot.part(start, end) if raw == self.text else spot

    def pairs(self) -> Sequence[tuple["Value", "Value"]]:
        """Return keys and values of a mapping in the order of the file, duplicates too; of all else, none."""
        if self._pairs is not None:
            return self._pairs
        source, node = self.source, self.node
        written = node.value if isinstance(node, yaml.MappingNode) else ()
        pairs = [(Value(source, key), Value(source, value)) for key, value in written]
        if len(pairs) <= SMALL:
            self._pairs = pairs
        return pairs

    def items(self) -> Iterator["Value"]:
        """Return the items of a list; of all else, none."""
        for node in self.node.value if isinstance(self.node, yaml.SequenceNode) else ():
            yield Value(self.source, node)


_unsaved: Mapping[Path, str] = {}  # texts in the place of those on disk


@contextmanager
def unsaved(texts: Mapping[Path, str]) -> Iterator[None]:
    """Let files have other texts than those on disk, as an editor has them. `texts`: by whole paths, links followed."""
    global _unsaved  # one editor at a time
    former, _unsaved = _unsaved, texts
    try:
        yield
    finally:
        _unsaved = former


def read_source(path: Path, shown: str, found: list[Finding]) -> SourceFile | None:
    """Read a file; where it cannot be read as text, report why and return None."""
    start = Spot(shown, 1, 1, 2)
    try:
        text = _unsaved.get(path.resolve()) if _unsaved else None
        if text is None:
            text = read_ordinary(path).decode("utf-8-sig")
    except UnicodeDecodeError as fault:
        line = fault.object[: fault.start].count(b"\n") + 1
        column = fault.start - (fault.object.rfind(b"\n", 0, fault.start) + 1) + 1
        spot = Spot(shown, line, column, column + 1)
        found.append(finding("JK102", spot, problem="this is not UTF-8 text", remedy="save the file as UTF-8"))
        return None
    except (OSError, ValueError) as fault:  # a NUL in a path is a ValueError
        why = fault.strerror if isinstance(fault, OSError) else str(fault)
        odd = isinstance(fault, OSError) and fault.errno in (errno.EINVAL, errno.EFBIG)
        remedy = "is this the right file?" if odd else "check its path and permissions"
        found.append(finding("JK102", start, problem=f"the file cannot be read: {why}", remedy=remedy))
        return None
    if text.count("\n") + text.count(",") > MOST_VALUES:
        problem = f"the file has more than {MOST_VALUES:,} lines and commas"
        found.append(finding("JK102", start, problem=problem, remedy="is this the right file?"))
        return None
    return SourceFile(shown, text)


def documents(source: SourceFile, found: list[Finding], broken: set[str]) -> list[Value]:
    """Return the file's root values: one, or one per readable section where the whole does not parse.

    The names of the sections that do not parse are added to `broken`: what they define is not known.
    """
    if _too_deep(source.text):
        where = Spot(source.path, 1, 1, 2)
        found.append(finding("JK101", where, problem="it is nested too deeply", remedy="write it more simply"))
        return []
    try:
        node = yaml.compose(source.text, Loader=Loader)
        if node is not None and _NUL.search(source.text):
            _take_nuls_out(source, node, found)
        return [Value(source, node)] if node is not None else []
    except (yaml.YAMLError, RecursionError) as fault:
        faults = [_yaml_fault(source, fault, len(source.lines))]
    roots = []
    for first, stop in _sections(source):
        try:
            node = yaml.compose("\n" * first + "\n".join(source.lines[first:stop]) + "\n", Loader=Loader)
        except (yaml.YAMLError, RecursionError) as fault:
            faults.append(_yaml_fault(source, fault, stop))
            broken.add(source.lines[first].partition(":")[0].strip())
            continue
        if isinstance(node, yaml.MappingNode):
            _take_nuls_out(source, node, found)
            roots.append(Value(source, node))
    # The whole file's fault is one of its sections' too; keep one per line, the section's own where it has one.
    per_line = {fault.spot.line: fault for fault in faults[1:]} or {faults[0].spot.line: faults[0]}
    found.extend(per_line.values())
    return roots


def says_the_same(text: str, other: str) -> bool:
    """Return whether two texts of YAML have the same values; false where one of them does not parse."""

    def plain(node: yaml.Node | None) -> object:
        if isinstance(node, yaml.MappingNode):
            return [(plain(key), plain(value)) for key, value in node.value]
        if isinstance(node, yaml.SequenceNode):
            return ("list", [plain(one) for one in node.value])
        return (node.value, bool(node.style)) if isinstance(node, yaml.ScalarNode) else None

    try:
        both = [yaml.compose(one, Loader=Loader) for one in (text, other)]
        return plain(both[0]) == plain(both[1])
    except (yaml.YAMLError, RecursionError):
        return False


def _take_nuls_out(source: SourceFile, root: yaml.Node, found: list[Finding]) -> None:
    """Report every text with a NUL in it, which no path, program or X server takes, and go on without."""
    ahead, seen = [root], set[int]()
    while ahead:
        node = ahead.pop()
        if id(node) in seen:  # an alias
            continue
        seen.add(id(node))
        if isinstance(node, yaml.ScalarNode):
            if "\0" in node.value:
                problem = "there is a NUL in this text, which nothing can take"
                found.append(finding("JK108", Value(source, node).spot, problem=problem, remedy="leave \\0 out"))
                node.value = node.value.replace("\0", "")
        elif isinstance(node, yaml.MappingNode):
            ahead += [one for pair in node.value for one in pair]
        else:
            ahead += node.value


def _too_deep(text: str) -> bool:
    """Return whether values are nested deeper than any config: the parser would run out of its stack, and end us.

    Brackets and indentation tell of nearly all texts that they are not. For the rest the parser's events are counted,
    which takes as long as parsing, and no stack.
    """
    if _closes_soon("".join(_BRACKET.findall(text))) and not _INDENTED.search(text):
        return False
    depth = 0
    try:
        for event in yaml.parse(text, Loader=Loader):
            if isinstance(event, (yaml.MappingStartEvent, yaml.SequenceStartEvent)):
                depth += 1
                if depth > DEEPEST:
                    return True
            elif isinstance(event, (yaml.MappingEndEvent, yaml.SequenceEndEvent)):
                depth -= 1
    except yaml.YAMLError:
        pass  # the parser proper will say where; it comes no deeper than this one
    return False


def _closes_soon(brackets: str) -> bool:
    """Return whether brackets are surely not nested deeper than `DEEPEST`: the innermost pairs go, level by level."""
    for removed in range(DEEPEST):
        if removed + len(brackets) <= DEEPEST:
            return True
        former, brackets = brackets, brackets.replace("{}", "").replace("[]", "")
        if former == brackets:
            return False
    return False


def _sections(source: SourceFile) -> Iterator[tuple[int, int]]:
    """Yield the stretches that begin with an unindented key: first line and the one after the last, from 0."""
    starts = [i for i, line in enumerate(source.lines) if re.match(r"[^\s#\-\]}][^#]*:", line)]
    yield from pairwise([*starts, len(source.lines)])


_COLON: Final = "mapping values are not allowed in this context"
_KEY: Final = regex(r"\s*(?:- +)?[^\s:#][^:#]*: +")
_TAB: Final = "found character that cannot start any token"
_IN_WORDS: Final = {
    "mapping values are not allowed in this context": (
        "a `:` stands where no key can be",
        "quote the text, or indent the line as its neighbours are",
    ),
    "found a tab character that violates indentation": ("a tab stands where YAML wants spaces", "indent with spaces"),
    "did not find expected key": (
        "a key is expected here",
        "check the indentation, and that quotes and brackets are closed",
    ),
    "could not find expected ':'": ("a `:` is missing", "write `key: value`"),
    "did not find expected ',' or '}'": ("a `,` or `}` is missing", "close the bracket with }"),
    "did not find expected ',' or ']'": ("a `,` or `]` is missing", "close the bracket with ]"),
    "found unexpected end of stream": ("the file ends inside quotes", "close the quotes"),
    "found undefined alias": ("no anchor has this name", "quote the text: * begins an alias in YAML"),
}


QUOTING: Final = "a comma, a colon or a quote means something in YAML: put the whole value in quotes"


def quoted_line(source: SourceFile, line: int, column: int, closing: str = "") -> str:
    """Return how a value has to be written that YAML has cut in two: its line, the value in quotes.

    `column`: where the value begins, counted from 0. `closing`: what ends it, the end of the line if nothing does.
    """
    text = source.line(line)
    value = text[column:].rstrip()
    if closing:
        value = value[: value.rindex(closing) + 1] if closing in value[1:] else value
    if not value:
        return ""
    quoted = value.replace("'", "''")
    return f"{text[:column].lstrip()}'{quoted}'{text[column + len(value) :].rstrip()}"


def _yaml_fault(source: SourceFile, fault: yaml.YAMLError | RecursionError, stop: int) -> Finding:
    """Return the finding for a fault in the lines before `stop`."""
    mark = getattr(fault, "problem_mark", None) or getattr(fault, "context_mark", None)
    if mark is None:
        where = Spot(source.path, 1, 1, 2)
        problem = "it is nested too deeply" if isinstance(fault, RecursionError) else str(fault).splitlines()[0]
        return finding("JK101", where, problem=problem, remedy="write it more simply")
    line, column = mark.line, mark.column
    problem = getattr(fault, "problem", None) or "it is malformed"
    if line >= stop or not source.line(line + 1).strip():  # not behind the end, where there is nothing to see
        line = max((i for i, text in enumerate(source.lines[: min(line, stop)]) if text.strip()), default=0)
        column = len(source.line(line + 1))
    if problem == _TAB and source.line(line + 1)[column : column + 1] == "\t":
        words = ("a tab stands where YAML wants spaces", "indent with spaces")
    elif problem == _TAB:
        words = ("no value can begin with this character", "put the text in quotes")
    else:
        words = _IN_WORDS.get(problem, (problem, "check indentation, quotes and brackets around here"))
    key = _KEY.match(source.line(line + 1))
    if problem == _COLON and key and key.end() < column:
        words = (words[0], f"{QUOTING}: {quoted_line(source, line + 1, key.end())}")
    return finding("JK101", source.spot(line, column, column + 1), problem=words[0], remedy=words[1])
