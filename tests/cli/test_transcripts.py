"""Commands on the harbour office's files, and all that they print, as transcripts that were read line by line.

A line `$ ` is a command; what it prints follows, errors behind `! `, and behind `? ` an exit status other than 0.
"""

import re
import shlex
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.conftest import Office

TRANSCRIPTS = sorted((Path(__file__).parent.parent / "data" / "transcripts").glob("*.txt"))
CHANGING = (  # what is another at each run: times of day, and how long something took
    (re.compile(r"\b(Mon|Tue|Wed|Thu|Fri|Sat|Sun|today|\d{4}-\d\d-\d\d) \d\d:\d\d(:\d\d)?\b *"), "WHEN "),
    (re.compile(r"(?<=presses, )\d+\.\d+ s"), "N s"),
)


def played(commands: Iterator[str], office: Office) -> Iterator[str]:
    """Yield the transcript of commands, one after another in one folder."""
    office.env["COLUMNS"] = "100"
    for command in commands:
        yield command
        done = office.jaklet(*shlex.split(command)[2:], status=None)
        shown = [*done.stdout.splitlines(), *(f"! {line}" for line in done.stderr.splitlines())]
        for line in shown:
            text = line.replace(str(office.folder), "OFFICE").rstrip()
            for pattern, word in CHANGING:
                text = pattern.sub(word, text)
            yield text
        if done.returncode:
            yield f"? {done.returncode}"


@pytest.mark.parametrize("path", TRANSCRIPTS, ids=lambda path: path.stem)
def test_commands_print_what_was_read(path: Path, office: Office) -> None:
    lines = path.read_text().splitlines()
    assert [*played((line for line in lines if line.startswith("$ ")), office)] == lines
