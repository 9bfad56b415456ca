"""Write the tables of layout keys in `docs/files.md` from the fields of layouts.

Run: python tools/make_files.py
"""

import re
from collections.abc import Iterable
from pathlib import Path

from jaklet.core.values import layout_fields

PAGE = Path(__file__).parent.parent / "docs" / "files.md"
MARK = "<!-- {}, by `make docs` -->"


def tables() -> dict[str, str]:
    """Return each table by the name in its mark."""
    arrangement = [(one.key, one.meaning) for one in layout_fields.ARRANGEMENT_FIELDS]
    layout = [
        *((one.key, one.meaning) for one in layout_fields.LAYOUT_FIELDS),
        *arrangement,
        *((key, meaning) for key, (_, meaning) in layout_fields.ARRANGEMENT_LISTS.items()),
        *((key, meaning) for key, (_, meaning) in layout_fields.LAYOUT_LISTS.items()),
    ]
    windows = [(one.key, one.meaning) for one in layout_fields.ENTRY_FIELDS]
    return {"keys of a layout": _table("key", layout), "keys of a window": _table("key of a window", windows)}


def _table(head: str, rows: Iterable[tuple[str, str]]) -> str:
    return f"| {head} | value |\n|---|---|\n" + "".join(f"| `{key}` | {meaning} |\n" for key, meaning in rows)


def page(text: str) -> str:
    """Return the page with its tables written anew: each stands between its mark and the next empty line."""
    for name, table in tables().items():
        mark = MARK.format(name)
        text = re.sub(rf"{re.escape(mark)}\n(?:\|.*\n)*", lambda _, new=f"{mark}\n{table}": new, text)  # type: ignore[misc]
    return text


if __name__ == "__main__":
    PAGE.write_text(page(PAGE.read_text()))
