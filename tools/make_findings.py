"""Write `docs/findings.md` from the catalogue of findings and its explanations.

Run: python tools/make_findings.py
"""

from pathlib import Path

from jaklet.checks.explaining import Explanation, explanations
from jaklet.core.values.findings import CATALOGUE

OUT = Path(__file__).parent.parent / "docs" / "findings.md"
PARTS = {
    "JK1": "The files",
    "JK2": "Keys",
    "JK3": "Actions, and what they name",
    "JK4": "Programs",
    "JK5": "Layouts",
    "JK6": "Macros and events",
    "JK7": "Desks",
}
HEAD = """# Findings

What `jaklet check` reports, each with its place in the file, its cause and a remedy; where a chord is in the way, with
up to three chords that are free. `jaklet explain CODE` tells what stands here, and shows a file that has none of it.
This page is made from the catalogue by `make docs`.

- An *error* in the config keeps it from being used; one in a layout keeps that layout from being recalled, and no more.
- A *warning* keeps nothing from being used, but something will not do what it says.
- A *note* is worth a thought.

`check` exits with 1 if there is an error, with `--strict` also for a warning. A warning or a note that has been thought
about can be silenced on its line, or on the line above, by its code and a reason:

```yaml
bindings:
  ctrl+p: go ledger        # silence JK212: nothing is printed in this office
```

The formats for scripts are described in [formats.md](formats.md).
"""


def page() -> str:
    """Return the whole page."""
    rows = [HEAD]
    for prefix, title in PARTS.items():
        codes = [code for code in CATALOGUE if code.startswith(prefix)]
        rows += [f"## {title}", "| code | severity | |\n|---|---|---|"]
        rows[-1] += "".join(
            f"\n| [{code}](#{code.lower()}) | {CATALOGUE[code].severity} | {CATALOGUE[code].title} |" for code in codes
        )
        rows += [_one(code, explanations()[code]) for code in codes]
    return "\n\n".join(rows) + "\n"


def _one(code: str, explanation: Explanation) -> str:
    parts = [f"### {code}", f"*{CATALOGUE[code].title}*. {explanation.why}"]
    if explanation.situation:
        parts.append(f"Found, for example, with {explanation.situation}.")
    files = explanation.fires
    if files:
        text = "\n".join(
            f"# {name}\n{text.rstrip()}" if len(files) > 1 else text.rstrip() for name, text in files.items()
        )
        parts.append(f"```yaml\n{text}\n```")
    return "\n\n".join(parts)


if __name__ == "__main__":
    OUT.write_text(page(), encoding="utf-8")
