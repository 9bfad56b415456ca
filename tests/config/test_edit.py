"""A place that is put into a config: all else stays as it is, to the byte."""

import pytest
import yaml

from jaklet.config.edit import with_place
from jaklet.core.values.errors import StoreError
from jaklet.yaml_files.reader import SourceFile

PLACE = "cells A1:C2 of 6x4"
CASES = {
    "an empty file": ("", f"places:\n  stern: {PLACE}\n"),
    "no section": ("apps: {}\n", f"apps: {{}}\n\nplaces:\n  stern: {PLACE}\n"),
    "no section, no end of line": ("apps: {}", f"apps: {{}}\n\nplaces:\n  stern: {PLACE}\n"),
    "behind the others": (
        "places:\n    bow: left 1/2  # here\n\n# keys\nbindings: {}\n",
        f"places:\n    bow: left 1/2  # here\n    stern: {PLACE}\n\n# keys\nbindings: {{}}\n",
    ),
    "behind one that is a mapping": (
        "places:\n  bow:\n    place: left 1/2\n    note: |\n      long\n\nbindings: {}\n",
        f"places:\n  bow:\n    place: left 1/2\n    note: |\n      long\n\n  stern: {PLACE}\nbindings: {{}}\n",
    ),
    "at the end of the file": ("places:\n  bow: left 1/2", f"places:\n  bow: left 1/2\n  stern: {PLACE}\n"),
    "in braces": ("places: {bow: left 1/2}  # few\n", f"places: {{bow: left 1/2, stern: {PLACE}}}  # few\n"),
    "in empty braces": ("places: {}\napps: {}\n", f"places: {{stern: {PLACE}}}\napps: {{}}\n"),
    "a section with nothing": ("places:  # none\napps: {}\n", f"places:  # none\n  stern: {PLACE}\napps: {{}}\n"),
    "lines of another system": (
        "places:\r\n  bow: left 1/2\r\n",
        f"places:\r\n  bow: left 1/2\r\n  stern: {PLACE}\r\n",
    ),
}


@pytest.mark.parametrize(("before", "after"), CASES.values(), ids=CASES)
def test_a_place_goes_in(before: str, after: str) -> None:
    assert with_place(SourceFile("jaklet.yaml", before), "stern", PLACE) == after
    assert yaml.safe_load(after)["places"]["stern"] == PLACE


@pytest.mark.parametrize("text", ["{apps: {}}", "- a list\n", "places: left\n", "apps: {}\n...\n"])
def test_where_there_is_no_room_it_says_what_to_write(text: str) -> None:
    with pytest.raises(StoreError, match="has no room") as fault:
        with_place(SourceFile("jaklet.yaml", text), "stern", PLACE)
    assert PLACE in fault.value.remedy
