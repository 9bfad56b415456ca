"""Write the tables of the manual that are made from tables of the code: fields of layouts and of the status; rooms.

Run: python tools/make_tables.py
"""

import ast
import re
from collections.abc import Iterable
from pathlib import Path

from tests.test_layers import ROOMS

from jaklet.core.keys.listener_status import STATUS
from jaklet.core.values import layout_fields

ROOT = Path(__file__).parent.parent
PAGES = ROOT / "docs"
MARK = "<!-- {}, by `make docs` -->"


def tables() -> dict[str, str]:
    """Return each table by the name in its mark."""
    layout = [
        *((one.key, one.meaning) for one in layout_fields.LAYOUT_FIELDS),
        *((one.key, one.meaning) for one in layout_fields.ARRANGEMENT_FIELDS),
        *layout_fields.ARRANGEMENT_LISTS.items(),
        *layout_fields.LAYOUT_LISTS.items(),
    ]
    return {
        "keys of a layout": _table("key", layout),
        "keys of a window": _table("key of a window", [(one.key, one.meaning) for one in layout_fields.ENTRY_FIELDS]),
        "fields of the status": _table("field", [(key, field.meaning) for key, field in STATUS.items()]),
        "floors of the house": floors(),
        "rooms": rooms(),
    }


def floors() -> str:
    """Return the rooms as a drawing: each stands on rooms of lower floors alone."""
    height: dict[str, int] = {}

    def floor(room: str) -> int:
        if room not in height:
            height[room] = 1 + max((floor(below) for below in ROOMS[room] if below in ROOMS), default=0)
        return height[room]

    by_floor: dict[int, list[str]] = {}
    for room in ROOMS:
        by_floor.setdefault(floor(room), []).append(room)
    lines = [f"{number:>2}  {'  '.join(by_floor[number])}" for number in sorted(by_floor, reverse=True)]
    return "\n".join(["```", *lines, "```", ""])


def rooms() -> str:
    """Return the table of rooms: what is in each, and what it stands on."""
    rows = [
        f"| `{room}` | {_about(room)} | {', '.join(_below(room)) or 'nothing'} |"
        for room in ROOMS
        if room not in ("core", "__init__")
    ]
    return "\n".join(["| room | what is there | stands on |", "|---|---|---|", *rows, ""])


def _below(room: str) -> list[str]:
    """Return the rooms below one, all of the core as one word."""
    core = {one for one in ROOMS if one.startswith("core.")}
    below = ROOMS[room]
    return ["core", *sorted(below - core - {"core"})] if below >= core else sorted(below)


def _about(room: str) -> str:
    """Return the first sentence of a room's docstring."""
    path = ROOT / "src" / "jaklet" / room.replace(".", "/")
    text = path / "__init__.py" if path.is_dir() else path.with_suffix(".py")
    return re.split(r"(?<=\.)\s", ast.get_docstring(ast.parse(text.read_text())) or "")[0].rstrip(".")


def _table(head: str, rows: Iterable[tuple[str, str]]) -> str:
    return f"| {head} | value |\n|---|---|\n" + "".join(f"| `{key}` | {meaning} |\n" for key, meaning in rows)


def written(text: str) -> str:
    """Return a page with its tables written anew: each stands between its mark and the next empty line."""
    for name, table in tables().items():
        mark = MARK.format(name)
        text = re.sub(rf"{re.escape(mark)}\n(?:.+\n)*", lambda _, new=f"{mark}\n{table}": new, text)  # type: ignore[misc]
    return text


if __name__ == "__main__":
    for page in PAGES.rglob("*.md"):
        page.write_text(written(page.read_text()))
