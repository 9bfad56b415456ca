"""Commands around the listener, of which none needs one that runs."""

import configparser
import os
import re
import shlex
import signal
import subprocess

from jaklet.core.values.desktop_entries import parse_entry
from tests.conftest import JAKLET, Office
from tests.xserver import LIMIT, XServer, until


def test_autostart_by_a_unit_or_an_entry_and_off_again(office: Office) -> None:
    odd = office.folder / 'a "b" $c %d'
    odd.mkdir()
    (odd / "jaklet.yaml").write_text("")
    config = office.folder / "config"
    unit, entry = config / "systemd" / "user" / "jaklet.service", config / "autostart" / "jaklet.desktop"
    assert office.jaklet("autostart").stdout == "off: jaklet autostart on\n"
    office.jaklet("autostart", "on", "--by", "systemd", "--config", str(odd))
    read = configparser.RawConfigParser(strict=False)
    read.optionxform = str  # type: ignore[assignment, method-assign]
    read.read(unit)
    command = shlex.split(read["Service"]["ExecStart"].replace("$$", "$").replace("%%", "%"))
    assert command == [JAKLET, "listen", "--config", str(odd)]
    assert read["Service"]["Restart"] == "on-failure"
    wanted = unit.parent / "graphical-session.target.wants" / unit.name
    assert wanted.resolve() == unit.resolve()
    assert str(unit) in office.jaklet("autostart").stdout
    office.jaklet("autostart", "on", "--by", "desktop", "--config", str(odd))
    assert not unit.exists()
    assert not wanted.is_symlink()
    known = parse_entry("jaklet.desktop", entry.read_text())
    assert [*known.command] == [JAKLET, "listen", "--config", str(odd), "--restart"]
    office.jaklet("autostart", "off")
    assert office.jaklet("autostart").stdout == "off: jaklet autostart on\n"


def test_without_a_listener_or_a_desk_each_command_says_so(office: Office) -> None:
    assert "no listener is running" in office.jaklet("status", status=3).stderr
    assert '"listening": false' in office.jaklet("status", "--format", "json", status=3).stdout
    for command in ("pause", "resume", "stop", "reload"):
        assert "DISPLAY is not set" in office.jaklet(command, status=2, JAKLET_DESK="x11").stderr


def test_a_listener_that_is_killed_is_started_again(x: XServer, x_office: Office) -> None:
    log = x_office.folder / "listen.log"
    with log.open("w") as out:
        process = subprocess.Popen(
            [JAKLET, "listen", "--restart"], cwd=x_office.folder, env=x_office.env, stdout=out, stderr=out
        )
    pids: list[int] = []
    for times in (1, 2):
        until(lambda times=times: log.read_text().count("listening on") == times, "the listener")  # type: ignore[misc]
        pids.append(int(re.findall(r"process (\d+)", x_office.jaklet("status").stdout)[0]))
        if times == 1:
            os.kill(pids[0], signal.SIGKILL)
    assert pids[0] != pids[1]
    assert "ended with status -9, and is started again" in log.read_text()
    assert x.can_grab("super+f8")
    process.send_signal(signal.SIGTERM)
    assert process.wait(LIMIT) == 0


def test_in_a_session_that_is_not_known_nothing_is_done_by_halves(x_office: Office) -> None:
    """Its X server has none of the windows of other programs, and hears no keys while one of these is in front."""
    x_office.env |= {"XDG_SESSION_TYPE": "wayland", "XDG_CURRENT_DESKTOP": "pier:Quay"}
    asked = x_office.env.pop("JAKLET_DESK")
    for words in (["listen"], ["act", "go berths"], ["fire", "super+b"], ["desk"], ["layout", "recall", "arrivals"]):
        told = x_office.jaklet(*words, status=1).stderr
        assert "the windows of this session, Quay on Wayland" in told, words
        assert "--desk x11" in told
    assert "Quay on Wayland" in x_office.jaklet("doctor", status=1).stdout
    assert "no findings" in x_office.jaklet("check").stdout
    x_office.env["JAKLET_DESK"] = asked
    command = {"cwd": x_office.folder, "env": x_office.env, "text": True}
    with subprocess.Popen([JAKLET, "listen"], stdout=subprocess.PIPE, **command) as listening:  # type: ignore[call-overload]
        first, second = listening.stdout.readline(), listening.stdout.readline()
        assert first == "this is the X server of a session on Wayland: programs of X alone are seen and heard\n"
        assert second.startswith("listening on x11")
        assert x_office.jaklet("status", status=None).stdout.startswith("listening")
        x_office.jaklet("stop")
        assert listening.wait(LIMIT) == 0
