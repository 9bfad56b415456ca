"""Imports run one way, from storey to storey. Typing-only and in-function imports count too: that is where cycles hide."""

import ast
import sys
from collections.abc import Iterator, Mapping
from pathlib import Path

import pytest

SOURCE = Path(__file__).parent.parent / "src" / "jaklet"
CORE = {"core.values", "core.keys", "core.language", "core.actions"}
# Each room, and what it may stand on; a room that is not here may not be there. `files` (files read and written whole),
# `locks` (between processes) and `database` (SQLite files that can break) are the shared helpers outside the core.
ROOMS: dict[str, set[str]] = {
    "core": set(),
    "core.values": set(),
    "core.keys": {"core.values"},
    "core.language": {"core.values"},
    "core.actions": {"core.values", "core.keys", "core.language"},
    "locations": set(),
    "files": CORE,
    "database": CORE,
    "locks": set(),
    "extras": set(),
    "yaml_files": {*CORE, "files"},
    "config": {*CORE, "locations", "files", "locks", "database", "yaml_files"},
    "installed": {*CORE, "files"},
    "keyboards": {*CORE, "files"},
    "checks": {*CORE, "yaml_files", "config", "keyboards"},
    "desktops": {*CORE, "locations", "files", "locks", "database", "yaml_files"},
    "listener": {*CORE, "locations", "locks", "desktops"},
    "rehearsal": {*CORE, "desktops", "listener"},
    "practice": CORE,
    "counters": {*CORE, "database", "practice"},
    "suggesting": {*CORE, "config", "checks"},
    "drawing": {*CORE, "extras", "rehearsal", "counters", "suggesting"},
    "finder": CORE,
    "overlay": {*CORE, "finder", "counters", "drawing"},
    "client": {*CORE, "locations", "listener"},
    "editor": {*CORE, "yaml_files", "config", "checks"},
    "demo": CORE,
    "__init__": set(),
    "__main__": {"cli", "locations"},
}
ROOMS["cli"] = {*ROOMS} - {"__main__", "cli", "core", "database"}
# All that the core may import beside itself: nothing that reads a clock, a file, the environment or the network.
PURE = {
    "__future__", "bisect", "collections", "contextlib", "dataclasses", "difflib", "enum", "fractions", "functools", "itertools", "math",
    "operator", "re", "shlex", "types", "typing", "unicodedata", "zlib",
}  # fmt: skip
# A third-party package, and the only places that may name it.
ONLY_IN = {
    "xcffib": ("desktops/x11/", "desktops/xcb_library.py", "desktops/compositor/xwayland.py", "demo/windows.py"),
    "_cffi_backend": ("desktops/xcb_declarations.py",),
    "typer": ("cli/",),
    "yaml": ("yaml_files/", "config/", "checks/explaining.py", "files.py"),
    "rich": ("drawing/",),
    "jeepney": (
        "listener/notifications.py",
        "desktops/appearance.py",
        "desktops/compositor/",
        "desktops/plasma/",
        "desktops/gnome/",
    ),
    "pygls": ("editor/answers.py", "editor/server.py"),
    "lsprotocol": ("editor/answers.py", "editor/server.py"),
    "pywayland": ("desktops/wayland/", "demo/wayland_windows.py"),
    "inotify_simple": ("listener/file_watch.py",),
    "PIL": ("drawing/desk_pictures.py", "overlay/"),
    "matplotlib": (
        "drawing/figure_files.py",
        "drawing/figures.py",
        "drawing/keycap_figures.py",
        "drawing/posters.py",
        "drawing/suggestions.py",
        "drawing/use_tables.py",
    ),
    "scipy": ("suggesting/assignment.py",),
    "numpy": ("suggesting/",),
    "prompt_toolkit": ("finder/terminal.py", "cli/playing.py"),
}
# The rooms of desks, and those of other desks that they do not know.
STRANGERS = {
    "desktops/tabletop/": ("x11", "plasma", "gnome", "compositor", "wayland"),
    "desktops/x11/": ("tabletop", "plasma", "gnome", "compositor", "wayland"),
    "desktops/wayland/": ("tabletop", "x11", "plasma", "gnome", "compositor"),
    "desktops/compositor/": ("tabletop", "x11", "plasma", "gnome"),
    "desktops/plasma/": ("tabletop", "x11", "gnome"),
    "desktops/gnome/": ("tabletop", "x11", "plasma"),
}
CALLS = {"open", "print", "input", "exec", "eval", "__import__"}  # what the core never does
Sources = Mapping[str, str]  # the text of each module, by its path below `src/jaklet`


