"""What to do where a library is missing: by the way in which this Jaklet was installed, and never by an extra."""

import sys

import pytest

from jaklet.extras import install


@pytest.mark.parametrize(
    ("prefix", "python", "command"),
    [
        ("/home/ada/.local/share/pipx/venvs/jaklet", "/home/ada/.local/share/pipx/venvs/jaklet/bin/python", "pipx inject jaklet pygls"),
        ("/home/ada/clone/.venv", "/home/ada/clone/.venv/bin/python", "/home/ada/clone/.venv/bin/python -m pip install pygls"),
        ("/home/ada/my venv", "/home/ada/my venv/bin/python", "'/home/ada/my venv/bin/python' -m pip install pygls"),
    ],
)  # fmt: skip
def test_the_remedy_is_that_of_the_installation(
    prefix: str, python: str, command: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sys, "prefix", prefix)
    monkeypatch.setattr(sys, "executable", python)
    assert install("pygls") == command
