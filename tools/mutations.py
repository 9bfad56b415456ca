"""Plant faults in the code, one by one, and run the nearest tests of each: which of them would nobody notice?

Run: python tools/mutations.py [--seed N] [--count N] [--changed REV] [--only PART]

Each fault is planted in a copy of the tree. The nearest tests are the files that come to the module over the fewest
imports. A fault that they let pass is printed with its line, before and after.
"""

import argparse
import ast
import contextlib
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import sysconfig
import tempfile
import venv
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from pathlib import Path
from queue import Queue
from typing import NamedTuple

ROOT = Path(__file__).parent.parent
SOURCE = ROOT / "src" / "jaklet"
TESTS = ROOT / "tests"
LIMIT = 500  # seconds for the nearest tests of one fault
MOST_TESTS = 12  # files of tests for one fault, the smallest first
# What is reached by way of a server: with a test that uses one of these.
RUN = {"xserver.py": ("desktops/x11",), "plasma.py": ("desktops/plasma", "desktops/wayland")}
COMPARISONS = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip
ARITHMETIC = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.FloorDiv, ast.FloorDiv: ast.Mult, ast.BitOr: ast.BitAnd,
    ast.BitAnd: ast.BitOr,
}  # fmt: skip
TWINS = {"min": "max", "max": "min", "any": "all", "all": "any"}


class Fault(NamedTuple):
    """A change of one place of a file: the offsets in its text, and the text that is planted there."""

    path: Path
    line: int
    start: int
    end: int
    text: str

    def planted(self, source: str) -> str:
        """Return the source with the fault in it."""
        return source[: self.start] + self.text + source[self.end :]


def faults(path: Path) -> Iterator[Fault]:
    """Yield all faults that can be planted in a file."""
    source = path.read_text()
    starts = [0]
    for line in source.encode().splitlines(keepends=True):
        starts.append(starts[-1] + len(line))
    data = source.encode()

    def offset(line: int, column: int) -> int:
        return len(data[: starts[line - 1] + column].decode())

    tree = ast.parse(source)
    types = {id(inner) for one in ast.walk(tree) for part in _for_types(one) for inner in ast.walk(part)}
    for node in ast.walk(tree):
        for text in _changed(node) if id(node) not in types else ():
            if isinstance(node, ast.expr | ast.stmt) and node.end_lineno and node.end_col_offset is not None:
                start, end = offset(node.lineno, node.col_offset), offset(node.end_lineno, node.end_col_offset)
                yield Fault(path, node.lineno, start, end, text)


def _for_types(node: ast.AST) -> list[ast.AST]:
    """Return the annotations of a node, and what only the type checker reads: a fault in these is for it to find."""
    if isinstance(node, ast.If) and ast.unparse(node.test) == "TYPE_CHECKING":
        return [*node.body]
    return [part for name in ("annotation", "returns") if (part := getattr(node, name, None))]


def _changed(node: ast.AST) -> Iterator[str]:
    """Yield the texts of a node with a fault in it."""
    match node:
        case ast.Compare(left, [operator], [right]) if type(operator) in COMPARISONS:
            yield f"({ast.unparse(ast.Compare(left, [COMPARISONS[type(operator)]()], [right]))})"
        case ast.BinOp(left, operator, right) if type(operator) in ARITHMETIC and not _is_text(node):
            yield f"({ast.unparse(ast.BinOp(left, ARITHMETIC[type(operator)](), right))})"
        case ast.BoolOp(ast.And(), values):
            yield f"({ast.unparse(ast.BoolOp(ast.Or(), values))})"
        case ast.BoolOp(ast.Or(), values):
            yield f"({ast.unparse(ast.BoolOp(ast.And(), values))})"
        case ast.UnaryOp(ast.Not(), operand):
            yield f"({ast.unparse(operand)})"
        case ast.Constant(bool() as value):
            yield str(not value)
        case ast.Constant(int() as value):
            yield str(value + 1)
        case ast.Call(ast.Name(name), [_, *_]) if name in TWINS:
            yield ast.unparse(ast.Call(ast.Name(TWINS[name]), node.args, node.keywords))
        case ast.Call(function, [first, second, *rest], keywords) if not isinstance(first, ast.Starred):
            if ast.dump(first) != ast.dump(second) and not isinstance(second, ast.Starred):
                yield ast.unparse(ast.Call(function, [second, first, *rest], keywords))
        case ast.Expr(ast.Call()) | ast.AugAssign():
            yield "pass"


def _is_text(node: ast.BinOp) -> bool:
    return any(isinstance(one, ast.Constant) and isinstance(one.value, str) for one in (node.left, node.right))


def _imported(path: Path) -> set[str]:
    """Return the modules of ours that a file imports, or that the program or server which it runs comes to."""
    text = path.read_text()
    named = set[str]()
    for package, names in re.findall(r"^\s*from ((?:jaklet|tests)[\w.]*) import \(?([\w, ]+)", text, re.M):
        named |= {package, *(f"{package}.{name.strip()}" for name in names.split(","))}
    rooms = RUN.get(path.relative_to(TESTS).as_posix(), ()) if path.is_relative_to(TESTS) else ()
    if path.parent == TESTS / "cli" and ".jaklet(" in text:
        rooms = ("cli",)
    if path == TESTS / "plasma.py":
        named.discard("tests.xserver")  # it takes a few helpers from there, and runs no X server
    return named | {_name_of(one) for room in rooms for one in (SOURCE / room).glob("*.py")}


