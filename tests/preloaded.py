"""The program, loaded once for many commands: each is done by a child that begins where it has been loaded.

Loading is most of what a short command costs. What is done is the same code with the same words, environment, folder and
output; `tests/cli/test_program.py` runs the installed program itself, and so does whoever gives an environment of its own.
"""

import json
import os
import socket
import subprocess
import sys
import tempfile
import traceback
from pathlib import Path

ROOT = Path(__file__).parent.parent


class Preloaded:
    """A process that has loaded the program. `run` lets a child of it do a command."""

    def __init__(self) -> None:
        self._folder = tempfile.TemporaryDirectory(prefix="jaklet-loaded-")
        self._path = f"{self._folder.name}/socket"
        with socket.socket(socket.AF_UNIX) as listening:
            listening.bind(self._path)
            listening.listen()
            self._process = subprocess.Popen(
                [sys.executable, "-m", "tests.preloaded"], cwd=ROOT, stdin=listening.fileno(), stdout=subprocess.DEVNULL
            )

    def run(self, words: tuple[str, ...], folder: Path, env: dict[str, str], limit: float) -> tuple[int, str, str]:
        """Do a command; return its exit status, output and errors."""
        with (
            tempfile.TemporaryFile() as out,
            tempfile.TemporaryFile() as err,
            open(os.devnull) as nothing,
            socket.socket(socket.AF_UNIX) as client,
        ):
            client.settimeout(limit)
            client.connect(self._path)
            asked = json.dumps([words, str(folder), env]).encode()
            socket.send_fds(client, [len(asked).to_bytes(4, "big")], [nothing.fileno(), out.fileno(), err.fileno()])
            client.sendall(asked)
            status = int(client.recv(16) or b"99")
            for file in (out, err):
                file.seek(0)
            return status, out.read().decode(), err.read().decode()

    def close(self) -> None:
        """End the process."""
        self._process.kill()
        self._process.wait()
        self._folder.cleanup()


def _serve() -> None:
    import jaklet.checks.run
    import jaklet.cli.desk
    import jaklet.cli.resources
    import jaklet.core.actions.begin
    import jaklet.desktops.tabletop.desktop
    import jaklet.desktops.undo_history
    import jaklet.desktops.x11.desktop
    import jaklet.drawing.desks
    import jaklet.drawing.tables  # noqa: F401  # all of these are loaded for those who come
    from jaklet.cli.app import COMMANDS, app_with

    app_with(COMMANDS)

    listening = socket.socket(fileno=os.dup(0))
    while True:
        client, _ = listening.accept()
        head, files, _, _ = socket.recv_fds(client, 4, 3)
        asked = b""
        while len(asked) < int.from_bytes(head, "big"):
            asked += client.recv(1 << 20)
        child = os.fork()
        if not child:
            listening.close()
            client.close()
            words, folder, env = json.loads(asked)
            _do(words, folder, env, files)
        for file in files:
            os.close(file)
        _, status = os.waitpid(child, 0)
        with client:
            client.sendall(str(os.waitstatus_to_exitcode(status)).encode())


def _do(words: list[str], folder: str, env: dict[str, str], files: list[int]) -> None:
    """Be the program, with these words, and end."""
    from jaklet.__main__ import run

    for number, file in enumerate(files):
        os.dup2(file, number)
        os.close(file)
    os.environ.clear()
    os.environ.update(env)
    os.chdir(folder)
    sys.argv = [str(Path(sys.executable).with_name("jaklet")), *words]
    status = 0
    try:
        run()
    except SystemExit as end:
        status = end.code if isinstance(end.code, int) else int(bool(end.code))
    except BaseException:
        traceback.print_exc()
        status = 1
    for stream in (sys.stdout, sys.stderr):
        if not stream.closed:
            stream.flush()
    os._exit(status)


if __name__ == "__main__":
    _serve()
