"""Fixtures: desks that several tests share."""

from collections.abc import Iterator

import pytest

from tests.plasma import Plasma, needed, session


@pytest.fixture(scope="session")
def plasma(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Plasma]:
    """A session of Plasma on Wayland."""
    needed()
    with session(tmp_path_factory.mktemp("plasma")) as one:
        yield one
