"""Make the manual pages of the manual: jaklet.1, jaklet.yaml.5, jaklet-actions.7 (man-pages(7)): make docs"""

import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

from markdown_it import MarkdownIt
from markdown_it.token import Token

ROOT = Path(__file__).parents[1]
OUT = ROOT / "man"


class Page(NamedTuple):
    """A page: its name and section, the line of what it is about, the file of the manual that it is made of."""

    name: str
    section: int
    about: str
    source: str
    synopsis: str
    see: str


PAGES = (
    Page("jaklet", 1, "hotkeys, window places and named layouts, checked before use", "commands.md",
         "jaklet COMMAND [OPTIONS] [WORDS]", "jaklet.yaml(5), jaklet-actions(7)"),
    Page("jaklet.yaml", 5, "the files of Jaklet: config, layouts, trials, tabletops", "files.md",
         "~/.config/jaklet/jaklet.yaml", "jaklet(1), jaklet-actions(7)"),
    Page("jaklet-actions", 7, "what a key, a word, a macro's step or an event of Jaklet can do", "actions.md",
         "CHORD: ACTION", "jaklet(1), jaklet.yaml(5)"),
)  # fmt: skip


def made(page: Page) -> str:
    """Return a page in the language of man(7)."""
    text = (ROOT / "docs" / page.source).read_text()
    tokens = MarkdownIt("commonmark").enable("table").parse(text)
    title = f'.TH {page.name.upper()} {page.section} "" Jaklet "The manual of Jaklet"'
    head = [
        title,
        ".SH NAME",
        f"{escaped(page.name)} \\- {escaped(page.about)}",
        ".SH SYNOPSIS",
        f".B {escaped(page.synopsis)}",
    ]
    lines = [*head, ".SH DESCRIPTION", *_blocks(tokens), ".SH SEE ALSO", escaped(page.see)]
    return "\n".join(lines) + "\n"


def escaped(text: str) -> str:
    """Return text in which nothing is a request or an escape."""
    text = text.replace("\\", "\\e").replace("-", "\\-").replace("'", "\\(aq").replace("`", "\\(ga")
    text = "".join(letter if ord(letter) < 128 else f"\\[u{ord(letter):04X}]" for letter in text)
    return f"\\&{text}" if text.startswith((".", "\\(aq")) else text


def _blocks(tokens: Sequence[Token]) -> Iterator[str]:
    row: list[str] = []
    in_head = in_item = False
    for at, token in enumerate(tokens):
        match token.type:
            case "heading_open":
                text = _inline(tokens[at + 1])
                if token.tag != "h1":
                    yield f".SH {text.upper()}" if token.tag == "h2" else f".SS {text}"
            case "thead_open" | "thead_close":
                in_head = token.type == "thead_open"
            case "tr_open":
                row = []
            case "th_open" | "td_open":
                row.append(_inline(tokens[at + 1]))
            case "tr_close" if not in_head:
                *names, told = row
                yield from (".TP", " ".join(name for name in names if name) or "\\&", told or "\\&")
            case "list_item_open":
                in_item = True
                yield from (".IP \\(bu 2",)
            case "list_item_close":
                in_item = False
            case "paragraph_open":
                if not in_item:
                    yield ".PP"
                yield _inline(tokens[at + 1])
            case "fence" | "code_block":
                yield from (
                    ".PP",
                    ".nf",
                    ".RS",
                    *(escaped(line) for line in token.content.rstrip("\n").split("\n")),
                    ".RE",
                    ".fi",
                )


def _inline(token: Token) -> str:
    parts = []
    for one in token.children or ():
        match one.type:
            case "code_inline":
                parts.append(f"\\fB{escaped(one.content)}\\fR")
            case "strong_open" | "em_open":
                parts.append("\\fI")
            case "strong_close" | "em_close":
                parts.append("\\fR")
            case "softbreak" | "hardbreak":
                parts.append(" ")
            case "text":
                parts.append(escaped(one.content))
    text = re.sub(r"(\\&)+", r"\\&", "".join(parts))
    return f"\\&{text}" if text.startswith((".", "'")) else text


def pages() -> dict[Path, str]:
    """Return all pages, by their files."""
    return {OUT / f"{page.name}.{page.section}": made(page) for page in PAGES}


if __name__ == "__main__":
    OUT.mkdir(exist_ok=True)
    for path, text in pages().items():
        path.write_text(text)
