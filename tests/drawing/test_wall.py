"""The sheet for the wall: a page in a real browser, a poster on one sheet or two, and text."""

import csv
import re
import shutil
import subprocess
from collections.abc import Sequence
from html.parser import HTMLParser
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaklet.core.keys.sheet import SheetLine
from jaklet.core.values.chords import parse_keys
from jaklet.drawing.pages import sheet_page
from jaklet.drawing.plain import csv_cell
from jaklet.drawing.posters import ADVANCE, COLUMNS, GUTTER, MARGIN, PAPERS, POINTS, draw_poster, laid_out
from jaklet.drawing.sheets import sheet_csv, sheet_markdown

CHROMIUM = shutil.which("chromium")
BROWSER = pytest.mark.skipif(CHROMIUM is None, reason="needs the Debian package chromium")


def line(keys: str, action: str, heading: str = "", note: str = "", dead: str = "") -> SheetLine:
    return SheetLine(keys, action, note, heading, dead, (parse_keys("super+b"),), ())


LINES = [
    line("super+b", "go berths"),
    line("super+left", "place left 1/2"),
    line("super+<n>", "recall <n>", "layouts & <more>"),
    line('super+"', 'tell "a | b"', "layouts & <more>", "High *water*", "off"),
    *(line(f"ctrl+alt+{letter}", f"run macro {letter}", "by task") for letter in "abcdefghijklmn"),
]


def more(one: SheetLine) -> str:
    return "half" if "1/2" in one.action else ""


def chromium(folder: Path, *options: str) -> str:
    command = [CHROMIUM or "", "--headless", "--no-sandbox", "--disable-gpu", f"--user-data-dir={folder / 'profile'}"]
    done = subprocess.run([*command, *options], capture_output=True, text=True, timeout=120)
    assert done.returncode == 0, done.stderr
    return done.stdout


class Shown(HTMLParser):
    """The keys of the lines that are not hidden, and what the page says of them."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.keys: list[str] = []
        self.count, self._hidden, self._in = "", False, ""
        self.feed(text)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        known = dict(attrs)
        if (known.get("class") or "").startswith("line"):
            self._hidden = "hidden" in known
        self._in = "count" if known.get("id") == "count" else tag

    def handle_data(self, data: str) -> None:
        if self._in == "dt" and not self._hidden:
            self.keys.append(data)
        elif self._in == "count":
            self.count += data
        self._in = ""


@BROWSER
def test_the_page_is_searched_and_printed_in_a_browser(tmp_path: Path) -> None:
    file = tmp_path / "keys.html"
    file.write_text(sheet_page(LINES, "Keys <of> Port Ellery", more), encoding="utf-8")
    for words, keys in (
        ("", [one.keys for one in LINES]),
        ("half", ["super+left"]),
        ("LAYOUTS water", ['super+"']),
        ("alt%2Bb%20macro", ["ctrl+alt+b"]),
        ("nowhere", []),
    ):
        shown = Shown(chromium(tmp_path, "--dump-dom", f"file://{file}#{words}"))
        assert shown.keys == keys, words
        assert shown.count == (f"{len(keys)} of {len(LINES)}" if words else f"{len(LINES)} lines")
    for count, sheets in ((len(LINES), 1), (260, 2)):
        some = sorted((LINES * 20)[:count], key=lambda one: one.heading)
        file.write_text(sheet_page(some, "Keys", more), encoding="utf-8")
        chromium(tmp_path, "--no-pdf-header-footer", f"--print-to-pdf={tmp_path / 'keys.pdf'}", f"file://{file}")
        assert len(re.findall(rb"/Type\s*/Page\b", (tmp_path / "keys.pdf").read_bytes())) <= sheets


texts = st.text(st.characters(codec="utf-8", exclude_categories=["Cs"]), max_size=60)
some_lines = st.lists(st.builds(line, texts, texts, st.sampled_from(["", "layouts", "by task"]), texts), max_size=60)


@settings(max_examples=60, deadline=None)
@given(some_lines, st.sampled_from(sorted(PAPERS)))
def test_a_poster_has_all_of_it_and_nothing_on_top_of_anything(lines: Sequence[SheetLine], paper: str) -> None:
    lines = sorted(lines, key=lambda one: one.heading)
    poster = laid_out(lines, "Keys", paper)
    wide, high = PAPERS[paper]
    column = (wide - 2 * MARGIN - (COLUMNS - 1) * GUTTER) / COLUMNS
    seen: dict[tuple[int, float, int], float] = {}
    for mark in sorted(poster.marks[1:], key=lambda one: (one.sheet, one.y, one.x)):
        ends = mark.x + len(mark.text) * ADVANCE * poster.size / POINTS
        assert mark.y <= high - MARGIN + 0.01
        place = int((mark.x - MARGIN + 0.001) // (column + GUTTER))
        assert ends <= MARGIN + place * (column + GUTTER) + column + 0.1, mark
        row = mark.sheet, round(mark.y, 4), place
        assert seen.get(row, 0.0) <= mark.x, mark
        seen[row] = ends
    drawn = "".join(mark.text for mark in poster.marks if mark.role in ("key", "action"))
    for one in lines:
        for word in one.action.split() if not one.note else ():
            assert not word.isalnum() or len(word) > 20 or word in drawn
    assert poster.sheets <= 2 or len(lines) > 40


def test_a_poster_of_many_keys_is_on_two_sheets(tmp_path: Path) -> None:
    many = [line(f"super+w {n}", f"place left {n % 9 + 1}/10", f"heading {n // 25}") for n in range(250)]
    assert (laid_out(LINES, "Keys").sheets, laid_out(many, "Keys").sheets) == (1, 2)
    assert laid_out(LINES, "Keys").size > laid_out(many, "Keys").size
    assert draw_poster(many, "Keys", str(tmp_path / "keys.pdf")) == 2
    assert len(re.findall(rb"/Type /Page\b", (tmp_path / "keys.pdf").read_bytes())) == 2


def test_as_text_nothing_of_it_is_markup_and_rows_are_whole() -> None:
    text = sheet_markdown(LINES, "Keys")
    assert '| `super+"` | High \\*water\\* | tell "a \\| b", off |' in text
    assert "## layouts & \\<more\\>" in text
    rows = list(csv.DictReader(sheet_csv(LINES).splitlines()))
    assert [row["keys"] for row in rows] == [one.keys for one in LINES]
    assert rows[3]["action"] == 'tell "a | b"'


@pytest.mark.parametrize("text", ["=HYPERLINK(1)", "+1", "-1", "@x", "\t=1"])
def test_no_cell_of_csv_is_a_formula(text: str) -> None:
    assert csv_cell(text) == f"'{text}"
    assert csv_cell(f"a{text}") == f"a{text}"
    (row,) = csv.DictReader(sheet_csv([LINES[0]._replace(note=text)]).splitlines(keepends=True))
    assert row["note"] == f"'{text}"
