"""Options of the made-up day."""

import pytest


@pytest.fixture
def soak_keys(request: pytest.FixtureRequest) -> int:
    """How many keys are pressed in a day."""
    return int(request.config.getoption("--keys"))