def name_of(path: str) -> str:
    """Return the dotted name of a module by its path."""
    return ".".join(("jaklet", *path.removesuffix(".py").split("/"))).removesuffix(".__init__")


def room_of(path: str) -> str:
    """Return the room of a module: the folder below `jaklet`, and in the core the storey."""
    first, *rest = path.removesuffix(".py").split("/")
    return f"core.{rest[0]}" if first == "core" and len(rest) > 1 else first


def imports(text: str, modules: set[str]) -> Iterator[str]:
    """Yield every module that is imported, in whichever form; a name that is a module counts as that module."""
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.Import):
            yield from (one.name for one in node.names)
        elif isinstance(node, ast.ImportFrom):
            if node.level:
                yield "." * node.level + (node.module or "")
                continue
            for one in node.names:
                inner = f"{node.module}.{one.name}"
                yield inner if inner in modules else node.module or ""
        elif isinstance(node, ast.Call):
            called = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            if called in ("import_module", "__import__"):
                first = node.args[0] if node.args else None
                yield named_by(first)


def named_by(node: ast.expr | None) -> str:
    """Return the module that an expression names: all of it, or the package of which any module may be meant."""
    if isinstance(node, ast.JoinedStr) and isinstance(node.values[0], ast.Constant):
        head = str(node.values[0].value)
        return head.removesuffix(".") if head.endswith(".") else "unknown"
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else "unknown"


def faults(sources: Sources) -> list[str]:
    """Return what is wrong with the imports of these modules."""
    modules = {name_of(path): path for path in sources}
    packages = {".".join(name.split(".")[:i]) for name in modules for i in range(1, name.count(".") + 1)}
    edges: dict[str, set[str]] = {}
    found = []
    for path, text in sources.items():
        own, edges[name_of(path)] = room_of(path), set()
        if own not in ROOMS:
            found.append(f"{path} is in no room of the table")
            continue
        for imported in imports(text, {*modules, *packages}):
            top, _, inner = imported.partition(".")
            if not top or imported == "unknown":
                found.append(f"{path} imports by a way that cannot be followed: {imported}")
            elif top == "jaklet":
                edges[name_of(path)].add(imported)
                room = room_of(modules.get(imported) or f"{inner.replace('.', '/') or '__init__'}/")
                if room.rstrip("/") not in ROOMS[own] | {own, "__init__"}:
                    found.append(f"{path} imports {imported}")
            elif (own.startswith("core") and top not in PURE) or (
                top not in sys.stdlib_module_names and not path.startswith(ONLY_IN.get(top, ()))
            ):
                found.append(f"{path} imports {imported}")
        found += [
            f"{path} knows of {desk}"
            for folder, others in STRANGERS.items()
            for desk in others
            if path.startswith(folder) and any(f"desktops.{desk}" in one for one in edges[name_of(path)])
        ]
        if own.startswith("core"):
            calls = {node.func for node in ast.walk(ast.parse(text)) if isinstance(node, ast.Call)}
            found += [f"{path} calls {call.id}" for call in calls if isinstance(call, ast.Name) and call.id in CALLS]
    return found + cycles(edges)


def cycles(edges: Mapping[str, set[str]]) -> list[str]:
    """Return the ways on which modules import each other."""
    found: list[str] = []
    done: set[str] = set()

    def visit(name: str, trail: tuple[str, ...]) -> None:
        if name in trail:
            found.append(f"a cycle: {' -> '.join((*trail, name))}")
        elif name not in done:
            for other in sorted(edges.get(name, ())):
                visit(other, (*trail, name))
            done.add(name)

    for name in edges:
        visit(name, ())
    return found


