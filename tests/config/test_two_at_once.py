"""Two changes of layouts at once, at any interleaving of their steps: what was said to be saved is in a file or a version."""

import sqlite3
import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path
from types import FrameType
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaklet import files, locks
from jaklet.config import layout_writing, store, versions
from jaklet.config.store import LayoutFolder
from jaklet.core.values.errors import StoreError
from jaklet.core.values.layouts import Layout, LayoutEntry

STEPS = {module.__file__ for module in (store, versions, files, locks, layout_writing)}


def layout(name: str, note: str) -> Layout:
    return Layout(name=name, note=note, entries=(LayoutEntry("berths", None, None, None),))


# What can be done, and the note that has to be somewhere once it has been said to be done.
CHANGES: dict[str, tuple[Callable[[LayoutFolder, str], object], str | None]] = {
    "save alpha": (lambda shelf, mark: shelf.keep(layout("alpha", mark)), "own"),
    "save new": (lambda shelf, mark: shelf.keep(layout("new", mark)), "own"),
    "copy": (lambda shelf, _: shelf.copy("alpha", "new"), None),
    "rename": (lambda shelf, _: shelf.rename("alpha", "new"), None),
    "rename another": (lambda shelf, _: shelf.rename("beta", "new"), None),
    "remove": (lambda shelf, _: shelf.remove("alpha"), None),
    "restore": (lambda shelf, _: shelf.restore("alpha"), None),
    "edit": (lambda shelf, mark: shelf.put_text("alpha", f"layout: alpha\nnote: {mark}\nwindows: []\n"), "own"),
}


class Interleaved:
    """Does one change up to one of its steps, then all of another, then the rest of the first."""

    def __init__(self, folder: Path, first: str, second: str, stop_at: int) -> None:
        self.folder, self.stop_at, self.seen = folder, stop_at, 0
        self.at_rest, self.go_on = threading.Event(), threading.Event()
        self.said: dict[str, object] = {}
        one = threading.Thread(target=self._do, args=("one", first, True))
        one.start()
        assert self.at_rest.wait(20)
        self._do("two", second, False)
        self.go_on.set()
        one.join(20)
        assert not one.is_alive()

    def _do(self, mark: str, change: str, stops: bool) -> None:
        if stops:
            sys.settrace(self._trace)
        try:
            self.said[mark] = CHANGES[change][0](shelf_in(self.folder), mark)
        except StoreError as fault:
            self.said[mark] = fault
        finally:
            sys.settrace(None)
            if stops:
                self.at_rest.set()

    def _trace(self, frame: FrameType, event: str, _arg: Any) -> Any:
        if frame.f_code.co_filename not in STEPS:
            return None
        if event == "line":
            self.seen += 1
            if self.seen == self.stop_at:
                self.at_rest.set()
                self.go_on.wait(20)
        return self._trace


def shelf_in(folder: Path) -> LayoutFolder:
    return LayoutFolder(folder / "layouts", folder / "state", "layouts")


def every_text(folder: Path) -> tuple[dict[str, str], list[tuple[str, int, str]]]:
    """Return the texts of all layouts by their names, and all versions, read without the store."""
    here = {path.stem: path.read_text() for path in (folder / "layouts").glob("*.yaml")}
    with sqlite3.connect(folder / "state" / "layouts.sqlite") as database:
        rows = database.execute("SELECT name, version, text FROM versions").fetchall()
    database.close()
    return here, rows


def judge(first: str, second: str, stop_at: int) -> bool:
    """Do both and hold what was said against what is there; return whether the first one was still at it at that step."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        shelf = shelf_in(folder)
        for mark in ("earlier", "first"):
            shelf.keep(layout("alpha", f"alpha {mark}"))
        shelf.keep(layout("beta", "beta first"))
        done = Interleaved(folder, first, second, stop_at)
        here, rows = every_text(folder)
        told = (first, second, stop_at, done.said, here, rows)
        texts = "\n".join([*here.values(), *(text for _, _, text in rows)])
        for note in ("alpha earlier", "alpha first", "beta first"):
            assert note in texts, told
        assert all(text.strip() for _, _, text in rows), told
        assert len({(name, number) for name, number, _ in rows}) == len(rows), told
        for mark, change in (("one", first), ("two", second)):
            said = done.said[mark]
            if isinstance(said, StoreError):
                assert not CHANGES[change][1] or f"note: {mark}" not in texts, told
            elif CHANGES[change][1]:
                assert f"note: {mark}" in texts, told
            elif change == "remove" and "rename" not in (first, second):
                assert ("alpha", said) in {(name, number) for name, number, _ in rows}, told
        for name in here:
            assert shelf.find(name), told
        return done.seen >= stop_at


@pytest.fixture(autouse=True)
def _impatient(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(locks, "LOOKS", 0.001)
    monkeypatch.setattr(locks.hold_lock.__wrapped__, "__defaults__", (0.005,))  # type: ignore[attr-defined]


@settings(max_examples=150)
@given(st.sampled_from(sorted(CHANGES)), st.sampled_from(sorted(CHANGES)), st.integers(1, 120))
def test_what_was_said_of_two_changes_at_once_is_true(first: str, second: str, stop_at: int) -> None:
    judge(first, second, stop_at)


@pytest.mark.slow
@settings(max_examples=600)
@given(st.sampled_from(sorted(CHANGES)), st.sampled_from(sorted(CHANGES)), st.integers(1, 600))
def test_what_was_said_of_many_pairs_is_true(first: str, second: str, stop_at: int) -> None:
    judge(first, second, stop_at)


@pytest.mark.parametrize("what", ["the folder is full", "the former file stays"])
def test_a_rename_that_fails_has_moved_nothing(what: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    shelf = shelf_in(tmp_path)
    for note in ("one", "two"):
        shelf.keep(layout("alpha", note))

    name = "write_whole" if what.startswith("the folder") else "remove_whole"
    usual = getattr(store, name)

    def full_once(*_: object) -> None:
        monkeypatch.setattr(store, name, usual)
        raise OSError(28, "No space left on device", "layouts")

    monkeypatch.setattr(store, name, full_once)
    with pytest.raises(StoreError, match="alpha was not saved, and is as it was before: No space left"):
        shelf.rename("alpha", "gamma")
    assert shelf.names() == ["alpha"]
    found = shelf.find("alpha@1")
    assert found
    assert found.note == "one"
    assert shelf.past("gamma") == []
