"""Layouts on disk: they read back as they were, every overwritten version is kept, and no kill leaves half a file."""

import multiprocessing
import sqlite3
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.config.layout_reading import read_layout
from jaklet.config.layout_writing import layout_text
from jaklet.config.store import LayoutFolder
from jaklet.core.actions.layouts.capturing import capture_layout
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.errors import StoreError
from jaklet.core.values.findings import Finding
from jaklet.core.values.forms import FullPlace
from jaklet.core.values.geometry import Rect
from jaklet.core.values.globs import matches
from jaklet.core.values.layouts import Layout, LayoutEntry, SharedDisplay, name_fault
from jaklet.core.values.places import Place
from jaklet.yaml_files.reader import SourceFile
from tests.core.test_sharings import sharings
from tests.strategies import forms

titles = st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0"), max_size=20)  # no file takes a NUL
entries = st.builds(
    lambda app, title, form, display, workspace, shape, minimised: LayoutEntry(
        app, None if app else "Class: #1", title, Place(form, display), workspace, shape, minimised
    ),
    st.none() | st.sampled_from(["berths", "radio"]),
    st.none() | titles.filter(str.strip),
    forms,
    st.none() | st.sampled_from(["main", "quay"]),
    st.none() | st.integers(1, 9) | st.sampled_from(["mail", "desk-work"]),
    st.sampled_from(WindowShape),
    st.booleans(),
)


@st.composite
def layouts(draw: st.DrawFn) -> Layout:
    listed = tuple(draw(st.lists(entries, max_size=6)))
    return Layout(
        name=draw(st.sampled_from(["departures", "start of day", "Fähre-2", "yes", "1st"])),
        number=draw(st.none() | st.integers(1, 99)),
        note=draw(titles.map(lambda text: " ".join(text.split()))),
        workspace=draw(st.integers(1, 9) | st.just("mail")),
        focus=draw(st.none() | st.integers(0, len(listed) - 1)) if listed else None,
        displays=draw(st.dictionaries(st.sampled_from(["main", "quay"]), st.just("1920x1080+0+0"))),
        entries=listed,
        arranged=tuple(draw(st.lists(shared(len(listed)), max_size=2))) if listed else (),
    )


@st.composite
def shared(draw: st.DrawFn, count: int) -> SharedDisplay:
    order = tuple(draw(st.permutations(range(count)))[: draw(st.integers(0, count))])
    shares = tuple(draw(st.fractions(Fraction(1, 20), 1)) for _ in order) if draw(st.booleans()) else ()
    where = draw(st.integers(1, 4) | st.just("mail"))
    return SharedDisplay(draw(st.sampled_from(["main", "quay"])), draw(sharings), order, shares, where)


@given(layouts())
def test_writing_and_reading_a_layout_is_the_identity(layout: Layout) -> None:
    found: list[Finding] = []
    read = read_layout(SourceFile("x", layout_text(layout)), found).layout
    assert (read, found) == (layout, [])


def layout(note: str, size: int = 3, number: int | None = None) -> Layout:
    entry = LayoutEntry("berths", None, None, Place(FullPlace(), "main"))
    return Layout(name="departures", number=number, note=note, entries=(entry,) * size)


def shelf_in(folder: Path) -> LayoutFolder:
    return LayoutFolder(folder / "layouts", folder / "state", "layouts")


def test_every_overwritten_version_is_kept(tmp_path: Path) -> None:
    shelf = shelf_in(tmp_path)
    assert [shelf.keep(layout(note)).former for note in ("one", "two", "two", "three")] == [None, 1, None, 2]
    now, first, second = (shelf.find(word) for word in ("departures", "departures@1", "departures@2"))
    assert now and first and second
    assert (first.note, second.note, now.note) == ("one", "two", "three")
    with pytest.raises(StoreError, match="no version 3"):
        shelf.find("departures@3")


def test_an_edit_by_hand_is_kept_to_the_letter(tmp_path: Path) -> None:
    shelf = shelf_in(tmp_path)
    shelf.keep(layout("one"))
    by_hand = "# mine\nlayout: departures\nwindows: []\n"
    (tmp_path / "layouts" / "departures.yaml").write_text(by_hand)
    shelf.keep(layout("two"))
    with sqlite3.connect(tmp_path / "state" / "layouts.sqlite") as history:
        assert history.execute("SELECT text FROM versions").fetchall() == [(by_hand,)]
    history.close()


def test_a_number_belongs_to_one_layout(tmp_path: Path) -> None:
    shelf = shelf_in(tmp_path)
    shelf.keep(layout("one", number=4))
    other = Layout(name="arrivals", number=4)
    with pytest.raises(StoreError, match="number 4 belongs to departures"):
        shelf.keep(other)
    assert shelf.names() == ["departures"]
    assert shelf.find("4") == layout("one", number=4)


