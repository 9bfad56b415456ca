"""Fixtures: a window manager on a server with outputs, and the program at work on it."""

import contextlib
import shutil
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tests.conftest import Office
from tests.managers.desk import CONFIG, Managed
from tests.managers.reading import Reading
from tests.managers.starting import NAMED, QUICK, Manager, are_arranged, arrange, chosen, managing, needed
from tests.managers.table import ASPECTS, LIMIT, Result, table, written
from tests.xserver import Head, with_heads

BESIDE = (Head(0, 0, 1280, 1024), Head(1280, 0, 1024, 768))
CHOSEN = [
    pytest.param(one, id=name, marks=() if NAMED or name in QUICK else pytest.mark.slow)
    for name, one in chosen().items()
]


@pytest.fixture(scope="session", params=CHOSEN)
def manager(request: pytest.FixtureRequest) -> Manager:
    """Each window manager that is here."""
    one: Manager = request.param
    needed(one)
    return one


@pytest.fixture(scope="session")
def served(manager: Manager, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Managed]:
    """A server with two displays beside one another, and the manager on it."""
    folder = tmp_path_factory.mktemp("managed")
    with with_heads("", BESIDE, folder) as x, contextlib.ExitStack() as stack:
        processes: list[subprocess.Popen[bytes]] = []

        def begin() -> None:
            processes.append(stack.enter_context(managing(x, manager, folder / "home")))
            arrange(x, BESIDE)

        begin()
        reading = Reading(x)
        yield Managed(x, reading, manager, processes, Office(folder / "none", x), begin)
        reading.close()


@pytest.fixture
def desk(served: Managed, tmp_path: Path) -> Iterator[Managed]:
    """An empty desk, and an office with a config for it."""
    served.x.clear()
    if not are_arranged(served.x, BESIDE):
        arrange(served.x, BESIDE)
    office = Office(tmp_path / "office", served.x)
    office.config.write_text(CONFIG)
    shutil.rmtree(office.folder / "layouts")
    one = served._replace(office=office)
    one.jaklet("act", "workspace 1", status=None)
    yield one
    served.x.clear()


@pytest.fixture
def limit(record_property: Callable[[str, object], None]) -> Callable[[str], None]:
    """Note what a manager cannot do, and what Jaklet says of it."""
    return lambda words: record_property(LIMIT, words)


RESULTS: list[Result] = []


def pytest_addoption(parser: pytest.Parser) -> None:
    """Put the table of what came of it into a page."""
    parser.addoption("--table", default="", help="the page into which the table of window managers goes")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Let no test of the suite be without its row."""
    here = [item for item in items if "/managers/" in item.nodeid]
    assert {getattr(item, "originalname", "") for item in here} <= {*ASPECTS, "test_the_table_says_what_came_of_it"}


def pytest_runtest_logreport(report: pytest.TestReport) -> None:
    """Take in what came of a test: in the process that writes the table."""
    if report.when == "call" or report.outcome != "passed":
        test, _, parameters = report.nodeid.rpartition("::")[2].partition("[")
        limits = tuple(str(value) for name, value in report.user_properties if name == LIMIT)
        RESULTS.append(Result(parameters.rstrip("]").partition("-")[0], test, report.outcome, limits))


def pytest_sessionfinish(session: pytest.Session) -> None:
    """Write the table, if that was asked for; never from a part of the processes."""
    where = session.config.getoption("--table", "")
    if where and not hasattr(session.config, "workerinput"):
        page = Path(where)
        page.write_text(written(page.read_text(), table(RESULTS, chosen())))
