"""Write `src/jaklet/keyboards/tables/*.json` from the X keyboard data (Debian packages xkb-data and x11-xkb-utils).

Run: python tools/make_keyboards.py

Each table says what is on the keys of one keyboard, by XKB key name: keysyms, up to four levels (plain, Shift, AltGr,
AltGr and Shift). What is the same on all of them is in `common.json`, with keycodes of the evdev driver.
"""

import json
import re
import subprocess
from pathlib import Path

OUT = Path(__file__).parent.parent / "src" / "jaklet" / "keyboards" / "tables"
VARIANTS = {"dvorak": "us(dvorak)", "colemak": "us(colemak)"}
PLAIN = [
    "us", "gb", "de", "fr", "be", "ch", "es", "it", "pt", "br", "se", "no", "dk", "fi", "nl", "pl", "cz", "hu", "tr",
    "ca", "latam", "jp", *VARIANTS,
]  # fmt: skip
KEYMAP = """xkb_keymap {{
 xkb_keycodes {{ include "evdev+aliases(qwerty)" }};
 xkb_types {{ include "complete" }};
 xkb_compat {{ include "complete" }};
 xkb_symbols {{ include "pc+{symbols}+inet(evdev)" }};
}};"""
CODE = re.compile(r"^\s*<(.{1,4})> = (\d+);", re.M)
KEY = re.compile(r"key\s+<(.{1,4})>\s*\{(.*?)\};", re.S)
GROUP = re.compile(r"symbols\[Group1\]=\s*\[([^\]]*)\]|^\s*\[([^\]]*)\]")
NONE = ("NoSymbol", "VoidSymbol")


def compiled(symbols: str) -> str:
    """Return the whole keymap as text."""
    return subprocess.run(
        ["xkbcomp", "-w", "0", "-xkb", "-", "-"],
        input=KEYMAP.format(symbols=symbols),
        capture_output=True,
        text=True,
        check=True,
    ).stdout


def rows_of(keymap: str) -> dict[str, list[str]]:
    """Return the keysyms of each key in group 1, no symbol as an empty text."""
    rows = {}
    for name, body in KEY.findall(keymap[keymap.index("xkb_symbols") :]):
        found = GROUP.search(body)
        if not found:
            continue
        row = [keysym.strip() for keysym in (found[1] or found[2] or "").split(",")][:4]
        row = ["" if keysym in NONE else keysym for keysym in row]
        while row and not row[-1]:
            row.pop()
        if row:
            rows[name] = row
    return rows


def write(path: Path, head: dict[str, object], keys: dict[str, object]) -> None:
    """Write a table, one key a line."""
    lines = ",\n".join(f"  {json.dumps(name)}: {json.dumps(row)}" for name, row in sorted(keys.items()))
    top = "".join(f" {json.dumps(name)}: {json.dumps(value)},\n" for name, value in head.items())
    path.write_text(f'{{\n{top} "keys": {{\n{lines}\n }}\n}}\n')


def main() -> None:
    """Write all tables."""
    version = subprocess.run(
        ["dpkg-query", "-W", "-f", "${Version}", "xkb-data"], capture_output=True, text=True, check=True
    ).stdout
    keymaps = {name: compiled(VARIANTS.get(name, name)) for name in PLAIN}
    tables = {name: rows_of(keymap) for name, keymap in keymaps.items()}
    first = tables["us"]
    common = {key: row for key, row in first.items() if all(table.get(key) == row for table in tables.values())}
    codes = {name: int(code) for name, code in CODE.findall(keymaps["us"])}
    OUT.mkdir(parents=True, exist_ok=True)
    source = f"Debian xkb-data {version}: symbols/"
    write(OUT / "common.json", {"source": source + "pc, inet(evdev)", "codes": codes}, dict(common))
    for name, table in tables.items():
        own = {key: row for key, row in table.items() if key not in common}
        write(OUT / f"{name}.json", {"source": source + VARIANTS.get(name, name)}, dict(own))


if __name__ == "__main__":
    main()
