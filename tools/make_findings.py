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

`jaklet check` reports findings, each with a place in the file, a cause and a remedy. Where a chord is in the way, up to
three free chords are offered. `jaklet explain CODE` says what is below, and shows a file with the finding and one
without. `jaklet explain` lists all codes.

| severity | in the config | in a layout |
|---|---|---|
| error | the config is not used | the layout is not recalled |
| warning | something does not do what it says | the same |
| note | worth a thought | the same |

`check` exits with 1 for an error, with `--strict` also for a warning. A comment on the line, or alone on the line
above, silences a warning or note. It names the code and a reason:

```yaml
bindings:
  ctrl+p: go ledger        # silence JK212: nothing is printed in this office
```
"""


def page() -> str:
    """Return the text of the whole page."""
    rows = [HEAD.rstrip()]
    for prefix, title in PARTS.items():
        rows += [f"## {title}"]
        rows += [_section(code, explanations()[code]) for code in CATALOGUE if code.startswith(prefix)]
    return "\n\n".join(rows) + "\n"


def _section(code: str, explanation: Explanation) -> str:
    """Return the section on a code; an example of several files is left to `jaklet explain`."""
    kind = CATALOGUE[code]
    parts = [f"### {code}", f"*{kind.title}* ({kind.severity}). {explanation.why}"]
    if explanation.situation:
        parts.append(f"Example: {explanation.situation}.")
    if len(explanation.fires) == 1:
        parts += [f"```yaml\n{text.rstrip()}\n```" for text in explanation.fires.values()]
    return "\n\n".join(parts)


if __name__ == "__main__":
    OUT.write_text(page(), encoding="utf-8")
