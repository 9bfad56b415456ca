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
