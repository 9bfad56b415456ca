"""What the manual shows is true: its examples are checked as a user's files would be."""

import re
import shutil
import subprocess
import tomllib
from pathlib import Path

import pytest
from tools.make_man import pages

from jaklet.checks.run import check_config
from jaklet.config.layout_reading import read_layout
from jaklet.config.paths import locate_config
from jaklet.core.language.actions import parse_action
from jaklet.core.language.place_grammar import parse_place
from jaklet.core.language.verbs import VERBS, Verb
from jaklet.core.values.findings import Finding
from jaklet.demo.harbour import OFFICE
from jaklet.desktops.tabletop.file import read_room
from jaklet.installed.programs import InstalledPrograms
from jaklet.yaml_files.reader import SourceFile

ROOT = Path(__file__).parent.parent
REQUESTS = {".TH", ".SH", ".SS", ".B", ".PP", ".TP", ".IP", ".nf", ".fi", ".RS", ".RE"}
PLACING = (ROOT / "docs" / "placing.md").read_text()
README, FILES = (ROOT / "README.md").read_text(), (ROOT / "docs" / "files.md").read_text()


def examples(text: str) -> list[str]:
    return re.findall(r"```yaml\n(.*?)```", text, re.DOTALL)


def test_the_first_configs_of_the_readme_have_no_findings(tmp_path: Path) -> None:
    for text, bindings in zip(examples(README), (4, 24), strict=False):
        (tmp_path / "jaklet.yaml").write_text(text)
        result = check_config(locate_config(str(tmp_path)), InstalledPrograms(office.program for office in OFFICE))
        assert [found.cause for found in result.findings] == []
        assert len(result.config.bindings) == bindings


@pytest.mark.parametrize("text", examples((ROOT / "docs" / "recipes.md").read_text()))
def test_a_recipe_has_no_findings(text: str, tmp_path: Path) -> None:
    (tmp_path / "jaklet.yaml").write_text(text)
    (tmp_path / "layouts").mkdir()
    (tmp_path / "layouts" / "morning.yaml").write_text("layout: morning\nnumber: 1\nwindows: []\n")
    result = check_config(
        locate_config(str(tmp_path)), InstalledPrograms({*(office.program for office in OFFICE), "xterm"})
    )
    assert [found.cause for found in result.findings if found.code != "JK503"] == []


def test_links_of_the_manual_lead_somewhere() -> None:
    for page in (*ROOT.glob("*.md"), *ROOT.glob("docs/**/*.md")):
        for target in re.findall(r"\]\(([^)#:]+)(?:#[^)]*)?\)", page.read_text()):
            assert (page.parent / target).exists(), f"{page.name}: {target}"


def test_the_pages_for_developers_name_what_is_there() -> None:
    """Each file, class and function that they name in code letters."""
    files = {path.as_posix() for folder in ("src/jaklet", "tests", "tools") for path in (ROOT / folder).rglob("*.*")}
    words = {*re.findall(r"\w+", "".join(path.read_text() for path in (ROOT / "src").rglob("*.py")))} | {"GrabModeSync"}
    for page in (ROOT / "docs" / "development").glob("*.md"):
        for name in re.findall(r"`([^`\n]+)`", page.read_text()):
            if re.search(r"\.(py|js|html)$", name):
                assert any(path.endswith(f"/{name}") for path in files), (page.name, name)
            elif re.match(r"[A-Z][a-z]+[A-Z]?\w*", name):
                assert {part for part in re.findall(r"\w+", name) if not part.isdigit()} <= words, (page.name, name)


def recipes() -> dict[str, str]:
    """Return what CONTRIBUTING says is to be written, by what is to be added."""
    text = (ROOT / "CONTRIBUTING.md").read_text().partition("| to add | write |")[2]
    return dict(re.findall(r"^\| (an? [^|]+) \| (.+) \|$", text, re.M))


@pytest.mark.parametrize("thing", recipes())
def test_what_a_recipe_for_developers_names_is_there(thing: str) -> None:
    """Each file, and each table in the file that is named behind it."""
    said = recipes()[thing]
    source = ROOT / "src" / "jaklet"
    files = re.findall(r"`([\w/]+\.\w+)`", said)
    assert files or re.findall(r"`(\w+/)`", said)
    for name in files:
        assert any((folder / name).exists() for folder in (source, ROOT)), name
    for folder in re.findall(r"`(\w+/)`", said):
        assert (source / folder).is_dir(), folder
    for tables, name in re.findall(r"((?:`[A-Z_]+`(?:, | or )?)+) of `([\w/]+\.py)`", said):
        for table in re.findall(r"`([A-Z_]+)`", tables):
            assert re.search(rf"^{table}\b", (source / name).read_text(), re.M), (table, name)


def test_the_readme_is_short_and_links_every_picture() -> None:
    assert len(README.splitlines()) <= 150
    linked = {*re.findall(r"docs/screenshots/([\w-]+\.png)", README)}
    assert linked == {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
    assert len((ROOT / "docs" / "development" / "architecture.md").read_text().split()) <= 2500


def test_the_examples_of_placing_are_read_without_errors(tmp_path: Path) -> None:
    head = "displays: {main: {name: DP-1}, quay: {name: HDMI-1}}\n"
    places, workspaces, apps = examples((ROOT / "docs" / "placing.md").read_text())
    more = "  super+b: go radio\n  super+c: go charts\n"
    (tmp_path / "jaklet.yaml").write_text(head + places + workspaces + more + apps)
    result = check_config(locate_config(str(tmp_path)), InstalledPrograms(office.program for office in OFFICE))
    assert [found.cause for found in result.findings if not found.cause.startswith("nothing uses")] == []


def test_the_layout_and_the_tabletop_of_the_manual_read_well(tmp_path: Path) -> None:
    *_, layout, tabletop = examples(FILES)
    found: list[Finding] = []
    assert read_layout(SourceFile("x", layout), found).layout
    assert found == []
    (tmp_path / "t.yaml").write_text(tabletop)
    assert read_room(tmp_path / "t.yaml").displays[0].work.y == 40


def _cells(page: str, section: str) -> list[str]:
    table = page[page.index(f"## {section}") :].split("\n\n")[1]
    firsts = [row.split("|")[1] for row in table.splitlines()[2:]]
    return [words for first in firsts for words in re.findall(r"`([^`]+)`", first)]


@pytest.mark.parametrize("words", [words for words in _cells(PLACING, "Places") if words not in ("reading", "on quay")])
def test_every_place_of_the_readme_parses(words: str) -> None:
    place = words if words.endswith(" on quay") else f"{words} on quay"
    assert str(parse_place(place)).endswith(" on quay")


@pytest.mark.parametrize("verb", VERBS.values(), ids=VERBS)
def test_the_example_of_every_action_parses(verb: Verb) -> None:
    assert parse_action(verb.example).verb == verb.name


def test_the_manual_pages_are_as_the_manual() -> None:
    """Made from it, without a fault, and installed by the wheel."""
    made = pages()
    wheel = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["hatch"]["build"]["targets"]["wheel"]
    assert {ROOT / source for source in wheel["shared-data"]} == {*made}
    for path, text in made.items():
        assert path.read_text() == text, "run: make docs"
        for line in text.splitlines():
            assert not line.startswith("'")
            assert line.split(" ")[0] in REQUESTS or not line.startswith("."), line
        if shutil.which("groff"):
            done = subprocess.run(["groff", "-man", "-ww", "-Tutf8", "-z", str(path)], capture_output=True, text=True)
            assert (done.returncode, done.stderr) == (0, "")
