"""Write the tables of the manual that are made from tables of the code: fields of layouts, of the listener's status.

Run: python tools/make_tables.py
"""

import re
from collections.abc import Iterable
from pathlib import Path

from jaklet.core.keys.listener_status import STATUS
from jaklet.core.values import layout_fields

PAGES = Path(__file__).parent.parent / "docs"
MARK = "<!-- {}, by `make docs` -->"


def tables() -> dict[str, str]:
    """Return each table by the name in its mark."""
    layout = [
        *((one.key, one.meaning) for one in layout_fields.LAYOUT_FIELDS),
        *((one.key, one.meaning) for one in layout_fields.ARRANGEMENT_FIELDS),
        *((key, meaning) for key, (_, meaning) in layout_fields.ARRANGEMENT_LISTS.items()),
        *((key, meaning) for key, (_, meaning) in layout_fields.LAYOUT_LISTS.items()),
    ]
    return {
        "keys of a layout": _table("key", layout),
        "keys of a window": _table("key of a window", [(one.key, one.meaning) for one in layout_fields.ENTRY_FIELDS]),
        "fields of the status": _table("field", [(key, field.meaning) for key, field in STATUS.items()]),
    }


def _table(head: str, rows: Iterable[tuple[str, str]]) -> str:
    return f"| {head} | value |\n|---|---|\n" + "".join(f"| `{key}` | {meaning} |\n" for key, meaning in rows)


def written(text: str) -> str:
    """Return a page with its tables written anew: each stands between its mark and the next empty line."""
    for name, table in tables().items():
        mark = MARK.format(name)
        text = re.sub(rf"{re.escape(mark)}\n(?:\|.*\n)*", lambda _, new=f"{mark}\n{table}": new, text)  # type: ignore[misc]
    return text


if __name__ == "__main__":
    for page in PAGES.rglob("*.md"):
        page.write_text(written(page.read_text()))
