"""Hosts of the SSH client's config."""

from pathlib import Path

import pytest

from jaklet.installed.hosts import ssh_hosts


def test_names_that_stand_for_one_host(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("HOME", str(tmp_path))
    folder = tmp_path / ".ssh"
    (folder / "more").mkdir(parents=True)
    (folder / "config").write_text(
        "# the harbour\nInclude more/*.conf\nHost pilot harbour-master  # two names\n  HostName 10.0.0.1\n"
        'host="tide gauge"\nHost *\n  User mate\nHost !lock lock? -oProxyCommand=x pilot\nMatch host other\nHost "open\n'
        f"Include {folder}/config\n"
    )
    (folder / "more" / "a.conf").write_text("HOST lightship\nHostName 10.0.0.2\n")
    assert ssh_hosts() == ["lightship", "pilot", "harbour-master", "tide gauge"]
    assert ssh_hosts(tmp_path / "none") == []
