"""Fixtures: desks that several tests share."""

from collections.abc import Iterator

import pytest

from tests import gnome as gnome_session
from tests.gnome import Gnome
from tests.plasma import Plasma, needed, session


@pytest.fixture(scope="session")
def plasma(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Plasma]:
    """A session of Plasma on Wayland."""
    needed()
    with session(tmp_path_factory.mktemp("plasma")) as one:
        yield one


@pytest.fixture(scope="module")
def gnome(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Gnome]:
    """A session of GNOME on Wayland, for one file of tests: the shell grows by a megabyte with each change."""
    gnome_session.needed()
    with gnome_session.session(tmp_path_factory.mktemp("gnome")) as one:
        yield one
