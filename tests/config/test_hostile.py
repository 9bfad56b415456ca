"""Whatever is in the files, a check ends with findings or a clean read, in little time and memory, and never with a traceback."""

import os
import resource
import subprocess
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaklet import __version__
from jaklet.checks.chord_explanations import explain_chord
from jaklet.checks.run import check_config
from jaklet.config.paths import locate_config
from jaklet.core.keys.keymap import REST, Keymap
from jaklet.core.keys.sheet import sheet_lines
from jaklet.core.values.chords import parse_keys
from jaklet.drawing.findings import findings_data, findings_text
from jaklet.drawing.sarif import sarif
from jaklet.drawing.sheets import sheet_text
from jaklet.drawing.whys import why_text
from jaklet.installed.programs import InstalledPrograms
from tests.conftest import JAKLET, Office

SEEDS = [path.read_bytes() for path in (Path(__file__).parents[2] / "src/jaklet/demo/files").rglob("jaklet.yaml")]
PIECES = [
    b"bindings:", b"layers:", b"include: jaklet.yaml", b"include: [a.yaml, {file: b, host: '*'}]", b"reserved:", b"{", b"}",
    b"[", b"]", b": ", b"- ", b"\n", b"\n  ", b"\n    ", b"&a ", b"*a", b"<<: *a", b"'", b'"', b"|\n", b"? ", b"# silence JK203",
    b"# silence JK212: x", b"super+", b"<n>", b"<side>", b"off: true", b"instead: true", b"only in: [berths]", b"not in: x",
    b"on release: true", b"repeat: true", b"enter arrange", b"leave", b"press super+b", b"keyboard: [us, fr small laptop]",
    b"stays: true", b"ends after: 1s", b"other keys: leave and pass on", b"!!int ", b"\xff", b"\x00", b"\xc3\xa9", b"\xe2\x80\xa8",
    b"\t", b"%", b"...", b"---", b"~", b"escape", b"super+w x y", b"kill", b"{do: close, sure: true}", b"null", b"\xf0\x9f\x9a\xa2",
]  # fmt: skip
edits = st.lists(
    st.tuples(st.floats(0, 1), st.integers(0, 12), st.sampled_from(PIECES) | st.binary(max_size=6)), max_size=8
)


def looked_at(data: bytes) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "jaklet.yaml"
        path.write_bytes(data)
        result = check_config(locate_config(str(path)), InstalledPrograms(["sh"]))
        lines = {name: source.lines for name, source in result.reading.sources.items()}
        findings_text(result.findings, lines)
        findings_data(result.findings)
        sarif(result.findings, __version__)
        why_text(explain_chord(result, parse_keys("super+b")))
        if result.usable:
            sheet_text(sheet_lines(result.config), 80)
            Keymap(result.config).hearing(REST)


def mutated(seed: bytes, changes: list[tuple[float, int, bytes]]) -> bytes:
    for where, length, piece in changes:
        at = int(where * len(seed))
        seed = seed[:at] + piece + seed[at + length :]
    return seed


@settings(max_examples=150, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.sampled_from(SEEDS), edits)
def test_no_change_of_a_config_is_too_odd(seed: bytes, changes: list[tuple[float, int, bytes]]) -> None:
    looked_at(mutated(seed, changes))


@settings(max_examples=100, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.binary(max_size=300) | st.lists(st.sampled_from(PIECES), max_size=30).map(b"".join))
def test_no_bytes_are_too_odd(data: bytes) -> None:
    looked_at(data)


@pytest.mark.slow
@settings(max_examples=20_000, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.sampled_from(SEEDS), edits)
def test_no_change_of_a_config_is_too_odd_for_minutes(seed: bytes, changes: list[tuple[float, int, bytes]]) -> None:
    looked_at(mutated(seed, changes))


def _aliases(levels: int, one: str, many: str) -> str:
    rows = [f"a0: &a0 {one}"]
    rows += [f"a{i}: &a{i} {many.format(f'*a{i - 1}')}" for i in range(1, levels)]
    return "\n".join(rows) + "\n"


LISTS = _aliases(30, "[x, x]", "[{0}, {0}, {0}, {0}]")
HOSTILE = {
    "brackets": "bindings:\n  super+b: " + "[" * 100_000,
    "closed brackets": "bindings:\n  super+b: " + "[" * 5000 + "]" * 5000,
    "mappings": "a: " + "{a: " * 50_000,
    "indentation": "".join(" " * i + "a:\n" for i in range(2000)),
    "dashes": "- " * 50_000 + "a",
    "brackets in quotes are no depth": "bindings:\n  super+b: '" + "[" * 500 + "'\n",
    "lists of lists": LISTS + "bindings:\n  super+b: *a29\napps: {x: {launch: *a29, window: *a29}}\ninclude: *a29\n",
    "mappings of mappings": _aliases(24, "{super+b: close}", "{{h1: {0}, h2: {0}}}")
    + "bindings: *a23\nlayers: {x: *a23}\n",
    "a list in itself": "bindings: &b\n  super+b: &l [*l, *l]\n  x: *b\n",
    "a huge scalar": "bindings:\n  super+b: " + "x" * 3_900_000,
    "a huge key": "bindings:\n  ? " + "super+" * 600_000 + "b\n  : close\n",
    "one chord again and again": "bindings:\n" + "  super+b: close\n" * 100_000,
    "as many misspelt names": "bindings:\n" + "".join(f"  super+b: go a{i}\n" for i in range(50_000)),
    "apps that are all alike": "apps:\n"
    + "".join(f"  a{i}: {{launch: x{i}, window: {{class: X*}}}}\n" for i in range(3000)),
    "files that include each other": "include: jaklet.yaml\n",
}


