"""Findings in the format that code hosts and editors read (SARIF 2.1.0, OASIS)."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any, Final
from urllib.parse import quote

from jaklet.core.values.findings import CATALOGUE, Finding
from jaklet.core.values.spans import Spot

SCHEMA: Final = "https://json.schemastore.org/sarif-2.1.0.json"


def sarif(findings: Sequence[Finding], version: str) -> dict[str, Any]:
    """Return one run of the check as a SARIF log."""
    codes = sorted({found.code for found in findings})
    rules = [
        {
            "id": code,
            "shortDescription": {"text": CATALOGUE[code].title},
            "defaultConfiguration": {"level": CATALOGUE[code].severity},
        }
        for code in codes
    ]
    driver = {"name": "Jaklet", "version": version, "rules": rules}
    return {
        "$schema": SCHEMA,
        "version": "2.1.0",
        "runs": [
            {
                "tool": {"driver": driver},
                "columnKind": "unicodeCodePoints",
                "results": [_result(found, codes.index(found.code)) for found in findings],
            }
        ],
    }


def _result(found: Finding, index: int) -> dict[str, Any]:
    free = f" Free: {', '.join(found.cures)}." if found.cures else ""
    result: dict[str, Any] = {
        "ruleId": found.code,
        "ruleIndex": index,
        "level": found.severity,
        "message": {"text": f"{found.cause}. {found.remedy}.{free}"},
        "locations": [_location(found.spot)],
    }
    if found.also:
        result["relatedLocations"] = [{**_location(spot), "message": {"text": word}} for spot, word in found.also]
    if found.cures:
        region = _region(found.spot)
        result["fixes"] = [
            {
                "description": {"text": f"bind {cure} instead"},
                "artifactChanges": [
                    {
                        "artifactLocation": {"uri": _uri(found.spot.path)},
                        "replacements": [{"deletedRegion": region, "insertedContent": {"text": cure}}],
                    }
                ],
            }
            for cure in found.cures
        ]
    return result


def _location(spot: Spot) -> dict[str, Any]:
    return {"physicalLocation": {"artifactLocation": {"uri": _uri(spot.path)}, "region": _region(spot)}}


def _region(spot: Spot) -> dict[str, int]:
    return {"startLine": spot.line, "startColumn": spot.column, "endColumn": spot.end}


def _uri(path: str) -> str:
    """Return a path as a URI reference: `file://` for a whole one, else relative to where the check was made."""
    return Path(path).as_uri() if Path(path).is_absolute() else quote(path)