def test_imports_run_one_way() -> None:
    sources = {path.relative_to(SOURCE).as_posix(): path.read_text() for path in SOURCE.rglob("*.py")}
    assert faults(sources) == []
    assert {room_of(path) for path in sources} == {*ROOMS}  # no room stands in the table alone


PLANTED = {
    "upwards": ({"core/values/a.py": "from jaklet.core.actions.b import c"}, "imports jaklet.core.actions.b"),
    "upwards, as a module of a package": (
        {"core/values/a.py": "from jaklet.core.actions import b", "core/actions/b.py": ""},
        "imports jaklet.core.actions.b",
    ),
    "upwards, plainly": ({"core/values/a.py": "import jaklet.core.actions.b as b"}, "imports jaklet.core.actions.b"),
    "upwards, in a function": ({"core/keys/a.py": "def f():\n  import jaklet.listener"}, "imports jaklet.listener"),
    "upwards, for types": (
        {"core/keys/a.py": "from typing import TYPE_CHECKING\nif TYPE_CHECKING:\n  from jaklet.cli.app import main"},
        "imports jaklet.cli.app",
    ),
    "by a call": (
        {"core/keys/a.py": "import types as importlib\nimportlib.import_module('jaklet.cli')"},
        "imports jaklet.cli",
    ),
    "of a module named in part": (
        {"checks/a.py": "import importlib\nimportlib.import_module(f'jaklet.cli.{x}')"},
        "checks",
    ),
    "of a module named by half a word": (
        {"cli/a.py": "import importlib\nimportlib.import_module(f'jaklet.c{x}')"},
        "followed",
    ),
    "by a call that cannot be read": ({"checks/a.py": "import importlib\nimportlib.import_module(f())"}, "followed"),
    "by a relative import": ({"checks/a.py": "from . import b"}, "followed"),
    "the package of all": ({"core/values/a.py": "from jaklet import cli", "cli/__init__.py": ""}, "imports jaklet.cli"),
    "a clock": ({"core/actions/a.py": "from time import monotonic"}, "imports time"),
    "the environment": ({"core/actions/a.py": "import os.path"}, "imports os.path"),
    "a file": ({"core/actions/a.py": "open('x')"}, "calls open"),
    "a package that may be used elsewhere": ({"listener/a.py": "import xcffib"}, "imports xcffib"),
    "a package that is not ours to use": ({"drawing/a.py": "import pandas"}, "imports pandas"),
    "a desk that knows another": (
        {"desktops/x11/a.py": "from jaklet.desktops.tabletop.b import c"},
        "knows of tabletop",
    ),
    "a room that the table does not have": ({"attic/a.py": ""}, "no room"),
    "a storey that the table does not have": ({"core/cellar/a.py": ""}, "no room"),
    "two that import each other": (
        {"drawing/a.py": "from jaklet.drawing import b", "drawing/b.py": "from jaklet.drawing.a import c"},
        "a cycle: jaklet.drawing.a -> jaklet.drawing.b -> jaklet.drawing.a",
    ),
}


@pytest.mark.parametrize("name", PLANTED)
def test_what_is_planted_is_found(name: str) -> None:
    sources, told = PLANTED[name]
    (fault,) = faults(sources)
    assert told in fault


def test_start_up_loads_no_heavy_package() -> None:
    """`check` and `--help` need neither X nor tables nor a database."""
    import subprocess
    import sys

    for words in (["--version"], ["check", "--help"]):
        code = (
            f"import sys; sys.argv[1:] = {words!r}\n"
            "from jaklet.cli.app import main\n"
            "try: main()\nexcept SystemExit: pass\n"
            "heavy = {'xcffib', 'yaml', 'rich.table', 'sqlite3', 'numpy', 'prompt_toolkit'} & set(sys.modules)\n"
            "assert not heavy, heavy"
        )
        subprocess.run([sys.executable, "-c", code], check=True, capture_output=True)
