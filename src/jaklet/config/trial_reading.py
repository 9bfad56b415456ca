"""Trials, in the section `trials` of the config and in files of their own, `trials/*.yaml` beside it."""

from pathlib import Path
from typing import Final

from jaklet.config.paths import TABLETOP, kind_of
from jaklet.config.reading import ConfigReading, Mention
from jaklet.core.language.cursor import Cursor
from jaklet.core.language.slots import PLAIN_SLOTS
from jaklet.core.language.trials import Expectation, Trial, parse_expectation
from jaklet.core.values.chords import parse_keys
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.findings import finding
from jaklet.core.values.json_schema import TEXT, by_name, some
from jaklet.core.values.sentences import names_in, tests_of
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import Value, documents, read_source
from jaklet.yaml_files.schemas import table_schema, with_schema

WAIT: Final = "wait "


@with_schema(some(TEXT))
def _press(value: Value, what: str, found: Found) -> tuple[str, ...] | None:
    """Read what is pressed: chords, and `wait 5s` among them."""
    read = []
    for item in value.items() if value.is_list else (value,):
        text = fields.text(item, what, found)
        if text is None:
            continue
        try:
            if text.startswith(WAIT):
                PLAIN_SLOTS["TIME"](Cursor(text.removeprefix(WAIT)))
            else:
                parse_keys(text)
        except SentenceError as fault:
            shift = len(WAIT) if text.startswith(WAIT) else 0
            spot = item.part(fault.start + shift, fault.end + shift)
            code = "JK202" if fault.unknown else "JK201"
            found.append(finding(code, spot, problem=fault.message, remedy=fault.remedy))
            continue
        read.append(text)
    return tuple(read) or None


TRIAL_KEYS: Final[Table] = {
    "from": fields.text,
    "displays": fields.words,
    "press": _press,
    "expect": fields.later(some(TEXT)),
    "note": fields.text,
}


@with_schema(lambda: by_name(table_schema(TRIAL_KEYS, needed=["press", "expect"])))
def read_trials(value: Value, reading: ConfigReading) -> None:
    """Read trials by their names."""
    known = {trial.name: trial.spot for trial in reading.trials}
    for key, name, item in fields.mapping(value, "trials", reading.found):
        if name in known:
            also = ((known[name], "the first one"),)
            reading.found.append(finding("JK107", key.spot, also, name=name, inside="trials"))
            continue
        read = fields.fields(item, f"trial {name}", TRIAL_KEYS, reading.found)
        for needed, example in (("press", "[super+b]"), ("expect", "[front is berths]")):
            if needed not in read and not any(inner.text == needed for inner, _ in item.pairs() if item.is_map):
                remedy = f"add {needed}: {example}"
                reading.found.append(finding("JK106", key.spot, what=f"trial {name}", key=needed, remedy=remedy))
        expected = _expected(read["expect"], f"trial {name}", reading) if "expect" in read else ()
        start, displays, note = read.get("from", ""), read.get("displays", ()), read.get("note", "")
        trial = Trial(name, key.spot, read.get("press", ()), expected, start, displays, note)
        reading.trials.append(trial)


def _expected(value: Value, what: str, reading: ConfigReading) -> tuple[Expectation, ...]:
    read = []
    for item in value.items() if value.is_list else (value,):
        text = fields.text(item, f"an expectation of {what}", reading.found)
        if text is None:
            continue
        try:
            condition = parse_expectation(text)
        except SentenceError as fault:
            spot = item.part(fault.start, fault.end)
            reading.found.append(finding("JK314", spot, problem=fault.message, remedy=fault.remedy))
            continue
        if condition is not None:
            refs = (ref for test in tests_of(condition) for ref in test.refs)
            names = (name for ref in refs for name in names_in(ref))
            reading.mentions += [Mention(one.kind, one.name, item.part(one.start, one.end)) for one in names]
        read.append(Expectation(" ".join(text.split()), item.spot, condition))
    return tuple(read)


def read_trial_files(folder: Path, shown: str, reading: ConfigReading) -> None:
    """Read the files `trials/*.yaml` beside a config; tabletops among them are left alone."""
    for path in sorted(folder.glob("*.yaml")) if folder.is_dir() else ():
        source = read_source(path, f"{shown}{path.name}", reading.found)
        if source is None:
            continue
        roots = [*documents(source, reading.found, reading.broken)]
        if kind_of(path, source.text) == TABLETOP:
            continue
        reading.sources[source.path] = source
        reading.files[source.path] = path
        for root in roots:
            for key, value in root.pairs() if root.is_map else ():
                if key.text == "trials":
                    read_trials(value, reading)
                else:
                    remedy = "write all of it below `trials:`"
                    reading.found.append(finding("JK103", key.spot, name=key.text or "", remedy=remedy))