def _little_memory() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (900_000_000, 900_000_000))


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_files_take_little_time_and_memory(name: str, tmp_path: Path) -> None:
    (tmp_path / "jaklet.yaml").write_text(HOSTILE[name])
    env = {key: value for key, value in os.environ.items() if not key.startswith("JAKLET_") and key != "DISPLAY"}
    done = subprocess.run(
        [JAKLET, "check", "jaklet.yaml"], cwd=tmp_path, env=env, capture_output=True, text=True, timeout=60,
        preexec_fn=_little_memory,
    )  # fmt: skip
    assert (done.returncode, "Traceback" in done.stderr) == (1, False), done.stderr[-500:]
    assert "the config cannot be used" in done.stdout


ODD: dict[str, Callable[[Path], Any]] = {
    "a pipe": lambda path: os.mkfifo(path),
    "a device without end": lambda path: path.symlink_to("/dev/zero"),
    "a terminal": lambda path: path.symlink_to("/dev/ptmx"),
    "a folder": lambda path: path.mkdir(),
    "the kernel's log": lambda path: path.symlink_to("/proc/kmsg"),
}


@pytest.mark.parametrize("what", ODD)
@pytest.mark.parametrize("where", ["jaklet.yaml", "part.yaml", "layouts/arrivals.yaml", "tabletop.yaml"])
def test_only_ordinary_files_are_read(what: str, where: str, office: Office) -> None:
    """Nothing else is even waited for."""
    path = office.folder / where
    path.unlink(missing_ok=True)
    ODD[what](path)
    if where == "part.yaml":
        office.config.write_text("include: part.yaml\n" + office.config.read_text())
    for words in (["check"], ["layout", "list"], ["desk"], ["fire", "super+b", "--dry-run"]):
        done = subprocess.run(
            [JAKLET, *words], cwd=office.folder, env=office.env, capture_output=True, text=True, timeout=15
        )
        assert "Traceback" not in done.stderr + done.stdout
        assert done.returncode in (0, 1, 2)


HUGE = {
    "a million keys": "a:\n" * 1_300_000,
    "a long list": "bindings: [" + "a," * 1_900_000 + "]",
    "repeats within repeats": "macros:\n  m:\n"
    + "".join(f"{'  ' * (2 * i)}  - repeat: 1000\n{'  ' * (2 * i)}    steps:\n" for i in range(1, 5))
    + f"{'  ' * 10}  - {{when: berths is running, then: []}}\n",
}


@pytest.mark.parametrize("what", HUGE)
def test_huge_files_are_told_of_and_macros_without_end_are_cut(what: str, office: Office) -> None:
    office.config.write_text("apps: {berths: {launch: berth-board}}\n" * (what[0] == "r") + HUGE[what])
    for words in (["check"], ["act", "run m", "--dry-run"]):
        done = subprocess.run(
            [JAKLET, *words], cwd=office.folder, env=office.env, capture_output=True, text=True, timeout=30,
            preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_CPU, (12, 12)),
        )  # fmt: skip
        assert "Traceback" not in done.stderr + done.stdout
        assert done.returncode in (0, 1, 2), done


def test_a_long_row_of_bases_is_told_of(office: Office) -> None:
    for i in range(900):
        text = f"layout: l{i}\nbase: l{(i + 1) % 900}\n"
        (office.folder / "layouts" / f"l{i}.yaml").write_text(text)
    done = office.jaklet("layout", "show", "l0", status=1)
    assert "more than 16 layouts" in done.stderr


def test_a_nul_is_a_finding_wherever_it_stands(office: Office) -> None:
    office.config.write_text(
        'include: ["a\\0b.yaml"]\napps: {x: {launch: "a\\x00b"}}\nbindings: {super+b: "shell \\"a\\0b\\""}\n'
    )
    said = office.jaklet("check", status=1).stdout
    assert said.count("there is a NUL in this text") == 3


def test_what_a_killed_save_left_behind_is_taken_away(office: Office) -> None:
    left = office.folder / "layouts" / ".arrivals.yaml.999999999.new"
    mine = office.folder / "layouts" / f".arrivals.yaml.{os.getpid()}.new"
    for path in (left, mine):
        path.write_text("layout: arr")
    assert str(left.name) in office.jaklet("doctor", status=None).stderr
    assert not left.exists()
    assert mine.exists()  # somebody is at it
    left.write_text("layout: arr")
    office.jaklet("layout", "save", "arrivals", "--sure")
    assert not left.exists()
