"""The reader of desktop entries against two others: GLib launches them, and pyxdg reads them."""

import os
import subprocess
from collections.abc import Iterator, Sequence
from pathlib import Path

import pytest
import xdg.DesktopEntry
import xdg.Exceptions

from jaklet.core.values.desktop_entries import DesktopEntry
from jaklet.installed.desktop_entries import DesktopEntries, data_folders
from tests.xserver import until

# Small packages whose entries use what the specification has: actions, quotes, shells, field codes, terminals.
PACKAGES = (
    "audacity", "emacs-gtk", "evince", "gimp", "gnome-calculator", "gnome-terminal", "htop", "kate", "mc", "okular",
    "remmina", "thunar", "transmission-gtk", "vlc", "xfce4-terminal", "zathura",
)  # fmt: skip
RECORDER = (
    '#!/bin/sh\nfor word in "$0" "$@"; do printf "%s\\0" "$word"; done > "$RECORD.new"\nmv "$RECORD.new" "$RECORD"\n'
)


def launched_by_glib(path: Path, folder: Path, programs: set[str]) -> list[str] | None:
    """Let `gio launch` start an entry, every program replaced by one that notes its words; None if it will not."""
    bin_, record = folder / "bin", folder / "record"
    bin_.mkdir(exist_ok=True)
    for program in {*programs, "xterm"}:
        recorder = bin_ / program
        if not recorder.exists():
            recorder.write_text(RECORDER)
            recorder.chmod(0o755)
    record.unlink(missing_ok=True)
    env = {"PATH": str(bin_), "RECORD": str(record), "HOME": str(folder), "LC_ALL": "C.UTF-8"}
    gio = Path("/usr/bin/gio")
    # What the recorder itself needs is found by its shell's own PATH.
    env["PATH"] = f"{bin_}:/bin"
    done = subprocess.run([gio, "launch", path], env=env, capture_output=True, text=True, timeout=20)
    if done.returncode:
        return None
    until(record.exists, f"GLib to launch {path}")
    return record.read_text().split("\0")[:-1]


def compare(entries: DesktopEntries, folder: Path) -> tuple[int, int]:
    """Hold every entry against both; return how many were read, and how many were launched."""
    read = launched = 0
    for entry_id, path in entries.paths().items():
        other = xdg.DesktopEntry.DesktopEntry(str(path))
        if other.getType() != "Application":
            continue
        entry = entries.find(entry_id)
        assert entry
        read += 1
        assert (entry.name, entry.wm_class) == (other.getName(), other.getStartupWMClass()), path
        assert (entry.in_terminal, entry.shown, entry.hidden) == (
            other.getTerminal(), not other.getNoDisplay(), other.getHidden(),
        ), path  # fmt: skip
        assert (entry.try_exec, entry.folder) == (other.getTryExec(), other.getPath()), path
        assert [*entry.categories] == [word for word in other.getCategories() if word], path
        for command, file in _commands(entry, path, folder):
            if command and "/" not in command[0]:
                words = launched_by_glib(file, folder, {command[0], entry.try_exec.rpartition("/")[2] or "xterm"})
                assert words is not None, path
                words[0] = words[0].rpartition("/")[2]
                words = words[words.index(command[0], 1) :] if entry.in_terminal else words
                assert words == [word.replace(str(file), str(path)) for word in command], path
                launched += 1
    return read, launched


def _commands(entry: DesktopEntry, path: Path, folder: Path) -> Iterator[tuple[Sequence[str], Path]]:
    """Yield an entry's command and its actions', each with a file that GLib can launch."""
    plain = folder / "entries"
    plain.mkdir(exist_ok=True)
    text = path.read_text(encoding="utf-8", errors="replace")
    for action, (_, command) in entry.actions.items():
        group = text.partition(f"[Desktop Action {action}]")[2].partition("\n[")[0]
        lines = [line for line in group.splitlines() if line.startswith(("Name=", "Exec=", "Icon="))]
        terminal = "Terminal=true\n" if entry.in_terminal else ""
        file = plain / f"{entry.id}-{action}.desktop"
        file.write_text("[Desktop Entry]\nType=Application\n" + terminal + "\n".join(lines) + "\n")
        yield command, file
    # Without what would keep it from being launched here: another program that has to be there, D-Bus, a folder.
    kept = [line for line in text.splitlines() if not line.startswith(("TryExec", "DBusActivatable", "Path"))]
    file = plain / f"{entry.id}.desktop"
    file.write_text("\n".join(kept) + "\n")
    yield entry.command, file


def test_every_entry_of_this_machine_is_read_as_others_read_it(tmp_path: Path) -> None:
    read, launched = compare(DesktopEntries([Path("/usr/share")], "C"), tmp_path)
    assert read >= 5
    assert launched >= 5


@pytest.mark.slow
def test_every_entry_of_many_packages_is_read_as_others_read_it(tmp_path: Path) -> None:
    for name in PACKAGES:  # one at a time, as a mirror may lack some
        subprocess.run(["apt-get", "download", "-qq", name], cwd=tmp_path, capture_output=True, timeout=120)
    packages = [*tmp_path.glob("*.deb")]
    if len(packages) < len(PACKAGES) // 2:
        pytest.skip("the packages cannot be downloaded here")
    for package in packages:
        subprocess.run(["dpkg-deb", "-x", package, tmp_path / "root"], check=True)
    read, launched = compare(DesktopEntries([tmp_path / "root/usr/share"], "C"), tmp_path)
    print(f"{read} entries read, {launched} commands launched")
    assert read >= 20
    assert launched >= 30


def test_an_earlier_folder_hides_later_ones_and_folders_become_part_of_the_id(tmp_path: Path) -> None:
    def write(path: str, name: str, more: str = "") -> None:
        file = tmp_path / path
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(f"[Desktop Entry]\nType=Application\nName={name}\nExec=x\n{more}")

    write("home/applications/ledger.desktop", "mine", "Hidden=true\n")
    write("usr/applications/ledger.desktop", "theirs")
    write("usr/applications/harbour/dues.desktop", "dues")
    write("usr/applications/harbour-tide.desktop", "tide")
    write("usr/applications/notes.txt", "no entry")
    entries = DesktopEntries([tmp_path / "home", tmp_path / "usr", tmp_path / "none"], "C")
    found = {entry_id: entry.name for entry_id in entries.paths() if (entry := entries.find(entry_id))}
    assert found == {"ledger": "mine", "harbour-dues": "dues", "harbour-tide": "tide"}
    ledger = entries.find("ledger.desktop")
    assert ledger
    assert ledger.hidden
    for missing in ("nothing", "../usr/applications/ledger", "harbour/dues", ""):
        assert entries.find(missing) is None
    assert [entry.id for entry in entries.every()] == ["harbour-dues", "harbour-tide", "ledger"]


def test_data_folders_are_those_of_the_base_directory_specification() -> None:
    folders = data_folders({"XDG_DATA_HOME": "/a", "XDG_DATA_DIRS": "/b::relative:/c"})
    assert folders == [Path("/a"), Path("/b"), Path("/c")]
    assert data_folders({"XDG_DATA_HOME": "", "XDG_DATA_DIRS": ""}) == [
        Path(os.path.expanduser("~/.local/share")), Path("/usr/local/share"), Path("/usr/share"),
    ]  # fmt: skip
