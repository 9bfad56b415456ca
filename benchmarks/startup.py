"""Start-up: `jaklet --version` and `jaklet check` on a small config, beside a Typer program that does nothing."""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.measure import Row, compared
from jaklet.demo.harbour import write_files

BARE = """
import typer
def tell(asked: bool) -> None:
    if asked:
        print("bare 1.0")
        raise typer.Exit
app = typer.Typer()
@app.command()
def check(path: str = "", version: bool = typer.Option(False, callback=tell, is_eager=True)) -> None:
    print("no findings")
app()
"""
RUNS = 25


def timed(command: list[str], folder: Path) -> float:
    """Return how long a command takes, in milliseconds."""
    env = {name: value for name, value in os.environ.items() if not name.startswith("JAKLET_")}
    start = time.perf_counter()
    subprocess.run(command, cwd=folder, stdout=subprocess.DEVNULL, env=env, check=False)
    return (time.perf_counter() - start) * 1000


def rows() -> list[Row]:
    """Run them in turn, so that all see the same machine."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "office"
        write_files(folder)
        bare = folder / "bare.py"
        bare.write_text(BARE)
        jaklet = str(Path(sys.executable).with_name("jaklet"))
        os.environ["PATH"] = f"{folder / 'bin'}:{os.environ['PATH']}"
        commands = {
            "bare version": [sys.executable, str(bare), "--version"],
            "version": [jaklet, "--version"],
            "bare": [sys.executable, str(bare), "--path", "jaklet.yaml"],
            "check": [jaklet, "check", "jaklet.yaml"],
        }
        times: dict[str, list[float]] = {key: [] for key in commands}
        for _ in range(RUNS):
            for key, command in commands.items():
                times[key].append(timed(command, folder))
    return [
        compared("(c) `jaklet --version`", times["version"], times["bare version"], "≤ 1.3"),
        compared("(c) `jaklet check`, the demo's 67 bindings", times["check"], times["bare"], "≤ 1.3"),
    ]
