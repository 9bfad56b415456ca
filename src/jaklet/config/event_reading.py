"""The section `events`: events, and what they start."""

from typing import Final

from jaklet.config.binding_reading import SCOPE_KEYS, read_scope
from jaklet.config.bound_actions import DOING_KEYS, read_done
from jaklet.config.reading import ConfigReading, Mention
from jaklet.core.language.event_kinds import parse_event
from jaklet.core.values.event_bindings import EventBinding
from jaklet.core.values.json_schema import TEXT, any_of, by_name, some
from jaklet.core.values.sentences import names_in
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Table
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import table_schema, with_schema

EVENT_KEYS: Final[Table] = {**DOING_KEYS, **SCOPE_KEYS}
_read_event = fields.sentence("JK315", "JK315", parse_event, "window of radio opens")


@with_schema(lambda: by_name(some(any_of(TEXT, table_schema(EVENT_KEYS, needed=["do"], of="binding")))))
def read_events(value: Value, reading: ConfigReading) -> None:
    """Read the section `events`: event sentences, each with what is done then, or a list of that."""
    events = list(reading.config.events)
    for key, _, item in fields.mapping(value, "events", reading.found):
        heard = _read_event(key, "an event", reading.found)
        for one in item.items() if item.is_list else (item,):
            done = read_done(one, key.spot, "this event", EVENT_KEYS, reading)
            if heard is None or done is None:
                continue
            scope = read_scope(one, done.read, reading)
            events.append(
                EventBinding(
                    heard.kind, heard.refs, done.action, key.spot, heard.text, scope, done.read.get("note", "")
                )
            )
        if heard:
            names = (name for ref in heard.refs for name in names_in(ref))
            reading.mentions += [Mention(name.kind, name.name, key.part(name.start, name.end)) for name in names]
    reading.config = reading.config._replace(events=tuple(events))
