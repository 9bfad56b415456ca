"""Commands that the listener does: the whole process, beside a Python that does nothing."""

import os
import resource
import subprocess
import sys
import tempfile
from pathlib import Path

from tests.xserver import XServer, until

from benchmarks.measure import Row, compared
from jaklet.demo.harbour import write_files

RUNS = 40
AIM = "≤ 1.8"


def spent(command: list[str], folder: Path, env: dict[str, str]) -> float:
    """Return the processor time that a command takes, in milliseconds."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(command, cwd=folder, env=env, stdout=subprocess.DEVNULL, check=True)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return (after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime) * 1000


def rows(x: XServer) -> list[Row]:
    """Run them in turn, so that all see the same machine."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "office"
        write_files(folder)
        (folder / "run").mkdir(mode=0o700)
        env = {**os.environ, "DISPLAY": x.display, "XDG_RUNTIME_DIR": str(folder / "run"), "HOME": name}
        env |= {"PATH": f"{folder / 'bin'}:{os.environ['PATH']}", "JAKLET_CONFIG": "jaklet.yaml"}
        jaklet = str(Path(sys.executable).with_name("jaklet"))
        log = folder / "log"
        with log.open("w") as out:
            listener = subprocess.Popen([jaklet, "listen"], cwd=folder, env=env, stdout=out, stderr=out)
        try:
            until(lambda: "listening on" in log.read_text(), "the listener")
            commands = {
                "bare": [sys.executable, "-I", "-c", "pass"],
                "usual": [jaklet, "act", "--desk", "x11", "go berths"],
                "act": [jaklet, "act", "go berths"],
                "status": [jaklet, "status"],
                "desk": [jaklet, "desk", "--format", "json"],
            }
            subprocess.run(commands["act"], cwd=folder, env=env, stdout=subprocess.DEVNULL, check=True)
            times: dict[str, list[float]] = {key: [] for key in commands}
            for _ in range(RUNS):
                for key, command in commands.items():
                    times[key].append(spent(command, folder, env))
        finally:
            listener.terminate()
            listener.wait()
    told = "processor time, beside `python3 -I -c pass`"
    return [
        compared(f'(n) `jaklet act "go berths"` by the listener, {told}', times["act"], times["bare"], AIM),
        compared(f"(n) `jaklet status` by the listener, {told}", times["status"], times["bare"], AIM),
        compared(f"(n) `jaklet desk --format json` by the listener, {told}", times["desk"], times["bare"], AIM),
        compared('(n) `jaklet act "go berths"` without the listener', times["usual"], times["bare"], ""),
    ]