@pytest.mark.parametrize("name", ["", "a/b", "..", ".x", "last", "12", "a\nb", " a", "x" * 61, "a\x1b[2J"])
def test_names_that_are_no_file_names_are_refused(name: str, tmp_path: Path) -> None:
    assert name_fault(name)
    with pytest.raises(StoreError):
        shelf_in(tmp_path).keep(Layout(name=name))
    assert not (tmp_path / "layouts").exists()


def test_what_cannot_be_kept_is_not_overwritten(tmp_path: Path) -> None:
    """Where there can be no history at all, the save is refused and the layout stays as it was."""
    shelf = shelf_in(tmp_path)
    shelf.keep(layout("one"))
    (tmp_path / "state" / "layouts.sqlite").mkdir()
    with pytest.raises(StoreError, match="could not be kept"):
        shelf.keep(layout("two"))
    assert shelf.find("departures") == layout("one")


@pytest.mark.parametrize("how", ["rubbish", "cut short", "overwritten in the middle", "rubbish in its rows"])
def test_a_broken_history_is_put_aside_and_what_can_be_read_of_it_is_kept(how: str, tmp_path: Path) -> None:
    """The save goes through and says so; of a history that is broken in part, the rest is in the new one."""
    shelf = shelf_in(tmp_path)
    for i in range(400):  # several pages of SQLite
        shelf.keep(layout(f"{i} " + "x" * 100))
    path = tmp_path / "state" / "layouts.sqlite"
    data = path.read_bytes()
    if how == "rubbish":
        path.write_text("this is no database, and long enough to be seen as none")
    elif how == "cut short":
        path.write_bytes(data[: len(data) // 2])
    elif how == "overwritten in the middle":
        half = len(data) // 2
        path.write_bytes(data[:half] + b"\xff" * 8192 + data[half + 8192 :])
    else:
        with sqlite3.connect(path) as history:
            history.execute("UPDATE versions SET text = x'ff00', saved = 7 WHERE version = 3")
            history.execute("UPDATE versions SET version = 'many' WHERE version = 5")
        history.close()
    shelf = shelf_in(tmp_path)
    kept = shelf.keep(layout("after"))
    now = shelf.find("departures")
    assert now is not None
    assert now.note == "after"
    assert shelf.keep(layout("and again")).former is not None
    numbers = {one.number for one in shelf.past("departures")}
    if how == "rubbish in its rows":
        assert kept.aside == ""
        assert len(numbers - {None}) == 399
    else:
        (aside,) = (tmp_path / "state").glob("layouts.sqlite.broken-*")
        assert kept.aside == str(aside)
        assert len(numbers) > (2 if how == "rubbish" else 100)


def _save_many(folder: Path, name: str) -> None:
    shelf = shelf_in(folder)
    for i in range(15):
        shelf.keep(layout(f"{name} {i}"))


def test_two_processes_saving_at_once_lose_nothing(tmp_path: Path) -> None:
    shelf = shelf_in(tmp_path)
    shelf.keep(layout("first"))
    context = multiprocessing.get_context("fork")
    writers = [context.Process(target=_save_many, args=(tmp_path, name)) for name in "ab"]
    for writer in writers:
        writer.start()
    for writer in writers:
        writer.join(60)
    notes = {found.note for i in range(1, 31) if (found := shelf.find(f"departures@{i}"))}
    now = shelf.find("departures")
    assert now
    assert notes | {now.note} == {"first", *(f"{name} {i}" for name in "ab" for i in range(15))}


@given(
    st.lists(st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=450), min_size=2, max_size=3)
)
def test_a_layout_with_any_titles_reads_back(given_titles: list[str]) -> None:
    """Titles as long as pages have them, of several windows of one class; each is matched by what is kept of it."""
    windows = tuple(
        Window(i, cls="Web", title=title, frame=Rect(0, 0, 400, 300)) for i, title in enumerate(given_titles, 1)
    )
    display = Display("A", Rect(0, 0, 800, 600), Rect(0, 0, 800, 600))
    desk = Desk((display,), windows, (1, 2), (2, 1), 1)
    made = capture_layout(desk, Config(), name="pages", number=None, note="")
    found: list[Finding] = []
    assert read_layout(SourceFile("x", layout_text(made)), found).layout == made, found
    kept = [entry.title or "" for entry in made.entries]
    assert all(any(title == one or matches(one, title) for one in kept) for title in given_titles)


def test_nothing_that_cannot_be_read_back_takes_the_place_of_a_layout(tmp_path: Path) -> None:
    shelf = shelf_in(tmp_path)
    shelf.keep(layout("one"))
    odd = Layout("departures", entries=(LayoutEntry(None, "Web", "t" * 300, Place(FullPlace())),))
    with pytest.raises(StoreError, match="could not be read back"):
        shelf.keep(odd)
    assert shelf.find("departures") == layout("one")
