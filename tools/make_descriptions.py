"""Take what keys of files mean from the manual, docs/files.md, into the package, for schemas: make docs"""

import json
import re
from pathlib import Path

ROOT = Path(__file__).parents[1]
MANUAL = ROOT / "docs" / "files.md"
OUT = ROOT / "src" / "jaklet" / "yaml_files" / "descriptions.json"
OF = {
    "key of the settings": "settings", "key of an app": "app",
    "key of a binding": "binding", "key of a layer": "layer", "key of a window": "window",
    "key of a tabletop": "tabletop", "key of a simulated display": "simulated display",
    "key of a simulated program": "simulated program", "key of a simulated window": "simulated window",
}  # fmt: skip
OWN = "own"  # in the manual's table of sections: what stands under a name of the user's
_LINK = re.compile(r"\[([^\]]*)\]\([^)]*\)")


def described(text: str) -> dict[str, dict[str, str]]:
    """Return, for each table of keys, its keys with what they mean."""
    found: dict[str, dict[str, str]] = {}
    of, part = "", ""
    for line in text.splitlines():
        if line.startswith("## "):
            part, of = line, ""
        cells = [cell.strip() for cell in re.split(r"(?<!\\)\|", line)[1:-1]] if line.startswith("|") else []
        if not cells or set(line) <= set("|-"):
            of = of if cells else ""
            continue
        if cells[0] == "section":
            of = "section"
        elif cells[0] in OF:
            of = OF[cells[0]]
        elif cells[0] == "key":
            of = "layout" if "layouts/" in part else ""
        elif of == "section" and cells[0] != "`settings`":  # it has no names of the user's, and a table of its own
            _add(found, cells[0].strip("`"), "", cells[1])
        elif of and of != "section":
            _add(found, of, cells[0], cells[1])
    return found


def _add(found: dict[str, dict[str, str]], of: str, keys: str, value: str) -> None:
    meaning = _LINK.sub(r"\1", value.replace("\\|", "|"))
    meaning = re.sub(r"([;,]? \w+\.md)+$", "", meaning)
    for key in re.findall(r"`([^`]+)`", keys) or [OWN]:
        found.setdefault(of, {}).setdefault(key, meaning[:1].upper() + meaning[1:])


def page() -> str:
    """Return what the file in the package should be."""
    return json.dumps(described(MANUAL.read_text()), indent=1, ensure_ascii=False, sort_keys=True) + "\n"


if __name__ == "__main__":
    OUT.write_text(page())