@cache
def _graph() -> dict[str, set[str]]:
    """Return the modules that each module imports."""
    return {_name_of(path): _imported(path) for folder in (SOURCE, TESTS) for path in folder.rglob("*.py")}


def _name_of(path: Path) -> str:
    top = ROOT if path.is_relative_to(TESTS) else SOURCE.parent
    return ".".join(path.relative_to(top).with_suffix("").parts)


def _steps(test: Path, name: str) -> int:
    """Return over how many imports a test comes to a module, 99 where it does not."""
    seen, edge = set[str](), _imported(test)
    for steps in range(1, 5):
        if name in edge:
            return steps
        seen |= edge
        edge = {inner for one in edge for inner in _graph().get(one, ())} - seen
    return 99


def nearest(path: Path) -> list[str]:
    """Return the test files nearest to a module: those over the fewest imports, of these the smallest first."""
    name, room = _name_of(path), path.relative_to(SOURCE).parts[0]
    tests = [one for one in TESTS.rglob("test_*.py") if "managers" not in one.parts]
    ranked = sorted(
        (path.stem not in one.stem, _steps(one, name) + (one.parent.name != room), one.stat().st_size, str(one))
        for one in tests
    )
    return [str(Path(one[-1]).relative_to(ROOT)) for one in ranked[:MOST_TESTS]]


def survives(fault: Fault, tree: Path) -> bool | None:
    """Return whether the nearest tests pass with a fault in a copy of the tree; None if it is no sound Python."""
    path = tree / fault.path.relative_to(ROOT)
    sound = path.read_text()
    try:
        planted = fault.planted(sound)
        try:
            ast.parse(planted)
        except SyntaxError:
            return None
        path.write_text(planted)
        pytest = f"{tree}/.venv/bin/python -m pytest -q -x -n 0 --timeout 60".split()
        command = [*pytest, "-m", "not slow", *nearest(fault.path)]
        env = {**os.environ, "PYTHONDONTWRITEBYTECODE": "1"}
        quiet = subprocess.DEVNULL
        with subprocess.Popen(command, cwd=tree, env=env, stdout=quiet, stderr=quiet, start_new_session=True) as tests:
            try:
                return tests.wait(LIMIT) == 0
            except subprocess.TimeoutExpired:
                return False
            finally:
                with contextlib.suppress(ProcessLookupError):  # servers and programs that a test has left behind
                    os.killpg(tests.pid, signal.SIGKILL)
    finally:
        path.write_text(sound)


def copied(tree: Path) -> Path:
    """Copy the tree, with an environment in which the program is the copy's, also where tests run it by its name."""
    shutil.copytree(ROOT, tree, ignore=shutil.ignore_patterns(".git", ".venv", "__pycache__", ".*_cache"))
    venv.create(tree / ".venv", symlinks=True)
    packages = Path(sysconfig.get_path("purelib"))
    own = tree / ".venv" / packages.relative_to(sys.prefix)
    (own / "copied.pth").write_text(f"{tree / 'src'}\n{tree}\n{packages}\n")
    program = tree / ".venv" / "bin" / "jaklet"
    program.write_text(f"#!{program.with_name('python')}\nfrom jaklet.__main__ import run\n\nrun()\n")
    program.chmod(0o755)
    return tree


def _changed_lines(revision: str) -> dict[Path, set[int]]:
    """Return the lines that have changed since a revision, by file."""
    command = ["git", "diff", "-U0", revision, "--", "src/jaklet"]
    found: dict[Path, set[int]] = {}
    path = ROOT
    for line in subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=True).stdout.splitlines():
        if line.startswith("+++ b/"):
            path = ROOT / line.removeprefix("+++ b/")
        elif match := re.match(r"@@ -\S+ \+(\d+)(?:,(\d+))?", line):
            first, count = int(match[1]), int(match[2] or 1)
            found.setdefault(path, set()).update(range(first, first + count))
    return found


def main() -> int:
    """Plant faults, print those that survive, and return 1 if more than one in twenty do."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--count", type=int, default=100)
    parser.add_argument("--changed", metavar="REV", help="only in lines that have changed since this revision")
    parser.add_argument("--only", default="", help="only in files with this in their path")
    told = parser.parse_args()
    lines = _changed_lines(told.changed) if told.changed else None
    paths = [path for path in sorted(SOURCE.rglob("*.py")) if told.only in str(path) and "/demo/" not in str(path)]
    chance = random.Random(told.seed)
    by_file = [[*faults(path)] for path in paths if lines is None or path in lines]
    every = [one for some in by_file for one in some if lines is None or one.line in lines[one.path]]
    # A file is as likely as another of its size, whichever its room.
    chosen = chance.sample(every, min(told.count, len(every)))
    trees: Queue[Path] = Queue()
    with tempfile.TemporaryDirectory() as folder:
        for name in ("one", "two"):
            trees.put(copied(Path(folder) / name))

        def judge(fault: Fault) -> bool | None:
            tree = trees.get()
            try:
                return survives(fault, tree)
            finally:
                trees.put(tree)

        left = judged = 0
        with ThreadPoolExecutor(2) as pool:
            for fault, alive in zip(chosen, pool.map(judge, chosen), strict=True):
                judged += alive is not None
                if alive:
                    left += 1
                    before = fault.path.read_text()[fault.start : fault.end].splitlines()[0]
                    where = f"{fault.path.relative_to(ROOT)}:{fault.line}"
                    print(f"{where}: {before} -> {fault.text}", flush=True)
        print(f"{left} of {judged} faults were noticed by no test")
    return int(left * 20 > judged)


if __name__ == "__main__":
    sys.exit(main())
