"""jaklet explain"""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import FormatOption, OutputFormat
from jaklet.core.values.errors import UsageError
from jaklet.core.values.findings import CATALOGUE
from jaklet.core.values.words import did_you_mean

if TYPE_CHECKING:
    from jaklet.checks.explaining import Explanation


def explain(
    code: Annotated[
        str | None,
        typer.Argument(
            metavar="[CODE]", help="A finding such as JK203; without it, all are listed.", show_default=False
        ),
    ] = None,
    form: FormatOption = OutputFormat.text,
) -> None:
    """Explain a finding of `jaklet check`.

    Why it is one, with an example that has it and one that has not.

    Example: jaklet explain JK205
    """
    if code is None:
        from jaklet.drawing.tables import table_text

        rows = [(name, kind.severity, kind.title) for name, kind in CATALOGUE.items()]
        if form is OutputFormat.json:
            terminal.say_json([dict(zip(("code", "severity", "title"), row, strict=True)) for row in rows])
        else:
            heads = ("code", "severity", "finding")
            terminal.say(table_text(heads, rows, terminal.table_columns(), terminal.ink_for()))
        return
    from jaklet.checks.explaining import explanations

    name = code.upper()
    known = explanations()
    if name not in known:
        raise UsageError(f"there is no finding {code}", did_you_mean(name, known, "`jaklet explain` lists all", 0.75))
    if form is OutputFormat.json:
        terminal.say_json({"code": name, **CATALOGUE[name]._asdict(), **known[name]._asdict()})
    else:
        terminal.say(_told(name, known[name]))


def _told(code: str, explanation: "Explanation") -> str:
    kind, ink = CATALOGUE[code], terminal.ink_for()
    parts = [f"{ink(code, 'strong')} {kind.title} ({ink(kind.severity, kind.severity)})", explanation.why]
    if explanation.situation:
        parts.append(f"It is found, for example, with {explanation.situation}.")
    for head, files in (("A config that has it:", explanation.fires), ("One that has not:", explanation.silent)):
        parts += [head + "\n" + _files(files)] if files else []
    return "\n\n".join(parts)


def _files(files: Mapping[str, str]) -> str:
    rows = []
    for name, text in files.items():
        rows += [f"  # {name}"] if len(files) > 1 else []
        rows += [f"  {line}" for line in text.rstrip().splitlines()]
    return "\n".join(rows)
