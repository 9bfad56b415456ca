"""Fixtures: desks that several tests share."""

from collections.abc import Iterator

import pytest

from tests import gnome as gnome_session
from tests.gnome import Gnome
from tests.plasma import Edges, Plasma, edges_of, needed, session


@pytest.fixture(scope="session")
def plasma(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Plasma]:
    """A session of Plasma on Wayland."""
    needed()
    with session(tmp_path_factory.mktemp("plasma")) as one:
        yield one


@pytest.fixture(scope="session")
def edges(plasma: Plasma) -> Edges:
    """How wide the frames of windows are on Plasma."""
    return edges_of(plasma.env)


@pytest.fixture(scope="module")
def gnome(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Gnome]:
    """A session of GNOME on Wayland, for one file of tests: the shell grows by a megabyte with each change."""
    gnome_session.needed()
    with gnome_session.session(tmp_path_factory.mktemp("gnome")) as one:
        yield one
