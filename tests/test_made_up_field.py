"""A field that is planted in the tables of layouts is read, written, saved over, compared and described everywhere."""

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from tools.make_tables import PAGES, written

from jaklet.core.keys.listener_status import STATUS
from tests.conftest import Office
from tests.editor.test_server import Session, edit
from tests.listener.test_x11 import Listening

ROOT = Path(__file__).parent.parent
# By file: a line that is there once, and what is planted behind it. This is all that two fields cost.
PLANTED = {
    "core/values/layouts.py": (
        ("    after: tuple[Action, ...] = ()\n", '    berth: str = ""\n'),
        ("    variants: tuple[Arrangement, ...] = ()\n", '    tide: str = ""\n'),
    ),
    "core/values/layout_fields.py": (
        (
            "ENTRY_FIELDS: Final[tuple[LayoutField[LayoutEntry], ...]] = (\n",
            '    LayoutField("berth", FieldKind.TEXT, "the berth that it shows", "berth", "", kept=True),\n',
        ),
        (
            "LAYOUT_FIELDS: Final[tuple[LayoutField[Layout], ...]] = (\n",
            '    LayoutField("tide", FieldKind.TEXT, "the tide that it is for", "tide", "", kept=True),\n',
        ),
    ),
}
LAYOUT = """\
layout: mooring
number: 7
tide: high
windows:
- {app: berths, berth: north quay, display: main, place: left 2/3}
"""


@pytest.fixture
def planted(tmp_path: Path, office: Office) -> Office:
    """An office whose program has a field `berth` of windows, and a field `tide` of layouts."""
    package = tmp_path / "planted" / "jaklet"
    shutil.copytree(ROOT / "src" / "jaklet", package, ignore=shutil.ignore_patterns("__pycache__"))
    for name, plants in PLANTED.items():
        text = (package / name).read_text()
        for line, new in plants:
            assert text.count(line) == 1, line
            text = text.replace(line, line + new)
        (package / name).write_text(text)
    office.installed = True
    office.env["PYTHONPATH"] = str(package.parent)
    (office.folder / "layouts").mkdir(exist_ok=True)
    (office.folder / "layouts" / "mooring.yaml").write_text(LAYOUT)
    return office


def test_a_new_field_is_known_everywhere(planted: Office) -> None:
    path = planted.folder / "layouts" / "mooring.yaml"
    assert "mooring" not in planted.jaklet("check").stdout  # reading
    planted.jaklet("layout", "copy", "mooring", "sailing")  # writing
    copy = path.with_name("sailing.yaml")
    assert "tide: high" in copy.read_text()
    assert "berth: north quay" in copy.read_text()

    copy.write_text(copy.read_text().replace("high", "low").replace("north", "south"))
    told = planted.jaklet("layout", "diff", "mooring", "sailing", status=1).stdout
    assert "tide: high -> low" in told
    assert "berth north quay -> south quay" in told
    data = json.loads(planted.jaklet("layout", "show", "sailing", "--format", "json").stdout)
    assert (data["tide"], data["windows"][0]["berth"]) == ("low", "south quay")

    planted.jaklet("fire", "super+b")
    planted.jaklet("layout", "save", "mooring", "--number", "7")  # a save over it
    saved = path.read_text()
    assert "tide: high" in saved
    assert "berth: north quay" in saved

    schema = json.loads(planted.jaklet("schema", "layout").stdout)
    assert "string" in schema["properties"]["tide"]["type"]
    manual = subprocess.run(
        [sys.executable, "-c", "import tools.make_tables as m; print(m.written((m.PAGES / 'files.md').read_text()))"],
        cwd=ROOT, env=planted.env | {"PYTHONPATH": f"{planted.env['PYTHONPATH']}:{ROOT}"}, text=True, check=True, capture_output=True,
    ).stdout  # fmt: skip
    assert "| `berth` | the berth that it shows |" in manual
    assert "| `tide` | the tide that it is for |" in manual


def test_an_editor_offers_a_new_field(planted: Office) -> None:
    async def story(session: Session) -> None:
        text = session.open("layouts/mooring.yaml")
        for words, key in (("number: 7\nt", "tide"), ("{app: berths, b", "berth")):
            assert key in await session.complete("layouts/mooring.yaml", text, words)

    edit(planted, story)


def test_the_manual_has_every_field() -> None:
    for page in PAGES.rglob("*.md"):
        assert page.read_text() == written(page.read_text()), page.name


def test_the_status_has_the_same_fields_everywhere(x_office: Office) -> None:
    """In the listener, in the answer of its socket, in `jaklet status`, in the socket's description, in the manual."""
    listening = Listening(x_office)
    try:
        data = json.loads(x_office.jaklet("status", "--format", "json").stdout)
        assert [*data] == ["listening", *STATUS, "pending"]
        text = x_office.jaklet("status").stdout
        assert [label for one in STATUS.values() if (label := one.label) and f"  {label} " not in text] == [
            "arranged", "keyboard", "under way", "refused", "not reloaded", "finding",
        ]  # there is nothing of these  # fmt: skip
    finally:
        listening.stop()
    methods = json.loads(x_office.jaklet("schema", "socket").stdout)["methods"]
    (schema,) = (one["result"]["schema"] for one in methods if one["name"] == "status")
    assert {key: one["description"] for key, one in schema["properties"].items()} == {
        key: one.meaning for key, one in STATUS.items()
    }
