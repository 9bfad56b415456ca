"""Schemas of the files: made from the tables by which they are read, so that they say the same."""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import jsonschema
import pytest
import yaml
from tools.make_descriptions import OUT, page

from jaklet.checks.explaining import explanations
from jaklet.config import (
    app_reading,
    binding_reading,
    bound_actions,
    build,
    event_reading,
    hand_reading,
    include,
    layout_keys,
    macro_reading,
    overlay_reading,
    reserved_reading,
    trial_reading,
    workspace_reading,
)
from jaklet.config.schema import SCHEMAS
from jaklet.demo.harbour import write_files
from jaklet.desktops.tabletop import reading as tabletops
from jaklet.desktops.tabletop.reading import tabletop_schema
from jaklet.yaml_files.schemas import schema_of
from tests.conftest import Office
from tests.test_manual import FILES, ROOT, examples

TABLES = {
    "settings": build.SETTING_KEYS, "display": build.DISPLAY_KEYS, "place": build.PLACE_KEYS, "app": app_reading.APP_KEYS,
    "rule": app_reading.RULE_KEYS, "binding": binding_reading.BINDING_KEYS, "layer": binding_reading.LAYER_KEYS,
    "done": bound_actions.DOING_KEYS, "event": event_reading.EVENT_KEYS, "hands": hand_reading.KEYS, "part": include.PART_KEYS,
    "layout": layout_keys.LAYOUT_KEYS, "window": layout_keys.ENTRY_KEYS, "shared": layout_keys.SHARED_KEYS,
    "macro": macro_reading.MACRO_KEYS, "overlay": overlay_reading.KEYS, "reserved": reserved_reading.TABLE_KEYS, "trial": trial_reading.TRIAL_KEYS,
    "workspace": workspace_reading.WORKSPACE_KEYS, "tabletop": tabletops.TABLETOP, "its display": tabletops.DISPLAY,
    "its program": tabletops.PROGRAM, "its window": tabletops.WINDOW, **{f"step {kind}": keys for kind, keys in macro_reading.STEP_KEYS.items()},
}  # fmt: skip
# Faults of structure, which a schema can know of: keys and sections that are not known, values of another kind, and
# what is missing. Not: what only the reader can know, such as names that are defined elsewhere.
STRUCTURE = {"JK103", "JK104"}


class Loader(yaml.SafeLoader):
    """YAML as editors read it (1.2): no truth values but true and false."""


Loader.yaml_implicit_resolvers = {
    first: [
        (tag, pattern)
        for tag, pattern in resolvers
        if tag not in ("tag:yaml.org,2002:bool", "tag:yaml.org,2002:timestamp")
    ]
    for first, resolvers in yaml.SafeLoader.yaml_implicit_resolvers.items()
}
Loader.add_implicit_resolver("tag:yaml.org,2002:bool", __import__("re").compile(r"^(?:true|false)$"), list("tf"))


def loaded(text: str) -> Any:
    """Return a file's data; keys are text, as schemas want them."""

    def plain(data: Any) -> Any:
        if isinstance(data, dict):
            return {str(key): plain(value) for key, value in data.items()}
        return [plain(item) for item in data] if isinstance(data, list) else data

    return plain(yaml.load(text, Loader=Loader)) or {}


def faults(kind: str, text: str) -> list[str]:
    schema = tabletop_schema() if kind == "tabletop" else SCHEMAS[kind]()
    jsonschema.Draft202012Validator.check_schema(schema)
    return [one.message for one in jsonschema.Draft202012Validator(schema).iter_errors(loaded(text))]


@pytest.mark.parametrize("name", TABLES)
def test_every_reader_says_what_it_reads(name: str) -> None:
    assert [key for key, reader in TABLES[name].items() if schema_of(reader) is None] == []


