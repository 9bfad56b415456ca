"""Imports run one way. Typing-only and in-function imports count too: that is where cycles hide."""

import ast
from collections.abc import Iterator
from pathlib import Path

import pytest

SOURCE = Path(__file__).parent.parent / "src" / "jaklet"
# Each layer, and what it may stand on. `files` (files read and written whole) and `database`
# (SQLite files that can break) are the shared helpers outside the core.
LAYERS = {
    "core": set(),
    "files": {"core"},
    "database": {"core"},
    "config": {"core", "files", "database"},
    "installed": {"core", "files"},
    "keyboards": {"core"},
    "checks": {"core", "config", "keyboards"},
    "desktops": {"core", "files", "database"},
    "listener": {"core", "desktops"},
    "rehearsal": {"core", "desktops", "listener"},
    "drawing": {"core", "rehearsal"},
    "finder": {"core"},
    "demo": {"core"},
    "__main__": {"cli"},
    "cli": {
        "core",
        "files",
        "config",
        "checks",
        "keyboards",
        "desktops",
        "installed",
        "listener",
        "rehearsal",
        "drawing",
        "finder",
        "demo",
    },
}
NOT_IN_CORE = {
    "os", "sys", "io", "time", "random", "pathlib", "subprocess", "socket", "logging", "select", "signal", "tempfile",
    "yaml", "PIL", "typer", "rich", "matplotlib", "scipy", "numpy", "xcffib", "platformdirs", "prompt_toolkit",
}  # fmt: skip
# A third-party package, and the only places that may name it.
ONLY_IN = {
    "xcffib": ("desktops/x11/", "demo/windows.py"),
    "typer": ("cli/",),
    "yaml": ("config/", "checks/explaining.py", "desktops/tabletop/file.py", "files.py"),
    "rich": ("drawing/",),
    "jeepney": ("listener/notices.py",),
    "inotify_simple": ("listener/watching.py",),
    "PIL": ("drawing/pictures.py",),
    "matplotlib": ("drawing/figures.py",),
    "scipy": (),
    "numpy": (),
    "prompt_toolkit": ("finder/screen.py", "cli/playing.py"),
}
MODULES = sorted(SOURCE.rglob("*.py"))


def imports(path: Path) -> Iterator[str]:
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (name.name for name in node.names)
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"relative import in {path}"
            yield node.module or ""
            yield from (f"{node.module}.{name.name}" for name in node.names if node.module == "jaklet")


def layer(path: Path) -> str:
    return path.relative_to(SOURCE).parts[0].removesuffix(".py")


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_a_module_imports_only_what_it_may(path: Path) -> None:
    own, name = layer(path), path.relative_to(SOURCE).as_posix()
    for imported in imports(path):
        parts = imported.split(".")
        if parts[0] == "jaklet" and len(parts) > 1 and own in LAYERS:
            assert parts[1] == own or parts[1] in LAYERS[own] | {"__version__"}, f"{name} imports {imported}"
        if own == "core":
            assert parts[0] not in NOT_IN_CORE, f"{name} imports {imported}"
        places = ONLY_IN.get(parts[0])
        assert places is None or name.startswith(places), f"{name} imports {imported}"
        if "desktops/tabletop" in name:
            assert "x11" not in imported
        if "desktops/x11" in name:
            assert "tabletop" not in imported


@pytest.mark.parametrize("path", [path for path in MODULES if layer(path) == "core"], ids=lambda path: path.name)
def test_the_core_neither_opens_nor_prints(path: Path) -> None:
    calls = {
        node.func.id
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name)
    }
    assert not calls & {"open", "print", "input"}


def test_no_two_modules_import_each_other() -> None:
    """No cycle between modules, whichever way an import is written."""
    names = {".".join(("jaklet", *path.relative_to(SOURCE).with_suffix("").parts)): path for path in MODULES}
    edges = {name: {found for found in imports(path) if found in names} for name, path in names.items()}
    done: set[str] = set()

    def visit(name: str, trail: tuple[str, ...]) -> None:
        assert name not in trail, f"a cycle: {' -> '.join((*trail, name))}"
        if name not in done:
            for other in edges[name]:
                visit(other, (*trail, name))
            done.add(name)

    for name in names:
        visit(name, ())


def test_start_up_loads_no_heavy_package() -> None:
    """`check` and `--help` need neither X nor tables nor a database."""
    import subprocess
    import sys

    for words in (["--version"], ["check", "--help"]):
        code = (
            f"import sys; sys.argv[1:] = {words!r}\n"
            "from jaklet.cli.app import main\n"
            "try: main()\nexcept SystemExit: pass\n"
            "heavy = {'xcffib', 'yaml', 'rich.table', 'sqlite3', 'numpy', 'platformdirs', 'prompt_toolkit'} & set(sys.modules)\n"
            "assert not heavy, heavy"
        )
        subprocess.run([sys.executable, "-c", code], check=True, capture_output=True)
