"""The section `workspaces`: names for their numbers."""

from typing import Any, Final, NamedTuple

from jaklet.config.reading import ConfigReading, Mention, define_once
from jaklet.core.language.sharings import EXAMPLE, parse_sharing
from jaklet.core.language.slots import MOST_WORKSPACES, name_problem
from jaklet.core.values.findings import finding
from jaklet.core.values.json_schema import TEXT, any_of, by_name
from jaklet.core.values.sentences import Ref
from jaklet.core.values.sharings import Sharing
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import table_schema, with_schema

_form: Final = fields.sentence("JK319", "JK319", parse_sharing, EXAMPLE)


class WrittenSharing(NamedTuple):
    """A form of sharing, and where it stands."""

    ref: Ref
    value: Value

    @property
    def mentions(self) -> list[Mention]:
        """The places that it names."""
        return [Mention(one.kind, one.name, self.value.part(one.start, one.end)) for one in self.ref.named]

    def taken(self, reading: ConfigReading) -> Sharing:
        """Return the form; the places that it names have to be there."""
        reading.mentions += self.mentions
        assert self.ref.sharing is not None  # its slot gives one
        return self.ref.sharing


@with_schema({**TEXT, "examples": [EXAMPLE]})
def sharing(value: Value, what: str, found: Found) -> WrittenSharing | None:
    """Read a form of sharing."""
    ref = _form(value, what, found)
    return None if ref is None else WrittenSharing(ref, value)


WORKSPACE_KEYS: Final[Table] = {"name": fields.text, "arranged": sharing}


@with_schema(lambda: by_name(any_of(TEXT, table_schema(WORKSPACE_KEYS))))
def read_workspaces(value: Value, reading: ConfigReading) -> None:
    """Read numbers with their names, and how they stay arranged: `2: mail`, `2: {name: mail, arranged: columns}`."""
    names: dict[str, int] = {**reading.config.workspaces}
    arranged: dict[int, Sharing] = {**reading.config.arranged}
    for key, number, item in fields.mapping(value, "workspaces", reading.found):
        if not (number.isascii() and number.isdigit() and 1 <= int(number[:9]) <= MOST_WORKSPACES):
            problem = f"no workspace has the number {number!r}"
            remedy = f"write a number from 1 to {MOST_WORKSPACES}, and then its name: {{2: mail}}"
            reading.found.append(finding("JK108", key.spot, problem=problem, remedy=remedy))
            continue
        what = f"workspace {number}"
        read: dict[str, Any] = {"name": item.text}
        if item.is_map:
            read = fields.fields(item, what, WORKSPACE_KEYS, reading.found)
        if "arranged" in read:
            arranged[int(number)] = read["arranged"].taken(reading)
            reading.spots["arranged", str(int(number))] = read["arranged"].value.spot
        name: str | None = read.get("name")
        if name is None:
            if not item.is_map:
                fields.report_wrong(item, f"the name of {what}", "a name", reading.found, "write it like: 2: mail")
            continue
        problem = name_problem(name)
        if problem or name.isdigit():
            problem = problem or f"{name!r} cannot be a name: it is a number"
            reading.found.append(finding("JK108", item.spot, problem=problem, remedy="choose another name"))
        elif define_once("workspace", item, name, reading):
            names[name] = int(number)
    reading.config = reading.config._replace(workspaces=names, arranged=arranged)