def positive() -> Iterator[tuple[str, str, str]]:
    for page_name in ("docs/recipes.md", "README.md"):
        for at, text in enumerate(examples((ROOT / page_name).read_text())):
            yield "config", f"{page_name} {at}", text
    for code, one in explanations().items():
        for path, text in one.silent.items():
            kind = "layout" if path.startswith("layouts/") else "config"
            if path.endswith(".yaml") and "tabletop" not in text and not path.startswith("trials/"):
                yield kind, f"{code} {path}", text


@pytest.mark.parametrize(("kind", "text"), [pytest.param(one[0], one[2], id=one[1]) for one in positive()])
def test_what_is_right_is_right_by_the_schema(kind: str, text: str) -> None:
    assert faults(kind, text) == []


def test_the_demo_and_the_manual_are_right_by_the_schema(tmp_path: Path) -> None:
    write_files(tmp_path / "office")
    for path in (tmp_path / "office").rglob("*.yaml"):
        kind = "tabletop" if path.name == "tabletop.yaml" else "layout" if path.parent.name == "layouts" else "config"
        if path.parent.name != "first-try":
            assert (path, faults(kind, path.read_text())) == (path, [])
    layout, tabletop = (one for one in examples(FILES) if one.startswith(("layout:", "tabletop:")))
    assert faults("layout", layout) == []
    assert faults("tabletop", tabletop) == []
    assert faults("trial", "trials: {a: {press: super+b, expect: front is berths}}\n") == []
    assert faults("config", (tmp_path / "office/first-try/jaklet.yaml").read_text())


def negative() -> Iterator[tuple[str, str]]:
    for code in sorted(STRUCTURE):
        for path, text in explanations()[code].fires.items():
            if path == "jaklet.yaml":
                yield code, text
    yield "a number out of its range", "settings: {gap: 99999999}"
    yield "no such word", "settings: {when displays change: perhaps}"
    yield "a list for a mapping", "apps: [berths]"
    yield "no action", "bindings: {super+b: {note: berths}}"
    yield "a step without its steps", "macros: {a: [{when: berths is running}]}"
    yield "a layer without bindings", "layers: {a: {stays: true}}"
    yield "no time", "settings: {wait: soon}"


@pytest.mark.parametrize("text", [pytest.param(text, id=name) for name, text in negative()])
def test_what_is_wrong_is_wrong_by_the_schema(text: str) -> None:
    assert faults("config", text)


def test_a_key_that_the_reader_gets_is_in_the_schema(monkeypatch: pytest.MonkeyPatch) -> None:
    assert faults("config", "settings: {tide: high}")
    monkeypatch.setitem(build.SETTING_KEYS, "tide", build.SETTING_KEYS["notices"])
    assert "tide" in json.dumps(SCHEMAS["config"]())
    assert faults("config", "settings: {tide: overlay}") == []
    assert faults("config", "settings: {tide: high}")
    desk = "displays: [{area: 800x600+0+0}]\nprograms: {kite: {tide: 1s}}\n"
    assert faults("tabletop", desk)
    monkeypatch.setitem(tabletops.PROGRAM, "tide", tabletops.PROGRAM["takes"])
    assert faults("tabletop", desk) == []


def test_the_manual_describes_the_keys_and_the_package_has_it() -> None:
    assert OUT.read_text() == page(), "run: make docs"
    told = json.loads(page())
    for name, of in (
        ("settings", "settings"),
        ("app", "app"),
        ("binding", "binding"),
        ("layer", "layer"),
        ("layout", "layout"),
        ("window", "window"),
        ("tabletop", "tabletop"),
        ("its display", "simulated display"),
        ("its program", "simulated program"),
        ("its window", "simulated window"),
    ):
        assert [key for key in TABLES[name] if key not in told[of]] == []


def test_the_command_prints_them(office: Office) -> None:
    for kind in (*SCHEMAS, "tabletop"):
        told = json.loads(office.jaklet("schema", kind).stdout)
        assert told["$schema"].endswith("2020-12/schema")
    assert office.jaklet("schema").stdout == office.jaklet("schema", "config").stdout
    assert "config" in office.jaklet("schema", "charts", status=2).stderr
