"""Findings that the user has thought about, and silenced in the file: `# silence JK208: nothing is typed here`.

The comment stands on the line that the finding is about, or alone on the line above it. It names one code and gives a
reason. Errors cannot be silenced; a silence that silences nothing is a finding itself.
"""

from collections.abc import Iterable
from typing import Final, NamedTuple

from jaklet.core.values.findings import CATALOGUE, ERROR, Finding, finding
from jaklet.core.values.regexes import regex
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import did_you_mean
from jaklet.yaml_files.reader import SourceFile

MARK: Final = "silence"
_COMMENT: Final = regex(r"(?:^|\s)#\s*silence\s+(\S+?)(?::\s*(.*?))?\s*$")


class SilencedCheck(NamedTuple):
    """The findings that are left, with those about silences, and how many were silenced."""

    findings: list[Finding]
    silenced: int


class _Silence(NamedTuple):
    code: str
    spot: Spot
    lines: tuple[int, ...]  # where it holds


def apply_silences(findings: Iterable[Finding], sources: Iterable[SourceFile]) -> SilencedCheck:
    """Return the findings less those that the files silence."""
    faults: list[Finding] = []
    silences = [one for source in sources if MARK in source.text for one in _silences(source, faults)]
    if not silences:
        return SilencedCheck([*findings, *faults], 0)
    at = {(one.spot.path, line, one.code): one for one in silences for line in one.lines}
    left, used = [], set[_Silence]()
    for one in findings:
        silence = at.get((one.spot.path, one.spot.line, one.code))
        if silence is None:
            left.append(one)
        else:
            used.add(silence)
    silenced = sum(1 for one in findings) - len(left)
    stale = [finding("JK111", one.spot, silenced=one.code) for one in silences if one not in used]
    return SilencedCheck([*left, *faults, *stale], silenced)


def _silences(source: SourceFile, faults: list[Finding]) -> Iterable[_Silence]:
    for number, line in enumerate(source.lines, 1):
        found = _COMMENT.search(line) if MARK in line else None
        if not found:
            continue
        code, reason = found[1].removesuffix(":"), found[2]
        spot = Spot(source.path, number, found.start(1) + 1, found.end(1) + 1)
        kind = CATALOGUE.get(code)
        if kind is None:
            remedy = did_you_mean(code, CATALOGUE, "`jaklet explain` lists all codes", 0.75)
            faults.append(finding("JK112", spot, problem=f"there is no finding {code}", remedy=remedy))
        elif kind.severity == ERROR:
            problem = f"{code} is an error, and errors cannot be silenced"
            faults.append(finding("JK112", spot, problem=problem, remedy="mend what it is about"))
        elif not reason:
            problem = f"{code} is silenced without a reason"
            faults.append(finding("JK112", spot, problem=problem, remedy=f"write one: # silence {code}: REASON"))
        else:
            alone = line[: found.start()].strip() == ""
            yield _Silence(code, spot, (number, number + 1) if alone else (number,))
