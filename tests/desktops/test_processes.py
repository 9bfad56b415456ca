"""Which line of a program's errors says most, and which launch a window is of."""

import os
import subprocess
from pathlib import Path

import pytest

from jaklet.core.values.changes import Launch
from jaklet.desktops.processes import Processes
from jaklet.installed.programs import InstalledPrograms
from tests.xserver import until

SAID = {
    "Cannot open display: :0\nsee the manual\n": "Cannot open display: :0",
    "warming up\nValueError: no berth\n  at line 3\n": "ValueError: no berth",
    "error: first\nfatal: second\nbye\n": "fatal: second",
    "one\ntwo\n\n": "two",
    "": "",
}


@pytest.mark.parametrize("text", SAID)
def test_the_line_with_the_error_counts(text: str, tmp_path: Path) -> None:
    processes = Processes(lambda: tmp_path)
    command = ("sh", "-c", 'printf "%s" "$1" >&2', "sh", text)
    processes.launch(Launch("berths", command, str(tmp_path)), 0)
    while not processes.reap():
        pass
    assert processes.said("berths") == SAID[text]
    processes.close()


def test_what_a_program_has_said_is_for_its_user_alone(tmp_path: Path) -> None:
    """Whatever the umask says."""
    before = os.umask(0)
    try:
        processes = Processes(lambda: tmp_path / "state" / "said")
        processes.launch(Launch("berths", ("true",), str(tmp_path)), 0)
    finally:
        os.umask(before)
    while not processes.reap():
        pass
    processes.close()
    (log,) = (tmp_path / "state" / "said").iterdir()
    assert (log.stat().st_mode & 0o777, log.parent.stat().st_mode & 0o777) == (0o600, 0o700)


@pytest.mark.parametrize(("size", "kept"), [(1_000_000, 1_000_000), (1_000_001, 0)])
def test_a_log_of_more_than_a_megabyte_is_begun_anew(size: int, kept: int, tmp_path: Path) -> None:
    (tmp_path / "berths.log").write_bytes(b"x" * size)
    processes = Processes(lambda: tmp_path)
    processes.launch(Launch("berths", ("true",), str(tmp_path)), 0)
    while not processes.reap():
        pass
    processes.close()
    assert (tmp_path / "berths.log").stat().st_size == kept


def test_another_command_of_an_app_is_another_tie() -> None:
    ties = {Launch("radio", command).tie for command in (("log",), ("log", "--all"), ("log --all",), ("xlog",))}
    assert len(ties) == 4
    assert all(tie.startswith("radio ") for tie in ties)


def test_a_program_that_is_linked_with_wayland_alone_does_not_run_on_x(tmp_path: Path) -> None:
    for name, data, alone in (
        ("quay-term", b"\x7fELF..libwayland-client.so.0..libc.so.6", True),
        ("both", b"\x7fELF..libwayland-client.so.0..libX11.so.6", False),
        ("toolkit", b"\x7fELF..libwayland-client.so.0..libgtk-3.so.0", False),
        ("script", b"#!/bin/sh\n# libwayland-client.so", False),
    ):
        path = tmp_path / name
        path.write_bytes(data)
        path.chmod(0o755)
        assert InstalledPrograms().needs_wayland(str(path)) is alone


def test_a_program_without_a_window_claims_none_that_comes_later(tmp_path: Path) -> None:
    """While it runs and when it has ended, whoever else shows one: a stranger, or a child of the one who launched it."""
    processes = Processes(lambda: tmp_path)
    processes.launch(Launch("snooze", ("sleep", "0.3"), str(tmp_path)), 0)
    with subprocess.Popen(["sleep", "9"]) as other:
        for _ in range(2):
            assert [processes.shown_by("", pid) for pid in (other.pid, os.getpid(), os.getppid(), 1, 0)] == [""] * 5
            assert processes.shown_by("somebody's", other.pid) == ""
            until(lambda: processes.reap() or processes.ended, "its end")
        other.kill()
    processes.close()
