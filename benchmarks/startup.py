"""Start-up, in processor time: `jaklet --version` and `jaklet check`, beside bare Typer programs."""

import os
import sys
import tempfile
from pathlib import Path

from benchmarks.measure import Row, compared, processor_time
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
    import yaml
    yaml.compose(open(path, encoding="utf-8").read(), Loader=yaml.CLoader)
    print("no findings")
app()
"""
RUNS = 25


def rows() -> list[Row]:
    """Run them in turn, so that all see the same machine."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "office"
        write_files(folder)
        bare = folder / "bare.py"
        bare.write_text(BARE)
        jaklet = str(Path(sys.executable).with_name("jaklet"))
        env = {name: value for name, value in os.environ.items() if not name.startswith("JAKLET_")}
        env["PATH"] = f"{folder / 'bin'}:{env['PATH']}"
        commands = {
            "bare version": [sys.executable, str(bare), "--version"],
            "version": [jaklet, "--version"],
            "bare": [sys.executable, str(bare), "--path", "jaklet.yaml"],
            "check": [jaklet, "check", "jaklet.yaml"],
        }
        times: dict[str, list[float]] = {key: [] for key in commands}
        for _ in range(RUNS):
            for key, command in commands.items():
                times[key].append(processor_time(command, cwd=folder, env=env))
    check = "(c) `jaklet check` of the demo, beside a Typer program that composes the file"
    return [
        compared("(c) `jaklet --version`", times["version"], times["bare version"], "≤ 1.3"),
        compared(check, times["check"], times["bare"], "≤ 1.2"),
    ]
