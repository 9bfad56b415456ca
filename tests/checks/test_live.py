"""What only a running desk can tell: by hand-made facts here, and on a real X server below."""

import re
import shutil
from pathlib import Path

import pytest

from jaklet.checks.live import LiveShortcuts, PublishedShortcut, live_findings
from jaklet.checks.run import check_config
from jaklet.config.paths import locate_config
from jaklet.core.keys.accelerators import parse_accelerator
from jaklet.core.values.chords import parse_chord
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.geometry import Rect
from jaklet.drawing.status import pending_lines
from jaklet.installed.programs import InstalledPrograms
from jaklet.installed.shortcuts import shortcuts_in
from jaklet.keyboards.machine import usual_keyboard
from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.xserver import XServer

KEYS = "bindings: {super+tab: close, super+f2: close, super+b: minimise}\n"


@pytest.mark.parametrize(
    ("held", "published", "found"),
    [
        ({}, {}, []),
        ({"super+tab": ""}, {}, [("JK213", "super+tab cannot be had now: another program holds it")]),
        ({"super+tab": "berthd"}, {}, [("JK213", "super+tab cannot be had now: berthd holds it")]),
        (
            {"super+tab": ""}, {"super+tab": "switch"},
            [("JK213", "super+tab cannot be had now: Quay holds it to: switch (schema switch)")],
        ),
        ({}, {"super+f2": "run"}, [("JK214", "super+f2 is the desktop's: run")]),
    ],
)  # fmt: skip
def test_what_others_hold_is_told_with_its_holder(
    held: dict[str, str], published: dict[str, str], found: list[tuple[str, str]], tmp_path: Path
) -> None:
    (tmp_path / "jaklet.yaml").write_text(KEYS)
    case = check_config(locate_config(str(tmp_path)), InstalledPrograms()).case
    facts = LiveShortcuts(
        {parse_chord(text): owner for text, owner in held.items()},
        {parse_chord(text): PublishedShortcut(does, f"schema {does}") for text, does in published.items()},
        "Quay",
    )
    told = list(live_findings(case, facts))
    assert [one.code for one in told] == [code for code, _ in found]
    assert all(one.cause.startswith(words) for one, (_, words) in zip(told, found, strict=True))
    taken = {*held, *published}
    assert all(one.cures and not taken & set(one.cures) for one in told)


@pytest.mark.parametrize(
    ("text", "chord"),
    [
        ("<Super>Up", "super+up"), ("<Primary><Alt>Delete", "ctrl+alt+delete"), ("<Shift><Control>a", "ctrl+shift+a"),
        ("XF86AudioMute", "audiomute"), ("<Alt>F4", "alt+f4"), ("<Super>Above_Tab", None), ("disabled", None),
        ("", None), ("<Hyper>x", None), ("<Mod4>l", "super+l"), ("]", None),
    ],
)  # fmt: skip
def test_accelerators(text: str, chord: str | None) -> None:
    found = parse_accelerator(text)
    assert (str(found) if found else None) == chord


def test_shortcuts_are_read_from_settings_about_keys_alone() -> None:
    lines = [
        "org.ellery.wm.keybindings close ['<Alt>F4', '<Super>q']",
        "org.ellery.wm.keybindings maximize @as []",
        "org.ellery.media-keys volume-up 'XF86AudioRaiseVolume'",
        "org.ellery.sound theme '<Super>x'",
        "nonsense",
    ]
    assert [(str(one.chord), one.does, one.setting) for one in shortcuts_in(lines)] == [
        ("alt+f4", "close", "org.ellery.wm.keybindings close"),
        ("super+q", "close", "org.ellery.wm.keybindings close"),
        ("audioraisevolume", "volume up", "org.ellery.media-keys volume-up"),
    ]


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ('XKBLAYOUT="de"\n', "de"), ("XKBLAYOUT=fr,us\n", "fr"), ('XKBLAYOUT="us"\nXKBVARIANT="dvorak"\n', "dvorak"),
        ('XKBLAYOUT="ru"\n', "us"), ("", "us"),
    ],
)  # fmt: skip
def test_the_keyboard_of_the_machine(text: str, name: str, tmp_path: Path) -> None:
    assert usual_keyboard(tmp_path / "none") == "us"
    (tmp_path / "keyboard").write_text(text)
    assert usual_keyboard(tmp_path / "keyboard") == name


def test_the_window_manager_of_a_real_desk_holds_some(x_office: Office) -> None:
    """Metacity holds super+tab, and says so in its settings."""
    x_office.edit("  super+z: focus last", "  super+tab: focus last")
    found = x_office.jaklet("check", "--live", "--strict", status=1).stdout
    assert "warning JK213 super+tab cannot be had now: Metacity holds it to: switch" in found
    assert found.count("JK213") == 1


def test_many_bindings_with_one_reason_are_one_line() -> None:
    held = [f"super+{key} everywhere: go radio: berthd holds the Super key" for key in "abcde"]
    lines = pending_lines(7, (), (), [*held, "super+tab everywhere: focus last: another program holds it"])
    assert lines[1:] == [
        "6 bindings need more than a reload:",
        "  super+a, super+b, super+c and 2 more chords: berthd holds the Super key",
        "  super+tab everywhere: focus last: another program holds it",
    ]


