"""Plasma on Wayland, with a real KWin: the program at work in a session of it, and the bus between the two."""

import os
import random
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from jeepney import DBusAddress, HeaderFields, MessageType, message_bus, new_method_call, new_signal
from jeepney.io.blocking import DBusConnection, open_dbus_connection
from jeepney.wrappers import unwrap_msg

from jaklet.core.keys.keymap import HearableKeys
from jaklet.core.values.changes import Move
from jaklet.core.values.chords import parse_chord
from jaklet.core.values.desk import DIALOG, NORMAL
from jaklet.core.values.geometry import Rect
from jaklet.demo.harbour import write_files
from jaklet.desktops import plasma as on_plasma
from jaklet.desktops.compositor.bus import BUS
from jaklet.desktops.plasma.desktop import PlasmaDesktop
from tests.conftest import JAKLET
from tests.plasma import Edges, Plasma, version_of
from tests.xserver import until

SCRIPTING = DBusAddress("/Scripting", "org.kde.KWin", "org.kde.kwin.Scripting")
HOSTILE = "\"); quit(); (' \\ </script>\n${x} end"


@pytest.fixture
def env(plasma: Plasma, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> dict[str, str]:
    """The environment of a program of the session that has the harbour office's config and programs."""
    folder = tmp_path / "office"
    write_files(folder)
    config = folder / "jaklet.yaml"
    config.write_text(config.read_text().replace("DP-1", "Virtual-0").replace("HDMI-1", "Virtual-1"))
    env = {**plasma.env, "JAKLET_CONFIG": str(config), "XDG_STATE_HOME": str(tmp_path / "state")}
    env |= {"PATH": f"{folder / 'bin'}:/usr/bin:/bin", "XDG_DATA_DIRS": f"{folder / 'share'}:/usr/share"}
    for name, value in env.items():
        monkeypatch.setenv(name, value)
    return env


def jaklet(env: dict[str, str], *words: str, status: int | None = 0) -> str:
    done = subprocess.run([JAKLET, *words], env=env, capture_output=True, text=True, timeout=60)
    assert status is None or done.returncode == status, (words, done.stdout, done.stderr)
    return done.stdout + done.stderr


def seen(env: dict[str, str], title: str, edges: Edges) -> Rect:
    """Return the frame of a window: what its X server shows of it, and the title bar above, which KWin draws itself."""
    told = subprocess.run(
        ["xwininfo", "-name", title, "-frame", "-stats"], env=env, capture_output=True, text=True, check=True
    ).stdout
    names = ("Absolute upper-left X:", "Absolute upper-left Y:", "Width:", "Height:")
    x, y, width, height = (int(re.search(rf"{name}\s+(-?\d+)", told)[1]) for name in names)  # type: ignore[index]
    return edges.around(x, y, width, height)


def test_a_day_at_the_harbour_office(env: dict[str, str], edges: Edges) -> None:
    """Launched, placed, kept, scrambled and recalled; judged by the X server that shows the windows."""
    for sentence in ("go berths", "place left 2/3", "go radio", "place right 1/3", "go tides", "place full on quay"):
        jaklet(env, "act", sentence)
    jaklet(env, "act", "go berths")
    told = jaklet(env, "layout", "save", "departures", "--number", "1")
    assert "place: berths left 2/3 on main, tides full on quay, radio right 1/3 on main" in told
    stood = {title: seen(env, title, edges) for title in ("Berth board", "Radio log", "Tide gauge")}
    assert stood["Berth board"] == (8, 8, 1267, 1064)
    assert stood["Radio log"] == (1283, 8, 629, 1064)
    assert stood["Tide gauge"] == (1928, 8, 1904, 1064)
    for sentence in ("maximise berths", "place radio centre 40% x 40% on quay", "minimise tides", "close radio"):
        jaklet(env, "act", sentence)
    told = jaklet(env, "layout", "recall", "departures")
    assert "3 of 3 windows in place" in told
    assert {title: seen(env, title, edges) for title in stood} == stood
    assert "focus: berths" in jaklet(env, "desk")
    jaklet(env, "undo")
    assert "maximised" in jaklet(env, "desk")
    jaklet(env, "act", "send radio to workspace post")
    assert re.search(r"radio .* post", jaklet(env, "desk"))
    jaklet(env, "act", "go radio")
    assert "workspace 2 (post) of 4" in jaklet(env, "desk")
    for app in ("berths", "radio", "tides"):
        jaklet(env, "act", f"close {app}")
    until(lambda: "0 windows" in jaklet(env, "desk"), "an empty desk")


STEPS = f"""settings: {{gap: 8}}
displays: {{main: {{name: Virtual-0}}}}
apps: {{steps: {{launch: {sys.executable} -m jaklet.demo.windows --class Steps --title Steps --step 9x17 --least 90x51, window: {{class: Steps}}}}}}
bindings: {{ctrl+alt+shift+f9: place full}}
"""


def test_a_window_that_takes_its_size_in_steps_has_its_place(env: dict[str, str], edges: Edges) -> None:
    """As a terminal does, whose steps KWin tells nobody: arranged beside others for good, and saved by name.

    KWin 6 heeds no steps of a program of X: it has every size.
    With a bar of 37 pixels and no other edges, by hand: 90 + 59 * 9 = 621 of 629 across; 51 + 57 * 17 = 1020 of 1027.
    """
    across, down = (9, 17) if version_of(env) < 6 else (1, 1)
    config = Path(env["JAKLET_CONFIG"])
    for layout in (config.parent / "layouts").glob("*.yaml"):
        layout.unlink()
    config.write_text(STEPS + "workspaces: {1: {arranged: one large left 2/3}}\n")
    jaklet(env, "act", "workspace 1")
    log = config.parent / "log"
    with log.open("w") as out:
        listener = subprocess.Popen([JAKLET, "listen"], env=env, stdout=out, stderr=subprocess.STDOUT)
    try:
        until(lambda: "listening on" in log.read_text(), "the listener")
        for number in (1, 2):
            jaklet(env, "act", "launch steps")
            until(lambda number=number: f"{number} window" in log.read_text(), "an arrangement")  # type: ignore[misc]
        shared = frames(env, edges)
        (x, _, large, _), (further, _, rest, _) = shared
        around = edges.with_content(0, 0)[0]
        assert (x, further, (large - around) % across, (rest - around) % across) == (8, 8 + large + 8, 0, 0), shared
        assert 1912 - across < further + rest <= 1912, shared  # less than a step is left over
        for sentence in ("maximise", "restore", "go steps", "go steps"):
            jaklet(env, "act", sentence)
        assert frames(env, edges) == shared
        assert "workspace 1 on main: one large left 2/3\n" in jaklet(env, "status")
        assert not re.search("took no other size|was asked to be", log.read_text()), log.read_text()
    finally:
        listener.terminate()
        listener.wait()
        jaklet(env, "act", "close all of steps", status=None)
    config.write_text(STEPS)
    jaklet(env, "act", "go steps")
    jaklet(env, "act", "place right 1/3")
    wide, high = edges.content(629, 1064)
    width, height = edges.with_content(90 + (wide - 90) // across * across, 51 + (high - 51) // down * down)
    assert frames(env, edges) == [Rect(1912 - width, 8, width, height)]
    assert "place: steps right 1/3 on main" in jaklet(env, "layout", "save", "one")
    jaklet(env, "act", "close steps")


def frames(env: dict[str, str], edges: Edges) -> list[Rect]:
    """Return the frames of the windows of that class, by the X server."""
    told = subprocess.run(["xwininfo", "-root", "-tree"], env=env, capture_output=True, text=True, check=True).stdout
    found = re.findall(r'\("steps" "Steps"\)\s+(\d+)x(\d+)\S+\s+\+(-?\d+)\+(-?\d+)', told)
    return sorted(edges.around(int(x), int(y), int(width), int(height)) for width, height, x, y in found)


@pytest.fixture
def desk(env: dict[str, str], tmp_path: Path) -> Iterator[PlasmaDesktop]:
    assert os.environ["WAYLAND_DISPLAY"] == env["WAYLAND_DISPLAY"]
    one = on_plasma.connect(lambda: tmp_path / "logs")
    yield one
    one.close()


def shown(env: dict[str, str], desk: PlasmaDesktop, title: str) -> subprocess.Popen[bytes]:
    """Open a window, and wait until it is told of."""
    command = [sys.executable, "-m", "jaklet.demo.windows", "--class", "Tally", "--title", title, "--size", "400x300"]
    process = subprocess.Popen(command, env=env)
    end = desk.look().now + 20
    while not any(one.cls.lower() == "tally" for one in desk.wait(end).desk.windows):
        assert desk.look().now < end
    return process


def test_two_hundred_moves_are_exact_and_titles_are_only_text(
    env: dict[str, str], desk: PlasmaDesktop, edges: Edges
) -> None:
    process = shown(env, desk, HOSTILE)
    try:
        window = next(one for one in desk.look().desk.windows if one.cls.lower() == "tally")
        assert window.title.split() == HOSTILE.split()
        chance = random.Random(5)
        for turn in range(200):
            x, y = chance.randint(-100, 3000), chance.randint(0, 900)
            frame = Rect(x, y, chance.randint(200, 1500), chance.randint(100, 900))
            desk.apply([Move(window.id, frame)])
            while not (moment := desk.wait(desk.look().now + 5)).settled:
                pass
            assert moment.desk.by_id[window.id].frame == frame
            if turn % 10 == 0:
                tree = ["xwininfo", "-root", "-tree"]
                told = subprocess.run(tree, env=env, capture_output=True, text=True, check=True)
                wide, high = edges.content(frame.width, frame.height)
                assert f"{wide}x{high}+" in told.stdout
    finally:
        process.kill()
        process.wait()


def bus(env: dict[str, str]) -> DBusConnection:
    return open_dbus_connection(env["DBUS_SESSION_BUS_ADDRESS"])


def loaded(connection: DBusConnection, name: str) -> bool:
    """Return whether KWin runs the script of a connection."""
    script = f"jaklet-{name.strip(':').replace('.', '-')}"
    return bool(
        unwrap_msg(connection.send_and_get_reply(new_method_call(SCRIPTING, "isScriptLoaded", "s", (script,))))[0]
    )


def test_nobody_but_kwin_is_listened_to(env: dict[str, str], desk: PlasmaDesktop) -> None:
    ours = desk._agent.bus.name
    stranger, before = bus(env), desk.look().desk
    for method, body in (("State", ('{"windows": []}',)), ("Next", ())):
        call = new_method_call(DBusAddress("/jaklet", ours, "org.jaklet.Agent"), method, "s" if body else None, body)
        serial = next(stranger.outgoing_serial)
        stranger.send(call, serial=serial)
        desk.wait(desk.look().now + 1)
        answer = stranger.receive(timeout=5)
        while answer.header.message_type is not MessageType.error:
            answer = stranger.receive(timeout=5)
    assert desk.look().desk == before
    # Nor does a key count that anybody else says was pressed, under the desktop's name or under ours.
    desk.chords.grab(HearableKeys(frozenset({parse_chord("super+f8")})))
    for name in ("org.jaklet", "org.jaklet.Agent"):
        stranger.send_and_get_reply(message_bus.RequestName(name))
    component = DBusAddress("/component/jaklet", interface="org.kde.kglobalaccel.Component")
    key = ("jaklet", "chord11000037", 0)
    signal = new_signal(component, "globalShortcutPressed", "ssx", key)
    signal.header.fields[HeaderFields.destination] = ours
    stranger.send(signal)
    desk.wait(desk.look().now + 0.5)
    assert desk._agent.bus.call(BUS, "NameHasOwner", "s", "org.jaklet.Agent"), "all before it has been read"
    assert not desk.chords.key_events()
    stranger.close()


def test_app_ids_and_titles_of_wayland_are_only_text(env: dict[str, str], desk: PlasmaDesktop) -> None:
    words = ["-m", "jaklet.demo.wayland_windows", "--class", HOSTILE, "--title", HOSTILE, "--size", "400x300"]
    process = subprocess.Popen([sys.executable, *words], env=env)
    try:
        end = desk.look().now + 20
        while not desk.wait(desk.look().now + 0.1).desk.windows:
            assert desk.look().now < end
        window = desk.look().desk.windows[0]
        assert (window.cls.split(), window.title.split()) == (HOSTILE.split(), HOSTILE.split())
        desk.apply([Move(window.id, Rect(50, 60, 700, 500))])
        while not desk.wait(desk.look().now + 5).settled:
            pass
        assert desk.look().desk.by_id[window.id].frame == Rect(50, 60, 700, 500)
        assert "700x500" in jaklet(env, "desk")
    finally:
        process.kill()
        process.wait()


def test_the_script_goes_with_us_however_we_end(env: dict[str, str]) -> None:
    connection = bus(env)
    desk = on_plasma.connect()
    name = desk._agent.bus.name
    assert loaded(connection, name)
    desk.close()
    assert not loaded(connection, name)
    code = (
        "from jaklet.desktops import plasma; import time; d = plasma.connect();"
        " print(d._agent.bus.name, flush=True); time.sleep(60)"
    )
    process = subprocess.Popen([sys.executable, "-c", code], env=env, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    name = process.stdout.readline().strip()
    process.stdout.close()
    assert loaded(connection, name)
    os.kill(process.pid, signal.SIGKILL)
    process.wait()
    until(lambda: not loaded(connection, name), "the script to take itself away", 10)
    connection.close()
    assert not list(Path(env["XDG_RUNTIME_DIR"], "jaklet").glob("*.js"))


def test_slow_programs_are_waited_for_dialogs_belong_and_bars_take_their_room(
    env: dict[str, str], desk: PlasmaDesktop, tmp_path: Path, edges: Edges
) -> None:
    log = tmp_path / "drawn"
    words = ["--class", "Tally", "--slow", "300", "--dialog", "Tide?", "--log", str(log), "--step", "10x10"]
    programs = [subprocess.Popen([sys.executable, "-m", "jaklet.demo.wayland_windows", *words], env=env)]
    try:
        end = desk.look().now + 20
        while len(desk.wait(desk.look().now + 0.1).desk.windows) < 2:
            assert desk.look().now < end
        window, dialog = desk.look().desk.windows
        assert (window.kind, dialog.kind, dialog.parent) == (NORMAL, DIALOG, window.id)
        wide, high = edges.with_content(700, 500)
        for frame in (Rect(10, 20, wide, high), Rect(10, 20, wide + 3, high + 1), Rect(60, 70, wide + 3, high + 1)):
            desk.apply([Move(window.id, frame)])
            while not (moment := desk.wait(desk.look().now + 5)).settled:
                pass
            # What it took is what it drew: steps of ten below the title.
            assert moment.desk.by_id[window.id].frame == frame._replace(width=wide, height=high)
            assert '"size": [700, 500]' in log.read_text().splitlines()[-1]
        assert {one.work for one in desk.look().desk.displays} == {one.rect for one in desk.look().desk.displays}
        panel = [sys.executable, "-m", "tests.wayland_bar", "30"]
        programs.append(subprocess.Popen(panel, env=env, cwd=Path(__file__).parents[2]))
        works = [Rect(0, 30, 1920, 1050), Rect(1920, 0, 1920, 1080)]
        until(lambda: [one.work for one in desk.wait(0).desk.displays] == works, "the bar's room")
        assert {one.id for one in desk.look().desk.windows} == {window.id, dialog.id}
        programs[1].kill()
        works[0] = Rect(0, 0, 1920, 1080)
        until(lambda: [one.work for one in desk.wait(0).desk.displays] == works, "its room again")
    finally:
        for program in programs:
            program.kill()
            program.wait()


@pytest.mark.slow
def test_the_demo_tells_its_story_on_plasma(env: dict[str, str]) -> None:
    del env["JAKLET_CONFIG"]
    told = jaklet(env, "demo", "--plasma")
    assert "on Plasma." in told
    assert "20. A layer is on" in told
    assert "this was to end with" not in told
    assert "0 windows" in jaklet(env, "desk")
