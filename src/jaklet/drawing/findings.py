"""Findings as text for people and as data for scripts."""

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any
from unicodedata import east_asian_width

from jaklet.core.values.findings import CATALOGUE, ERROR, NOTE, WARNING, Finding
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import counted, either, listed, printable
from jaklet.drawing.ink import PLAIN, Ink

MOST_COLUMNS = 160  # a longer line is cut around its caret


def findings_text(findings: Sequence[Finding], lines: Mapping[str, Sequence[str]], ink: Ink = PLAIN) -> str:
    """Return every finding: where, what, the line with a caret, what to do. `lines` per path."""
    return "\n\n".join(_one(found, lines, ink) for found in findings)


def _one(found: Finding, lines: Mapping[str, Sequence[str]], ink: Ink) -> str:
    where, what = ink(printable(str(found.spot)), "strong"), ink(f"{found.severity} {found.code}", found.severity)
    rows = [f"{where}: {what} {printable(found.cause)}", *_marked(found.spot, lines, ink)]
    for spot, word in found.also:
        rows += [f"  {printable(str(spot))}: {word}", *_marked(spot, lines, ink)]
    if found.cures:
        rows.append(f"  {ink('free:', 'good')} {printable(either(found.cures))}")
    if found.remedy:
        rows.append(f"  {ink('remedy:', 'good')} {printable(found.remedy)}")
    return "\n".join(rows)


def _marked(spot: Spot, lines: Mapping[str, Sequence[str]], ink: Ink) -> list[str]:
    """Return the line and a caret row below it; tabs and wide characters keep them in step."""
    known = lines.get(spot.path, ())
    line = known[spot.line - 1] if spot.line <= len(known) else ""
    if not line.strip():
        return []
    start, end = spot.column - 1, min(spot.end - 1, max(len(line), spot.column))
    if len(line) > MOST_COLUMNS:
        cut = max(0, start - MOST_COLUMNS // 2)
        line, start, end = line[cut : cut + MOST_COLUMNS], start - cut, min(end - cut, MOST_COLUMNS)
    shown = "".join(c if c == "\t" else printable(c) for c in line)
    pad = "".join("\t" if c == "\t" else " " * _cells(c) for c in line[:start])
    carets = "^" * max(1, sum(_cells(c) for c in line[start:end]))
    margin = f"{spot.line:>5} | "
    return [ink(margin, "faint") + shown, ink(" " * 5 + " | ", "faint") + pad + ink(carets, "caret")]


def _cells(character: str) -> int:
    return 2 if east_asian_width(character) in "WF" else 1


def summary(findings: Sequence[Finding]) -> str:
    """Return how many findings there are of which severity."""
    counts = Counter(found.severity for found in findings)
    return listed([counted(counts[severity], severity) for severity in (ERROR, WARNING, NOTE) if counts[severity]])


def findings_data(findings: Sequence[Finding]) -> list[dict[str, Any]]:
    """Return findings as plain data; columns count from 1, `end` is the column after the last one."""
    return [
        {
            "code": found.code,
            "severity": found.severity,
            "title": CATALOGUE[found.code].title,
            **found.spot._asdict(),
            "cause": found.cause,
            "remedy": found.remedy,
            "free": list(found.cures),
            "also": [{**spot._asdict(), "word": word} for spot, word in found.also],
        }
        for found in findings
    ]


def finding_line(found: Finding) -> str:
    """Return a finding on one line, for a log."""
    return printable(f"{found.spot}: {found.severity} {found.code}: {found.cause}; {found.remedy}")