def test_check_says_what_the_listener_does_not_go_by_yet(x_office: Office) -> None:
    x_office.edit("  super+z: focus last", "  super+tab: focus last")
    listening = Listening(x_office)
    said = x_office.jaklet("check").stdout.splitlines()
    assert said[1:] == [
        f"the listener (process {listening.process.pid}) goes by all of this",
        "1 binding needs more than a reload:",
        "  super+tab everywhere: focus last: another program holds it",
    ]
    assert "JK213" in x_office.jaklet("check", "--live").stdout  # the listener's own chords are no conflict
    assert x_office.jaklet("check", "--live").stdout.count("JK213") == 1
    x_office.edit("  super+b: go berths", "  super+b: {do: go radio, not in: radio}")
    said = x_office.jaklet("check").stdout.splitlines()
    assert "does not go by 2 changes yet: run `jaklet reload`" in said[1]
    x_office.edit("  super+tab: focus last", "  super+tab: focus last\n  super+v h: focus left")
    x_office.jaklet("reload")
    x_office.edit("super+v h: focus left", "super+v h: focus right")
    assert x_office.jaklet("check", "--live").stdout.count("JK213") == 1  # nor what it holds for the old text
    x_office.edit("super+v h: focus right", "super+v h: focus left")
    x_office.edit("not in: radio}", "not in: [radio, tides]}")
    said = x_office.jaklet("check").stdout.splitlines()
    assert said[2:4] == ["  new: super+b not in radio or tides: go radio", "  gone: super+b not in radio: go radio"]
    x_office.edit("super+r: go radio", "super+r: go rdio")
    assert "goes on with the config as it was before these errors" in x_office.jaklet("check", status=1).stdout
    x_office.edit("super+r: go rdio", "super+r: go radio")
    x_office.jaklet("reload")
    assert "goes by all of this" in x_office.jaklet("check").stdout
    assert listening.stop() == 0


def test_a_class_in_other_letters_and_a_display_that_is_not_there_are_told_of(tmp_path: Path) -> None:
    (tmp_path / "jaklet.yaml").write_text(
        "displays: {main: {name: DP-1}, quay: {name: HDMI-1}}\n"
        "apps:\n  term: {launch: xterm, window: {class: Xterm}}\n  notes: {launch: notes, window: {class: Wrong}}\n"
        "  log: {launch: radio-log, window: {class: RadioLog}}\n  far: {launch: far, window: {class: Far}}\n"
    )
    case = check_config(locate_config(str(tmp_path)), InstalledPrograms()).case
    screen = Rect(0, 0, 1920, 1080)
    windows = (
        Window(1, cls="XTerm", instance="xterm"), Window(2, cls="PilotNotes", process="notes"),
        Window(3, cls="RadioLog"), Window(4, cls="Radiolog"),
    )  # fmt: skip
    desk = Desk((Display("DP-1", screen, screen),), windows, (1, 2, 3, 4))
    told = [(one.code, one.spot.line, one.remedy) for one in live_findings(case, LiveShortcuts({}, {}, "Quay", desk))]
    assert told == [
        ("JK316", 1, "there are DP-1"),
        ("JK407", 3, "write: window: {class: XTerm}"),
        ("JK407", 4, "write: window: {class: PilotNotes}"),
    ]


def test_the_keys_of_a_first_config_are_those_that_a_live_check_calls_free(x_office: Office) -> None:
    """Also where another program holds some of them."""
    thief = x_office.folder / "thief"
    thief.mkdir()
    (thief / "jaklet.yaml").write_text("bindings: {super+b: close, super+left: minimise, super+1: gather}\n")
    first = Listening(x_office, "--config", str(thief))
    folder = x_office.folder / "first"
    x_office.jaklet(
        "init", "--config", f"{folder}/", XDG_RUNTIME_DIR=str(x_office.folder)
    )  # it is nobody's own listener
    text = (folder / "jaklet.yaml").read_text()
    for taken in ("super+b:", "  super+left:", "super+1:"):
        assert taken not in text
    found = x_office.jaklet("check", "--live", "--config", f"{folder}/", XDG_RUNTIME_DIR=str(x_office.folder)).stdout
    assert not re.findall(r"JK21[1-4]", found), found
    assert first.stop() == 0


TWICE = "bindings:\n  super+f7: close\n  super+f7: minimise\n  super+u: maximise\n"


@pytest.mark.parametrize("whole", [False, True], ids=["chords", "the modifier itself"])
def test_no_cure_is_a_chord_that_somebody_else_has(whole: bool, x: XServer, x_office: Office) -> None:
    """Another client holds what would be offered first, or the Super key by itself, so that no chord with it is heard."""
    shutil.rmtree(x_office.folder / "layouts")
    x_office.config.write_text(TWICE)
    first = x_office.jaklet("check", "--fix", "--yes", DISPLAY="").stdout.split(" is now ")[1].split()[0]
    moved = x_office.config.read_text()
    x_office.config.write_text(TWICE)
    held = ["super"] if whole else [first, "ctrl+alt+u"]
    with x.held(*held):
        x_office.jaklet("check", "--fix", "--yes")
        cured = x_office.config.read_text()
        assert cured not in (TWICE, moved)
        assert not whole or cured.count("super") == 2
        offered = x_office.jaklet("keys", "why", "super+u").stdout.partition("free, like it")[2]
        assert offered
        assert "super" not in offered if whole else first not in offered
        told = x_office.jaklet("check", "--fix", "--base", "ctrl+alt", "--yes").stdout
        assert (
            "ctrl+alt+u" in told.partition("not heard on this desk, where others have them:")[2].partition("\n")[0]
        ) is not whole
