"""Write `src/jaklet/checks/reserved.json` from the tables of chords that others own, `reserved/*.yaml` beside it.

Run: python tools/make_owners.py
"""

import json
from pathlib import Path

from jaklet.config.reading import ConfigReading
from jaklet.config.reserved_reading import read_reserved
from jaklet.yaml_files.reader import documents, read_source

FOLDER = Path(__file__).parent.parent / "src" / "jaklet" / "checks"
OUT = FOLDER / "reserved.json"


def text() -> str:
    """Return the whole table, a line for each chord."""
    reading = ConfigReading(programs=None)  # type: ignore[arg-type]  # no table launches anything
    for path in sorted((FOLDER / "reserved").glob("*.yaml")):
        source = read_source(path, path.name, reading.found)
        for root in documents(source, reading.found, reading.broken) if source else ():
            for _, value in root.pairs():
                read_reserved(value, reading)
    assert not reading.found, reading.found
    return "[\n" + ",\n".join(json.dumps(one) for one in reading.reserved) + "\n]\n"


if __name__ == "__main__":
    OUT.write_text(text())
