"""Whatever is in the files, a check ends with findings or a clean read, in little time and memory, and never with a traceback."""

import os
import resource
import subprocess
import tempfile
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaklet import __version__
from jaklet.checks.run import check
from jaklet.checks.why import why
from jaklet.config.paths import locate
from jaklet.core.keys.chords import parse_keys
from jaklet.core.keys.keymap import REST, Keymap
from jaklet.core.keys.sheet import sheet
from jaklet.drawing.findings import findings_data, findings_text
from jaklet.drawing.sarif import sarif
from jaklet.drawing.sheets import sheet_text
from jaklet.drawing.whys import why_text
from jaklet.installed.programs import Installed
from tests.conftest import JAKLET

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
        result = check(locate(str(path)), Installed(["sh"]))
        lines = {name: source.lines for name, source in result.reading.sources.items()}
        findings_text(result.findings, lines)
        findings_data(result.findings)
        sarif(result.findings, __version__)
        why_text(why(result, parse_keys("super+b")))
        if result.usable:
            sheet_text(sheet(result.config), 80)
            Keymap(result.config).hearing(REST)


def mutated(seed: bytes, changes: list[tuple[float, int, bytes]]) -> bytes:
    for where, length, piece in changes:
        at = int(where * len(seed))
        seed = seed[:at] + piece + seed[at + length :]
    return seed


@settings(max_examples=300, deadline=None, suppress_health_check=list(HealthCheck))
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
