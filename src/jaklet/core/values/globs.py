"""Patterns for names and titles: `*` is any run of characters, `?` any one; a backslash makes the next one plain.

Matching takes time linear in the text, whatever a title holds. Each piece between two stars is looked for once, from
left to right, and a match is never tried again elsewhere (atomic groups).
"""

import re
from functools import lru_cache
from typing import Final

ONE: Final = "one"  # tokens that are no single character
RUN: Final = "run"
LONGEST_PATTERN: Final = 200  # characters of a pattern
_TOKEN: Final = re.compile(r"\\([*?\\])|([*?])|(.)", re.DOTALL)


@lru_cache(maxsize=1024)
def glob_tokens(pattern: str) -> tuple[str, ...]:
    """Return the pattern's tokens: single characters, `ONE` and `RUN`."""
    found: list[str] = []
    for escaped, wild, plain in _TOKEN.findall(pattern):
        token = {"*": RUN, "?": ONE}.get(wild, escaped or plain)
        if not (token == RUN and found and found[-1] == RUN):
            found.append(token)
    return tuple(found)


def is_pattern(text: str) -> bool:
    """True if more than one text can match."""
    return any(token in (ONE, RUN) for token in glob_tokens(text))


def says_something(text: str) -> bool:
    """True if the pattern has any character of its own; `*` has none."""
    return any(token not in (ONE, RUN) for token in glob_tokens(text))


@lru_cache(maxsize=1024)
def _compiled(pattern: str) -> re.Pattern[str]:
    pieces = [""]
    for token in glob_tokens(pattern):
        if token == RUN:
            pieces.append("")
        else:
            pieces[-1] += "." if token == ONE else re.escape(token)
    if len(pieces) == 1:
        return re.compile(pieces[0], re.DOTALL)
    middle = "".join(f"(?>.*?{piece})" for piece in pieces[1:-1])
    return re.compile(f"{pieces[0]}{middle}.*{pieces[-1]}", re.DOTALL)


def matches(pattern: str, text: str) -> bool:
    """True if the whole text fits the pattern; upper and lower case differ."""
    return _compiled(pattern).fullmatch(text) is not None


def shortened_pattern(text: str) -> str:
    """Return a text as a pattern for itself that is short enough: one that is too long ends in `*`."""
    if len(text) <= LONGEST_PATTERN:
        return text
    start = ""
    for character in text:
        plain = f"\\{character}" if character in "*?\\" else character
        if len(start) + len(plain) >= LONGEST_PATTERN:
            break
        start += plain
    return f"{start}*"


def overlap(one: str, other: str) -> bool:
    """True if some text fits both patterns."""
    a, b = glob_tokens(one), glob_tokens(other)
    reached, left = {(0, 0)}, [(0, 0)]
    while left:
        i, j = left.pop()
        if (i, j) == (len(a), len(b)):
            return True
        x, y = a[i] if i < len(a) else None, b[j] if j < len(b) else None
        steps = []
        if x == RUN:
            steps += [(i + 1, j)] + ([(i, j + 1)] if y is not None else [])
        elif y == RUN:
            steps += [(i, j + 1)] + ([(i + 1, j)] if x is not None else [])
        elif x is not None and y is not None and (x == y or ONE in (x, y)):
            steps.append((i + 1, j + 1))
        for step in steps:
            if step not in reached:
                reached.add(step)
                left.append(step)
    return False
