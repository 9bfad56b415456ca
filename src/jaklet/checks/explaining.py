"""The long explanation of every finding, with examples."""

from collections.abc import Mapping
from functools import cache
from pathlib import Path
from typing import Final, NamedTuple

import yaml

FILE: Final = Path(__file__).parent / "explanations.yaml"
MAIN: Final = "jaklet.yaml"


class Explanation(NamedTuple):
    """Why something is a finding; files that have it, and files that do not, as text by name.

    `situation`: where no file shows it by itself, and there are no examples.
    """

    why: str
    fires: Mapping[str, str]
    silent: Mapping[str, str]
    situation: str


@cache
def explanations() -> Mapping[str, Explanation]:
    """Return all explanations by code."""
    read = yaml.load(FILE.read_text(encoding="utf-8"), Loader=getattr(yaml, "CSafeLoader", yaml.SafeLoader))
    return {
        code: Explanation(
            one["why"].strip(), _files(one.get("fires")), _files(one.get("silent")), one.get("situation", "")
        )
        for code, one in read.items()
    }


def _files(example: str | dict[str, str] | None) -> Mapping[str, str]:
    if example is None:
        return {}
    return {MAIN: example} if isinstance(example, str) else example
