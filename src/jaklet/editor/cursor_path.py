"""Where in a file of YAML something is being written, by its lines alone: half a file parses as nothing."""

from typing import Final, NamedTuple

from jaklet.core.values.regexes import regex

_KEY: Final = regex(r"(\s*(?:- +)*)((?:\"[^\"]*\"|'[^']*'|[^\s#:{\[\"'][^:{\[#]*?)):(?=\s|$)")
_FLOW_KEY: Final = regex(r"\s*(?:\"([^\"]*)\"|'([^']*)'|([^:{}\[\],]+?))\s*:(?=\s|$)")


class CursorPath(NamedTuple):
    """A place in a file. `path`: the keys that lead there; `is_key`: a key is being written, else the last one's value.

    `before`: what stands of the value, or of the key, before the cursor, without quotes.
    """

    path: tuple[str, ...]
    is_key: bool
    before: str


def cursor_path_at(lines: list[str], line: int, column: int) -> CursorPath:
    """Return where the cursor is. `line` and `column` count from 0."""
    here = lines[line][:column] if line < len(lines) else ""
    outer: list[tuple[int, str]] = []
    for number, text in enumerate(lines[: line + 1]):
        text = here if number == line else text
        plain = text.split(" #", 1)[0]
        if not plain.strip() or plain.lstrip().startswith("#"):
            continue
        indent = len(plain) - len(plain.lstrip(" -"))
        found = _KEY.match(plain)
        depth = len(found[1]) if found else indent
        while outer and outer[-1][0] >= depth:
            outer.pop()
        if found:
            outer.append((depth, found[2].strip("\"'")))
    path = tuple(key for _, key in outer)
    found = _KEY.match(here)
    if not found:
        rest = here.lstrip(" -")
        if rest[:1] in ("{", "["):
            return _in_value(_left(outer, here), rest)
        return CursorPath(_left(outer, here), True, rest.strip("\"'"))
    return _in_value(path, here[found.end() :])


def _left(outer: list[tuple[int, str]], here: str) -> tuple[str, ...]:
    """Return the keys around a key that is being written, by how far it is indented."""
    indent = len(here) - len(here.lstrip(" -"))
    return tuple(key for depth, key in outer if depth < indent)


def _in_value(path: tuple[str, ...], text: str) -> CursorPath:
    """Return where the cursor is in what stands behind a key: in braces, a key of their own or its value."""
    at, stack = 0, [*path]
    opened: list[int] = []
    begin = 0
    quote = ""
    for at, letter in enumerate(text):
        if quote:
            quote = "" if letter == quote else quote
        elif letter in "\"'" and not text[begin:at].strip():
            quote = letter
        elif letter == "{":
            opened.append(len(stack))
            begin = at + 1
        elif letter in "}]" and opened:
            del stack[opened.pop() :]
            begin = at + 1
        elif letter == "[":
            opened.append(len(stack))
            begin = at + 1
        elif letter == "," and opened:
            del stack[opened[-1] :]
            begin = at + 1
        elif letter == ":" and opened and (at + 1 == len(text) or text[at + 1] == " "):
            found = _FLOW_KEY.match(text[begin : at + 1])
            stack.append((found[1] or found[2] or found[3]).strip() if found else "")
            begin = at + 1
    part = text[begin:].lstrip()
    in_braces = bool(opened) and text.rfind("{", 0, begin + 1) > text.rfind("[", 0, begin + 1)
    is_key = in_braces and len(stack) == opened[-1]
    return CursorPath(tuple(stack), is_key, part.lstrip("\"'"))
