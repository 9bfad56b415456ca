"""The section `workspaces`: names for their numbers."""

from dataclasses import replace
from typing import Final

from jaklet.config import fields
from jaklet.config.fields import Table
from jaklet.config.reader import Value
from jaklet.config.reading import Reading, once
from jaklet.core.language.slots import MOST_WORKSPACES, name_problem
from jaklet.core.values.findings import finding

WORKSPACE_KEYS: Final[Table] = {"name": fields.text}


def read_workspaces(value: Value, reading: Reading) -> None:
    """Read numbers with their names: `2: mail`, or `2: {name: mail}`."""
    names = {**reading.config.workspaces}
    for key, number, item in fields.mapping(value, "workspaces", reading.found):
        if not (number.isascii() and number.isdigit() and 1 <= int(number[:9]) <= MOST_WORKSPACES):
            problem = f"no workspace has the number {number!r}"
            remedy = f"write a number from 1 to {MOST_WORKSPACES}, and then its name: {{2: mail}}"
            reading.found.append(finding("JK108", key.spot, problem=problem, remedy=remedy))
            continue
        what = f"workspace {number}"
        name = item.text if not item.is_map else fields.fields(item, what, WORKSPACE_KEYS, reading.found).get("name")
        if name is None:
            if not item.is_map:
                fields.wrong(item, f"the name of {what}", "a name", reading.found, "write it like: 2: mail")
            continue
        problem = name_problem(name)
        if problem or name.isdigit():
            problem = problem or f"{name!r} cannot be a name: it is a number"
            reading.found.append(finding("JK108", item.spot, problem=problem, remedy="choose another name"))
        elif once("workspace", item, name, reading):
            names[name] = int(number)
    reading.config = replace(reading.config, workspaces=names)
