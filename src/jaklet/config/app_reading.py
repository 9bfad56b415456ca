"""The section `apps`: how programs are launched, and which windows are theirs."""

from collections.abc import Mapping
from typing import Any, Final

from jaklet.config.bound_actions import done_schema, read_done
from jaklet.config.desktop_entry_apps import NoSuchEntryError, with_entry
from jaklet.config.reading import ConfigReading, good_name
from jaklet.core.language.verbs import VERBS, traits_of
from jaklet.core.values.apps import RULE_PARTS, App, WindowRule, default_rule, exactly
from jaklet.core.values.desk import DIALOG, NORMAL
from jaklet.core.values.desktop_entries import EntryError
from jaklet.core.values.findings import finding
from jaklet.core.values.json_schema import TEXT, any_of, by_name, list_of, some
from jaklet.core.values.sentences import Action
from jaklet.core.values.sharings import FIRST, LAST, NO, YES
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import alike, either, nearest
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Found, Table
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import table_schema, with_schema


@with_schema(lambda: some(table_schema(RULE_KEYS)))
def _windows(value: Value, what: str, found: Found) -> tuple[WindowRule, ...] | None:
    """Read one rule, or a list of rules of which any will do."""
    rules = [_rule(item, what, found) for item in (value.items() if value.is_list else (value,))]
    return tuple(rule for rule in rules if rule) or None


def _rule(value: Value, what: str, found: Found) -> WindowRule | None:
    before = len(found)
    read = fields.fields(value, what, RULE_KEYS, found)
    if not read and len(found) == before:
        remedy = "name the window's class: window: {class: BerthBoard}"
        found.append(finding("JK106", value.spot, what=what, key=either(list(RULE_PARTS)), remedy=remedy))
    return WindowRule(tuple((part, read[part]) for part in RULE_PARTS if part in read)) if read else None


RULE_KEYS: Final[Table] = {
    part: fields.choice(NORMAL, DIALOG) if part == "kind" else fields.pattern for part in RULE_PARTS
}


@with_schema(any_of(TEXT, list_of(TEXT)))
def launch(value: Value, what: str, found: Found) -> tuple[tuple[str, ...], Spot] | None:
    """Read a command, and where its program stands."""
    read = fields.command(value, what, found)
    if read is None:
        return None
    first = next(value.items()) if value.is_list else value
    spot = first.spot
    return read, spot._replace(end=min(spot.end, spot.column + len(read[0])))


@with_schema(TEXT)
def _entry(value: Value, what: str, found: Found) -> tuple[str, Spot] | None:
    read = fields.text(value, what, found)
    return (read, value.spot) if read else None


GO_THERE, BRING_HERE = "go there", "bring here"
CLOSES, MINIMISES = "close", "minimise"  # what becomes of its windows when they are to be closed
APP_KEYS: Final[Table] = {
    "launch": launch,
    "entry": _entry,
    "window": _windows,
    "in": fields.text,
    "env": fields.texts,
    "from afar": fields.choice(GO_THERE, BRING_HERE),
    "closing": fields.choice(CLOSES, MINIMISES),
    "opens": fields.later(lambda: some(done_schema())),
    "wait": fields.seconds,
    "least": fields.size,
    "types": fields.truth,
    "layouts may press": fields.chords,
    "arranged": fields.choice(NO, YES, FIRST, LAST),
}


@with_schema(lambda: by_name(table_schema(APP_KEYS, of="app")))
def read_apps(value: Value, reading: ConfigReading) -> None:
    """Read the section `apps`."""
    apps: dict[str, App] = {}
    for key, name, item in fields.mapping(value, "apps", reading.found):
        if not good_name(key, name, "app", reading):
            continue
        before = len(reading.found)
        read = fields.fields(item, f"app {name}", APP_KEYS, reading.found)
        app = _app(name, read, key.spot, reading)
        if "window" not in read and item.is_map and any(part.text == "window" for part, _ in item.pairs()):
            app = app._replace(rules=())  # what was meant is not known, and is not guessed
        if not app.rules:
            if len(reading.found) == before and "entry" not in read:
                remedy = f"write {name}: {{launch: PROGRAM, window: {{class: CLASS}}}}"
                reading.found.append(finding("JK106", key.spot, what=f"app {name}", key="launch", remedy=remedy))
            app = app._replace(rules=(exactly(cls=""),))  # keeps the name known, so that its uses are not reported too
        apps[name] = app
    reading.config = reading.config._replace(apps={**reading.config.apps, **apps})


def _opens(value: Value, name: str, reading: ConfigReading) -> tuple[Action, ...]:
    """Read what is done with each new window: an action, or a list of them."""
    actions = []
    for item in value.items() if value.is_list else (value,):
        done = read_done(item, item.spot, f"opens of app {name}", {}, reading)
        if done is None:
            continue
        fitting = traits_of(done.action).with_new
        if fitting and not done.action.named("APP"):
            actions.append(done.action)
            continue
        verbs = either([verb.name for verb in VERBS.values() if verb.traits.with_new])
        problem = f"{done.action.verb} cannot be done with a new window"
        if fitting:
            problem = "it is the new window that is placed, and not another app's"
        reading.found.append(finding("JK312", item.spot, problem=problem, remedy=f"use {verbs}, without an app"))
    return tuple(actions)


def _app(name: str, read: Mapping[str, Any], spot: Spot, reading: ConfigReading) -> App:
    """Return an app of what could be read; without rules where there is too little."""
    command, where = read.get("launch", ((), spot))
    app = App(
        name,
        command,
        read.get("window", ()),
        folder=read.get("in", ""),
        environment=read.get("env", ()),
        bring_here=read.get("from afar") == BRING_HERE,
        stays=read.get("closing") == MINIMISES,
        opens=_opens(read["opens"], name, reading) if "opens" in read else (),
        guessed="window" not in read,
        wait=read.get("wait"),
        least=read.get("least"),
        types=read.get("types", False),
        may_press=read.get("layouts may press", ()),
        arranged=read.get("arranged", YES),
    )
    if command:
        reading.commands.append((command[0], where))
        app = app._replace(rules=app.rules or (default_rule(command),))
    if "entry" not in read:
        return app
    entry_id, where = read["entry"]
    if command:
        problem = f"app {name} has both `launch` and `entry`"
        reading.found.append(finding("JK108", where, problem=problem, remedy="keep the one that is to launch it"))
        return app
    try:
        return with_entry(app, entry_id, reading.programs)
    except NoSuchEntryError:
        wanted = entry_id.partition("#")[0]
        near = nearest(wanted, alike(wanted, reading.programs.entry_ids()), likeness=0.75)
        remedy = f"did you mean {either(near)}?" if near else "install it, or use `launch: PROGRAM`"
        reading.found.append(finding("JK403", where, name=entry_id, remedy=remedy))
    except EntryError as fault:
        reading.found.append(finding("JK404", where, name=entry_id, problem=str(fault), remedy="use `launch: PROGRAM`"))
    return app
