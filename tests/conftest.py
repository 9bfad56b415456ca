"""Fixtures: a private X server, a folder with the installed program, and no way to the user's own files."""

import atexit
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from jaklet.demo.harbour import write_files
from tests.preloaded import Preloaded
from tests.xserver import LIMIT, XServer, running

# A loaded machine is no fault of the code: laws are judged by their cases, not by the clock.
# `make test` has to be done in ten minutes there, too; `make test-all` looks at more cases.
settings.register_profile("loaded", deadline=None, suppress_health_check=[HealthCheck.too_slow], max_examples=40)
settings.register_profile("all", settings.get_profile("loaded"), max_examples=100)
settings.load_profile("loaded")


STAYS = ("PATH", "TMPDIR", "VIRTUAL_ENV", "CI", "COLUMNS", "LINES", "MANAGER")


def pytest_addoption(parser: pytest.Parser) -> None:
    """Let the tests of endurance last longer."""
    parser.addoption("--minutes", default="1", help="how long each test of endurance takes (slow ones; default: 1)")
    parser.addoption("--keys", default="4000", help="how many keys a made-up day has (default: 4000)")


def pytest_configure(config: pytest.Config) -> None:
    """Look at more cases where the slow tests are run as well; be the same on an everyday desktop as on a bare machine.

    Nothing of the user's is used: no home, no desktop, no bus. A bus that starts by itself would make programs hand over
    to their first window.
    """
    home = tempfile.mkdtemp(prefix="jaklet-home-")
    atexit.register(shutil.rmtree, home, ignore_errors=True)
    for name in [name for name in os.environ if name not in STAYS and not name.startswith(("PYTEST", "HYPOTHESIS"))]:
        del os.environ[name]
    os.environ |= {
        "HOME": home, "LANG": "C.UTF-8", "DBUS_SESSION_BUS_ADDRESS": "disabled:", "GSETTINGS_BACKEND": "memory",
        "NO_AT_BRIDGE": "1", "TERM": "dumb",
    }  # fmt: skip
    settings.load_profile("loaded" if "not slow" in config.option.markexpr else "all")


# What programs that are launched by the installed one get from our own environment: no bus that starts by itself either.
KEPT = ("PATH", "HOME", "LANG", "DBUS_SESSION_BUS_ADDRESS", "GSETTINGS_BACKEND", "NO_AT_BRIDGE")
JAKLET = str(Path(sys.executable).with_name("jaklet"))


LOADED: list[Preloaded] = []  # at most one for each process of the tests


class Office:
    """The demo's files in a temporary folder, and the program run in it. `installed`: by a process of its own."""

    def __init__(self, folder: Path, x: XServer | None = None, installed: bool = False) -> None:
        self.installed = installed
        write_files(folder)
        self.folder = folder
        self.config = folder / "jaklet.yaml"
        (folder / "run").mkdir(mode=0o700)
        self.env = {name: os.environ[name] for name in KEPT if name in os.environ}
        self.env |= {
            "JAKLET_CONFIG": "jaklet.yaml",
            "JAKLET_DESK": "tabletop:tabletop.yaml",
            "XDG_STATE_HOME": str(folder / "state"),
            "XDG_CONFIG_HOME": str(folder / "config"),
            "XDG_RUNTIME_DIR": str(folder / "run"),
            "XDG_DATA_HOME": str(folder / "data"),
            "XDG_DATA_DIRS": f"{folder / 'share'}:/usr/share",
        }
        if x:
            self.env |= {"DISPLAY": x.display, "JAKLET_DESK": "x11", "PATH": f"{folder / 'bin'}:{os.environ['PATH']}"}

    def jaklet(self, *words: str, status: int | None = 0, **env: str) -> subprocess.CompletedProcess[str]:
        """Run the program; it must end with this status (None: any), and never with a traceback.

        With an environment of its own it is the installed one, as that can change how it begins.
        """
        everything = self.env | env
        if env or self.installed:
            done = subprocess.run(
                [JAKLET, *words], cwd=self.folder, env=everything, capture_output=True, text=True, timeout=3 * LIMIT
            )
        else:
            LOADED[:] = LOADED or [Preloaded()]
            answer = LOADED[0].run(words, self.folder, everything, 3 * LIMIT)
            done = subprocess.CompletedProcess([JAKLET, *words], *answer)
        assert "Traceback" not in done.stderr + done.stdout
        assert status is None or done.returncode == status, (words, done.returncode, done.stdout, done.stderr)
        return done

    def edit(self, old: str, new: str) -> None:
        """Change the config as an editor would."""
        text = self.config.read_text()
        assert old in text
        self.config.write_text(text.replace(old, new))


@pytest.fixture
def office(tmp_path: Path, request: pytest.FixtureRequest) -> Office:
    return Office(tmp_path / "office", installed=request.module.__name__.endswith("test_program"))


@pytest.fixture(scope="session", autouse=True)
def _unloaded() -> Iterator[None]:
    yield
    for one in LOADED:
        one.close()


@pytest.fixture(scope="session")
def x_session() -> Iterator[XServer]:
    with running() as x:
        yield x


@pytest.fixture
def x(x_session: XServer) -> Iterator[XServer]:
    """An X server with an empty desk."""
    x_session.clear()
    yield x_session
    x_session.clear()


@pytest.fixture
def x_office(tmp_path: Path, x: XServer) -> Office:
    return Office(tmp_path / "office", x)
