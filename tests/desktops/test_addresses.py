"""What `--desk` and the environment mean: which desk, and what is said where there is none."""

import os
from pathlib import Path

import pytest

from jaklet.core.values.errors import DeskError, UsageError
from jaklet.desktops.addresses import KINDS, Address, address_here, address_of, file_of, known_desks
from jaklet.locations import listener_here

MEANT = [  # what is asked for, $DISPLAY; the desk, and the name of its listener
    (None, ":3.0", Address("x11", ":3.0"), "x11:3"),
    ("x11", "far:1.2", Address("x11", "far:1.2"), "x11far:1.2"),
    ("tabletop:{}", ":3", Address("tabletop", "{}"), ""),
    ("tabletop:{}", "", Address("tabletop", "{}"), ""),
]


@pytest.mark.parametrize(("asked", "display", "meant", "listener"), MEANT)
def test_a_desk_is_what_is_asked_for_or_what_is_here(
    asked: str | None, display: str, meant: Address, listener: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file = tmp_path / "quay.yaml"
    file.write_text("displays: []\n")
    monkeypatch.setenv("DISPLAY", display)
    found = address_of(asked and asked.format(file))
    assert found == meant._replace(where=meant.where.format(file))
    assert found.listener == listener
    assert file_of(asked and asked.format(file)) == (file if meant.kind == "tabletop" else None)


def test_in_a_session_of_wayland_that_is_meant_and_not_the_x_server_beside_it(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("DISPLAY", ":3")
    monkeypatch.setenv("WAYLAND_DISPLAY", "wayland-3")
    for desktop, session, meant in (
        ("KDE", "wayland", Address("plasma", "wayland-3")),
        ("Quay:KDE", "wayland", Address("plasma", "wayland-3")),
        ("KDE", "x11", Address("x11", ":3")),
        ("ubuntu:GNOME", "wayland", Address("gnome", "wayland-3")),
        ("GNOME", "x11", Address("x11", ":3")),
    ):
        monkeypatch.setenv("XDG_CURRENT_DESKTOP", desktop)
        monkeypatch.setenv("XDG_SESSION_TYPE", session)
        found = address_of(None)
        assert found == meant
        assert found.listener == ("x11:3" if meant.kind == "x11" else f"{meant.kind}-wayland-3")
    assert address_of("x11") == Address("x11", ":3")
    assert address_of("plasma") is address_of("gnome") is None


@pytest.mark.parametrize(("desktop", "name"), [("pier:Quay", "Quay"), ("Quay", "Quay"), ("", "an unknown desktop")])
def test_the_x_server_of_another_session_on_wayland_is_meant_where_it_is_asked_for(
    desktop: str, name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    for variable, value in (("DISPLAY", ":3"), ("XDG_SESSION_TYPE", "wayland"), ("XDG_CURRENT_DESKTOP", desktop)):
        monkeypatch.setenv(variable, value)
    assert address_of(None) is None
    assert listener_here(None, os.environ) == listener_here("", os.environ) == ""
    with pytest.raises(DeskError, match=f"of this session, {name} on Wayland") as told:
        address_here(None)
    assert "--desk x11" in told.value.remedy
    asked = address_of("x11")
    assert asked == Address("x11", ":3")
    assert "programs of X alone" in asked.limits()
    assert listener_here("x11", os.environ) == "x11:3"
    monkeypatch.setenv("XDG_SESSION_TYPE", "x11")
    assert (address_of(None), asked.limits()) == (asked, "")


def test_where_there_is_none_it_says_why(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delenv("DISPLAY", raising=False)
    assert address_of(None) is None
    assert address_of("x11") is None
    assert [one.here for one in known_desks()] == [""] * len(KINDS)
    with pytest.raises(DeskError, match="DISPLAY is not set"):
        address_here(None)
    for asked in ("tabletop", "tabletop:", "quay", "x11:1", ""):
        with pytest.raises(UsageError) as told:
            address_of(asked)
        assert all(one.written in told.value.remedy for one in KINDS.values())
    with pytest.raises(UsageError, match="no tabletop at"):
        address_of("tabletop:/nowhere/at/all")
