"""GNOME on Wayland, as a person meets it: a listener beside a real GNOME Shell, keys by Mutter's own interface for hands.

Judged by an extension that only tests have, by the programs, and by GNOME's settings; never by ours.
"""

import json
import random
import re
import signal
import subprocess
import sys
from collections.abc import Callable, Iterator
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
from jeepney import DBusAddress
from jeepney.wrappers import DBusErrorResponse
from PIL import Image

from jaklet.core.actions.ports.chord_source import KeyEdge
from jaklet.core.keys.keymap import NOTHING, HearableKeys
from jaklet.core.values.changes import Move
from jaklet.core.values.chords import parse_chord
from jaklet.core.values.geometry import Rect
from jaklet.demo.harbour import write_files
from jaklet.desktops import gnome as on_gnome
from jaklet.desktops.gnome.desktop import GnomeDesktop
from jaklet.desktops.gnome.set_up import UUID, extension_files
from tests.compositor_office import CONFIG_OF_THREE_HUNDRED, CompositorOffice, hears_three_hundred, nothing_left_open
from tests.conftest import Office
from tests.gnome import PROBE, SETTINGS, Gnome, RemoteHand, called, lay_out_monitors, needed, session, taken
from tests.xserver import until

HOSTILE = "\"); quit(); (' \\ </script>\n${x} end"
BAR = 32  # pixels, of the shell's own bar on the first display
TILED = "new Gio.Settings({schema_id: 'org.gnome.mutter.keybindings'}).get_strv('toggle-tiled-left')"
GRABS = "global.display.grab_accelerator('{}', 0)"


class Desk(CompositorOffice):
    """The harbour office in a session of GNOME."""

    def __init__(self, gnome: Gnome, folder: Path, config: str = "") -> None:
        self.gnome = gnome
        super().__init__("gnome", ("Meta-0", "Meta-1"), gnome.env, RemoteHand(gnome), folder, config)

    def window(self, cls: str) -> dict[str, Any]:
        """Return a window as the shell has it."""
        return next(one for one in self.gnome.windows() if one["cls"] == cls)

    def is_free(self, accelerator: str) -> bool:
        """Return whether nobody has an accelerator."""
        code = f"(() => {{ const a = global.display.grab_accelerator('{accelerator}', 0); if (a) global.display.ungrab_accelerator(a); return !!a; }})()"
        return bool(self.gnome.probe(code))


@pytest.fixture(autouse=True)
def nothing_left() -> Iterator[None]:
    with nothing_left_open():
        yield


@pytest.fixture
def desk(gnome: Gnome, tmp_path: Path) -> Iterator[Desk]:
    one = Desk(gnome, tmp_path)
    yield one
    one.close()


@pytest.fixture
def opened(gnome: Gnome, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Callable[[], GnomeDesktop]]:
    """What opens the desk in this process."""
    desks: list[GnomeDesktop] = []
    write_files(tmp_path / "office")
    for name, value in gnome.env.items():
        monkeypatch.setenv(name, value)

    def begin() -> GnomeDesktop:
        desks.append(on_gnome.connect(lambda: tmp_path / "state"))
        return desks[-1]

    yield begin
    for one in desks:
        one.close()


def test_a_day_of_keys(desk: Desk) -> None:
    """Launch, go, place, save, scramble, recall, a layer, a sequence, a macro, an event, a reload, undo, stop."""
    desk.office.edit("  gap: 8", "  gap: 8\n  sequence: 20s")  # longer than a busy machine takes from key to key
    desk.office.edit("super+s <n>: save <n>", "super+e <n>: save <n>")
    listening, hand = desk.listen(), desk.hand
    assert "super+left cannot be used: GNOME Shell (View split on left) holds it" in listening.says()
    hand.chord("super+b")
    listening.until_says("super+b: berths (Berth board) is launched and in front")
    hand.chord("super+r")
    listening.until_says("super+r: radio (Radio log) is launched and in front")
    hand.chord("super+b")
    listening.until_says("super+b: berths (Berth board) is in front")
    hand.chord("super+q")
    listening.until_says("super+q: berths (Berth board) is at full on quay")
    assert desk.window("BerthBoard")["frame"] == [1928, 8, 1264, 1008]
    # The second key of a sequence is ours while it is awaited, and no longer.
    assert desk.is_free("7")
    hand.chord("super+e")
    until(lambda: not desk.is_free("7"), "the digits to be heard")
    hand.chord("7")
    listening.until_says("super+e 7: saved layout 7")
    until(lambda: desk.is_free("7"), "the digits to be free again")
    # A layer has all keys, those too that mean nothing in it and those that the shell has.
    hand.chord("super+w")
    listening.until_says("layer arrange is on")
    for key, line in (
        ("left", "left: berths (Berth board) is at left 1/2"),
        ("shift+right", "shift+right: berths (Berth board) is nudged right"),
        ("u", "u: undone: nudge right 40px"),
        ("super+r", ""),
        ("m", "m: berths (Berth board) is maximised"),
    ):
        hand.chord(key)
        listening.until_says(line)
    assert desk.window("BerthBoard")["wide"]
    hand.chord("escape")
    listening.until_says("no layer is on")
    desk.office.jaklet("layout", "recall", "7")
    assert desk.window("BerthBoard")["frame"] == [1928, 8, 1264, 1008]
    hand.chord("super+x")
    listening.until_says("super+x: beside is done: 2 steps")
    listening.until_says("A letter is begun")
    # A reload changes what has changed.
    desk.office.edit("  super+b: go berths\n", "  super+y: go berths\n")
    desk.office.jaklet("reload")
    assert (desk.is_free("<Super>b"), desk.is_free("<Super>y")) == (True, False)
    hand.chord("super+y")
    listening.until_says("super+y: berths (Berth board) is in front")
    assert listening.stop() == 0
    assert desk.is_free("<Super>y")
    assert desk.is_free("<Super>w")


def test_a_day_at_the_harbour_office_by_commands(desk: Desk) -> None:
    """Launched, placed, kept, scrambled, recalled and closed, each by a command of its own."""

    def act(text: str) -> None:
        desk.office.jaklet("act", text)

    for sentence in (
        "go berths",
        "place left 2/3",
        "go radio",
        "place right 1/3",
        "go tides",
        "place full on quay",
        "go berths",
    ):
        act(sentence)
    told = desk.office.jaklet("layout", "save", "departures", "--number", "1").stdout
    assert "place: berths left 2/3 on main, tides full on quay, radio right 1/3 on main" in told
    stood = {one["cls"]: one["frame"] for one in desk.gnome.windows()}
    assert stood == {
        "BerthBoard": [8, 40, 1267, 1032], "RadioLog": [1283, 40, 629, 1032], "TideGauge": [1928, 8, 1264, 1008],
    }  # fmt: skip
    for sentence in ("maximise berths", "place radio centre 40% x 40% on quay", "minimise tides", "close radio"):
        act(sentence)
    assert {one["cls"] for one in desk.gnome.windows()} == {"BerthBoard", "TideGauge"}
    assert "3 of 3 windows in place" in desk.office.jaklet("layout", "recall", "departures").stdout
    assert {one["cls"]: one["frame"] for one in desk.gnome.windows()} == stood
    assert [one["cls"] for one in desk.gnome.windows()][-1] == "BerthBoard"
    assert desk.window("BerthBoard")["focus"]
    desk.office.jaklet("undo")
    assert desk.window("BerthBoard")["wide"]
    act("send tides to workspace 2")
    assert desk.window("TideGauge")["workspace"] == 2
    act("go tides")
    assert desk.gnome.probe("global.workspace_manager.get_active_workspace_index()") == 1
    act("workspace 1")
    for app in ("berths", "radio", "tides"):
        act(f"close {app}")
    assert desk.gnome.windows() == []


def test_two_hundred_moves_are_exact_and_titles_are_only_text(gnome: Gnome, opened: Callable[[], GnomeDesktop]) -> None:
    """Of programs of both kinds, by turns; judged by the shell."""
    programs = [
        subprocess.Popen(
            [
                sys.executable,
                "-m",
                f"jaklet.demo.{module}",
                "--class",
                f"Tally{at}",
                "--title",
                HOSTILE,
                "--size",
                "400x300",
            ],
            env=gnome.env,
        )
        for at, module in enumerate(("windows", "wayland_windows"))
    ]
    try:
        desk, chance = opened(), random.Random(5)
        until(lambda: len(desk.wait(desk.look().now + 0.1).desk.windows) == 2, "both windows")
        windows = sorted(desk.look().desk.windows, key=lambda one: one.cls)
        assert [one.title.split() for one in windows] == [HOSTILE.split()] * 2
        for turn in range(200):
            frame = Rect(
                chance.randint(0, 1700), chance.randint(BAR, 900), chance.randint(200, 1500), chance.randint(100, 900)
            )
            desk.apply([Move(windows[turn % 2].id, frame)])
            end = desk.look().now + 10  # a program draws in its own time, on a busy machine in a second
            while (moment := desk.wait(end)).now < end and moment.desk.by_id[windows[turn % 2].id].frame != frame:
                pass
            assert moment.desk.by_id[windows[turn % 2].id].frame == frame
            while not desk.look().settled:
                desk.wait(end)
            if turn % 10 < 2:
                seen = next(one for one in gnome.windows() if one["cls"] == f"Tally{turn % 2}")
                assert seen["frame"] == list(frame)
    finally:
        for program in programs:
            program.kill()
            program.wait()


def test_letters_reach_programs_of_both_kinds(gnome: Gnome, tmp_path: Path) -> None:
    """Also those that no key has; with a modifier that a hand still holds, and with Caps Lock on."""
    needed("zenity")
    text = "Low water 04:12, 0.7 m? Ж漢€~^"
    desk = Desk(gnome, tmp_path, f"bindings:\n  super+u: type '{text}'\n")
    entries: list[subprocess.Popen[bytes]] = []
    try:
        listening, hand = desk.listen(), desk.hand
        for times, backend in enumerate(("wayland", "x11", "wayland"), 1):
            entry = subprocess.Popen(
                ["zenity", "--entry"],
                env={**gnome.env, "GDK_BACKEND": backend},
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
            )
            entries.append(entry)
            until(lambda: "enity" in desk.front(), "the dialog")
            if times == 3:
                hand.chord("caps_lock")
            for key in ("super", "u"):
                hand.key(key, True)
            for key in ("u", "super"):
                hand.key(key, False)
            listening.until_says("is typed for", times)
            if times == 3:
                assert gnome.probe("global.get_pointer()[2]") & 2, "Caps Lock is as it was"
                hand.chord("caps_lock")
            hand.chord("return")
            assert entry.communicate(timeout=10)[0].decode() == f"{text}\n"
    finally:
        for entry in entries:
            entry.kill()
        desk.close()


def test_keys_and_clicks_while_something_is_over_the_windows(gnome: Gnome, tmp_path: Path) -> None:
    """Cards take clicks and no focus; what is clicked beside them is the program's, and the keys stay ours."""
    config = """
apps:
  board: {launch: berth-board, window: {class: BerthBoard}}
  radio: {launch: radio-log, window: {class: RadioLog}}
  terminal: {launch: xterm, window: {class: XTerm}}
settings: {gap: 8}
displays: {main: {name: Meta-0}}
bindings:
  super+b: go board
  super+f8: pick
  super+y: place by grid 3x3
  super+j: pick windows while held
  super+w: enter talk
  super+t: {do: "tell again", repeat: true}
  super+z: {do: "tell 'let go'", on release: true}
layers:
  talk: {stays: true, bindings: {t: tell "ship"}}
"""
    desk = Desk(gnome, tmp_path, config)
    try:
        listening, hand = desk.listen(), desk.hand
        desk.open_terminal()
        hand.chord("super+b")
        listening.until_says("super+b: board (Berth board) is launched and in front")
        for times, front in ((1, "terminal"), (2, "board")):
            for key in ("super", "j"):
                hand.key(key, True)
            if times == 1:
                listening.until_says("super+j: ")
            for key in ("j", "super"):
                hand.key(key, False)
            until(lambda: desk.front() == front, f"{front} in front, as it was used before")  # noqa: B023
        hand.click(1800, 1000)  # on nothing, as the first click of a hand can go astray
        bare = taken(gnome, tmp_path)
        hand.chord("super+y")
        line = 640, 1000  # a third of the first display, below the windows
        until(lambda: taken(gnome, tmp_path).getpixel(line) != bare.getpixel(line), "the grid to be seen")
        listening.until_says("super+y: a grid is shown")
        hand.click(100, 100)
        hand.click(120, 120)
        until(lambda: desk.window("BerthBoard")["frame"] == [8, 40, 629, 339], f"a place: {desk.window('BerthBoard')}")
        hand.chord("super+f8")
        listening.until_says("super+f8: the finder is shown")
        until(desk.has_keyboard, "all keys to be ours")
        for key in ("r", "a", "d", "return"):
            hand.chord(key)
        listening.until_says("radio (Radio log) is launched and in front")
        # A layer that stays, and a click on a window beside it: it comes to the front, and the layer goes on.
        desk.office.jaklet("act", "place radio right 1/2 on main")
        hand.chord("super+w")
        listening.until_says("layer talk is on")
        hand.click(300, 200)
        until(lambda: desk.window("BerthBoard")["focus"], "the window that was clicked to be in front")
        until(lambda: gnome.probe("Main.modalCount") == 1, "the keys to be ours again")
        hand.chord("t")
        listening.until_says("ship")
        hand.chord("escape")
        listening.until_says("no layer is on")
        # A key that is held, and one that is let go of.
        for key in ("super", "z"):
            hand.key(key, True)
        until(lambda: gnome.probe("global.get_pointer()[2]") & 64, "the modifier to be held")
        assert "let go" not in listening.says()
        for key in ("z", "super"):
            hand.key(key, False)
        listening.until_says("let go")
        for key in ("super", "t"):
            hand.key(key, True)
        listening.until_says("again", 5)
        for key in ("t", "super"):
            hand.key(key, False)
        desk.office.jaklet("act", "focus terminal")
        before = desk.notes.read_text()
        hand.chord("k")
        until(lambda: set(desk.notes.read_text().removeprefix(before)) == {"k"}, "a letter, repeated on a busy machine")
        assert "a fault in Jaklet itself" not in listening.says()
    finally:
        desk.close()


def test_a_chord_of_the_shell_is_lent_by_name_and_given_back(desk: Desk) -> None:
    """However the listener ends; what is not named is not touched."""
    office, gnome = desk.office, desk.gnome
    assert "settings: {take over: [super+left]}" in office.jaklet("check", "--live", status=None).stdout
    office.edit("settings:\n", "settings:\n  take over: super+left\n")
    assert "super+left cannot be had" not in office.jaklet("check", "--live", status=None).stdout
    listening = desk.listen()
    assert "super+left cannot" not in listening.says()
    assert "super+up cannot be used: GNOME Shell (Maximize window) holds it" in listening.says()
    assert gnome.probe(TILED) == []
    desk.hand.chord("super+b")
    listening.until_says("launched and in front")
    desk.hand.chord("super+left")
    listening.until_says("super+left: berths (Berth board) is at left 2/3")
    listening.stop()
    assert gnome.probe(TILED) == ["<Super>Left"]
    desk.listen().stop(signal.SIGKILL)
    until(lambda: gnome.probe(TILED) == ["<Super>Left"], "what was lent to be given back")
    until(lambda: desk.is_free("<Super>b"), "the chords to be given back")
    assert "lacks" not in office.jaklet("status", status=3).stderr
    # A listener that begins right after another was killed has its chords; a reload that names one no more gives it back.
    listening = desk.listen()
    office.edit("  take over: super+left\n", "")
    office.jaklet("reload")
    assert gnome.probe(TILED) == ["<Super>Left"]
    # Where nothing could be given back, it is said what is left.
    listening.stop()
    lent = office.folder.parent / "state" / "jaklet" / "gnome-lent.json"
    lent.write_text(
        json.dumps(
            [["org.gnome.mutter.keybindings", "", "toggle-tiled-left", "<Super>F9", "GNOME Shell (a made-up key)"]]
        )
    )
    assert "GNOME Shell (a made-up key) lacks <Super>F9" in office.jaklet("doctor", status=None).stdout
    assert "given back to GNOME Shell (a made-up key): <Super>F9" in office.jaklet("stop").stdout
    assert gnome.probe(TILED) == ["<Super>Left", "<Super>F9"]
    gnome.probe("new Gio.Settings({schema_id: 'org.gnome.mutter.keybindings'}).reset('toggle-tiled-left')")


def test_the_pointer_and_idle_time_are_told_when_asked(gnome: Gnome, opened: Callable[[], GnomeDesktop]) -> None:
    hand, desk = RemoteHand(gnome), opened()
    hand.click(1800, 1000)
    hand.click(1700, 1000)
    try:
        until(lambda: not desk.is_dragging(), "the button to be up")
        assert desk.idle() < 5
        hand.button(True)
        until(desk.is_dragging, "the button to be down")
        hand.button(False)
        until(lambda: not desk.is_dragging(), "the button to be let go of")
        until(lambda: desk.idle() > 0.5, "some time without use")
    finally:
        hand.close()


def test_keys_that_come_together_are_heard_at_once(gnome: Gnome, opened: Callable[[], GnomeDesktop]) -> None:
    """Some of what comes with them is no news: it does not keep the rest back. Nor does a keyboard that came late."""
    desk = opened()
    assert not desk.chords.grab(HearableKeys(every=True, chords=frozenset(parse_chord(key) for key in "abc")))
    hand = RemoteHand(gnome)
    for key in "abc":
        hand.chord(key)
    until(lambda: gnome.probe("1"), "the shell to have dealt with them")
    end, heard = desk.look().now + 30, list[str]()
    while heard != ["a", "b", "c"]:
        assert desk.wait(end).now < end, heard
        heard += [str(one.chord) for one in desk.chords.key_events() if one.chord and one.edge is KeyEdge.PRESS]
    desk.chords.grab(NOTHING)
    hand.close()


def test_nobody_else_is_answered(gnome: Gnome, opened: Callable[[], GnomeDesktop]) -> None:
    """Neither another program, nor one without a conversation; and what is asked wrongly does nothing."""
    shell = ["--session", "--dest", "org.gnome.Shell", "--object-path", "/org/jaklet/Desk"]
    for method, *given in (("Open",), ("Ask", '{"ask": "press"}'), ("Do", '{"requests": []}')):
        done = subprocess.run(
            ["gdbus", "call", *shell, "--method", f"org.jaklet.Desk.{method}", *given],
            env=gnome.env,
            capture_output=True,
            text=True,
        )
        assert "org.jaklet.Desk.Refused" in done.stderr, done
    address = DBusAddress("/org/jaklet/Desk", "org.gnome.Shell", "org.jaklet.Desk")
    with pytest.raises(DBusErrorResponse, match="no conversation has begun"):
        called(gnome, address, "Ask", "s", '{"ask": "shortcuts"}')
    desk = opened()
    before = desk.look().desk
    strange: list[dict[str, Any]] = [
        {"op": "close"}, {"op": "move", "id": "1", "args": ["a", None, 1e99]}, {"op": "constructor", "args": [1]},
        {"op": "show", "args": [99]}, {"op": "provide", "args": [-1]}, {"op": "stack", "ids": ["x", None]}, {"op": None},
    ]  # fmt: skip
    desk._agent.ask(strange)
    while not desk.wait(desk.look().now + 1).settled:
        pass
    assert desk.look().desk == before
    for question in (
        {"ask": "chords", "add": [[-5, True], ["x"]], "remove": []},
        {"ask": "__proto__"},
        {"ask": "press", "strokes": 5},
    ):
        name = question.pop("ask")
        try:
            desk._extension.question(str(name), **question)
        except Exception as fault:  # whichever it is
            assert "refuses Ask" in str(fault)
    lent = [["org.gnome.shell", "", "enabled-extensions", UUID]]
    desk._extension.question("lend", rows=lent)
    assert UUID in gnome.probe("new Gio.Settings({schema_id: 'org.gnome.shell'}).get_strv('enabled-extensions')")


def test_all_goes_back_when_the_extension_ends_and_comes_again(desk: Desk) -> None:
    """As when the screen is locked; the listener goes on with it."""
    listening, gnome = desk.listen(), desk.gnome
    desk.hand.chord("super+w")
    listening.until_says("layer arrange is on")
    until(lambda: gnome.probe("Main.modalCount") == 1, "all keys to be ours")
    state = f"(() => {{{{ const one = Main.extensionManager.lookup('{UUID}'); one.stateObj.{{}}(); return 1; }}}})()"
    assert gnome.probe(state.format("disable")) == 1
    try:
        assert desk.is_free("<Super>b")
        assert gnome.probe("Main.modalCount") == 0
        assert "not there in GNOME Shell" in desk.office.jaklet("desk", status=1).stderr
        desk.hand.chord("escape")
    finally:
        assert gnome.probe(state.format("enable")) == 1
    listening.until_says("GNOME Shell has begun anew")
    until(lambda: gnome.probe("Main.modalCount") == 1, "the layer to have the keys again")
    desk.hand.chord("escape")
    listening.until_says("no layer is on")
    desk.hand.chord("super+b")
    listening.until_says("super+b: berths (Berth board) is launched and in front")


def test_the_overview_is_in_nobodys_way(desk: Desk) -> None:
    listening, gnome = desk.listen(), desk.gnome
    desk.hand.chord("super+b")
    listening.until_says("super+b: berths (Berth board) is launched and in front")
    gnome.probe("Main.overview.show()")
    until(lambda: gnome.probe("Main.overview.visible"), "the overview")
    desk.hand.chord("super+r")
    listening.until_says("super+r: radio (Radio log) is launched and in front")
    until(lambda: not gnome.probe("Main.overview.visible"), "the end of the overview")
    until(lambda: desk.window("RadioLog")["focus"], "the window to have the focus")


def test_both_kinds_of_shells_get_the_same_text() -> None:
    """In two frames, with nothing left to be filled in; each names the versions that load it, and no version twice."""
    kinds = [extension_files(old) for old in (True, False)]
    bodies = [
        one["extension.js"].partition("// What Jaklet's code")[2].partition("function refuse")[0] for one in kinds
    ]
    assert bodies[0] == bodies[1]
    assert len(bodies[0]) > 10_000
    assert not re.search(r"@[A-Z]+@", "".join(one["extension.js"] for one in kinds))
    versions = [version for one in kinds for version in json.loads(one["metadata.json"])["shell-version"]]
    assert versions == [str(number) for number in range(43, 52)]


def test_the_extension_is_set_up_told_of_and_taken_out(tmp_path: Path) -> None:
    """Beside another one that is enabled; before the session is begun anew, it is said that it has to be."""
    needed()
    with session(tmp_path / "session", set_up=False) as gnome:
        office = Office(tmp_path / "office", installed=True)
        office.env |= gnome.env | {"JAKLET_DESK": "gnome"}
        enabled = "new Gio.Settings({schema_id: 'org.gnome.shell'}).get_strv('enabled-extensions')"
        for words in (("listen",), ("act", "go radio"), ("desk",)):
            done = office.jaklet(*words, status=1)
            assert "the extension of Jaklet is not there in GNOME Shell" in done.stderr
            assert "`jaklet set-up gnome` puts it there" in done.stderr
        assert "jaklet set-up gnome" in office.jaklet("doctor", status=1).stdout
        told = office.jaklet("set-up", "gnome").stdout
        assert "log out and in again" in told
        assert gnome.probe(enabled) == [PROBE, UUID]
        assert "log out and in again" in office.jaklet("act", "go radio", status=1).stderr
        assert "gnome: the extension is there" in office.jaklet("set-up").stdout
        folder = Path(gnome.env["XDG_DATA_HOME"]) / "gnome-shell/extensions"
        (folder / UUID / "extension.js").write_text("old")
        assert "`jaklet set-up gnome` brings it up to date" in office.jaklet("act", "go radio", status=1).stderr
        office.jaklet("set-up", "gnome")
        assert "taken away" in office.jaklet("set-up", "gnome", "--remove").stdout
        assert gnome.probe(enabled) == [PROBE]
        assert [one.name for one in folder.iterdir()] == [PROBE]
        assert "nothing was set up" in office.jaklet("set-up", "gnome", "--remove").stdout


def test_workspaces_that_come_and_go_by_themselves(tmp_path: Path) -> None:
    """Windows are sent to one that is not there yet, and a layout makes those that it needs."""
    needed()
    with session(tmp_path / "session", settings=SETTINGS | {"org.gnome.mutter dynamic-workspaces": "true"}) as gnome:
        config = "apps:\n  board: {launch: berth-board, window: {class: BerthBoard}}\n"
        desk = Desk(gnome, tmp_path, config)
        try:
            desk.office.jaklet("act", "go board")
            count = gnome.probe("global.workspace_manager.n_workspaces")
            assert count == 2, "one with the window, and an empty one"
            desk.office.jaklet("act", "send board to workspace 2")
            assert desk.window("BerthBoard")["workspace"] in (1, 2)  # the shell drops the empty one before it
            desk.office.jaklet("layout", "save", "one")
            desk.office.jaklet("layout", "recall", "one")
        finally:
            desk.close()


@pytest.mark.slow
def test_it_goes_on_when_the_shell_begins_anew(tmp_path: Path) -> None:
    needed()
    with session(tmp_path / "session", again=True) as gnome:
        desk = Desk(gnome, tmp_path)
        listening = desk.listen()
        desk.hand.close()
        found = subprocess.run(["pgrep", "-s", str(gnome.shell.pid), "gnome-shell"], capture_output=True, text=True)
        subprocess.run(["kill", "-9", *found.stdout.split()], check=True)
        listening.until_says("GNOME Shell has begun anew")
        until(lambda: gnome.probe("Main.layoutManager._startingUp") is False, "the end of the shell's start")
        desk.hand = RemoteHand(gnome)  # the first keyboard of this shell: what is on its keys is known from now on
        until(lambda: not desk.is_free("<Super>b"), "the chords to be heard")
        desk.hand.chord("super+b")
        listening.until_says("super+b: berths (Berth board) is launched and in front")
        assert "gone away" not in listening.says()
        desk.close()


@pytest.mark.slow
def test_three_hundred_chords(gnome: Gnome, tmp_path: Path) -> None:
    hears_three_hundred(Desk(gnome, tmp_path, CONFIG_OF_THREE_HUNDRED))


@pytest.mark.slow
def test_a_monitor_goes_and_comes_back(gnome: Gnome, tmp_path: Path) -> None:
    """Its windows are brought to the other one, and the display is known again by its name."""
    desk = Desk(gnome, tmp_path)
    listening = desk.listen()

    try:
        desk.hand.chord("super+b")
        listening.until_says("super+b: berths (Berth board) is launched and in front")
        desk.office.jaklet("act", "place full on quay")
        assert desk.window("BerthBoard")["frame"] == [1928, 8, 1264, 1008]
        lay_out_monitors(gnome, (0, "Meta-0", 1.0))
        listening.until_says("brought to main")
        until(lambda: desk.window("BerthBoard")["frame"][0] < 1920, "the window on the display that is left")
        lay_out_monitors(gnome, (0, "Meta-0", 1.0), (1920, "Meta-1", 1.0))
        until(lambda: "quay Meta-1 1280x1024" in desk.office.jaklet("desk").stdout, "the display to be known again")
        listening.until_says("run: start of day is done")  # what the config has for that, which moves windows
        desk.office.jaklet("act", "place full on quay")
        assert desk.window("BerthBoard")["frame"] == [1928, 8, 1264, 1008]
    finally:
        lay_out_monitors(gnome, (0, "Meta-0", 1.0), (1920, "Meta-1", 1.0))
        desk.close()


@pytest.mark.slow
@pytest.mark.parametrize("scale", [1.5, 2.0])
def test_cards_are_sharp_where_the_shell_enlarges_what_it_shows(scale: float, tmp_path: Path) -> None:
    """Light letters on dark paper: a step of some 200 levels from a pixel to the next, of at most 135 once enlarged."""
    needed()
    config = """
apps: {board: {launch: berth-board, window: {class: BerthBoard}}, radio: {launch: radio-log, window: {class: RadioLog}}}
displays: {main: {name: Meta-0}}
bindings: {super+b: go board, super+r: go radio, super+y: focus by letter}
"""
    fractions = {**SETTINGS, "org.gnome.mutter experimental-features": "['scale-monitor-framebuffer']"}
    with session(tmp_path / "session", settings=fractions) as gnome:
        lay_out_monitors(gnome, (0, "Meta-0", scale), (int(1920 / scale), "Meta-1", 1.0))
        desk = Desk(gnome, tmp_path, config)
        listening = desk.listen()
        for chord, app in (("super+b", "board (Berth board)"), ("super+r", "radio (Radio log)")):
            desk.hand.chord(chord)
            listening.until_says(f"{chord}: {app} is launched and in front")
        desk.office.jaklet("act", "place board left 1/2 on main")
        desk.office.jaklet("act", "place right 1/2 on main")
        x, y, width, _ = desk.window("BerthBoard")["frame"]
        assert (x, width) == (0, int(1920 / scale) // 2)
        desk.hand.click(int(1920 / scale) + 600, 900)  # on nothing, as the first click of a hand can go astray
        desk.hand.chord("super+y")
        corner = [round(one * scale) for one in (x, y, x + 200, y + 60)]

        def tag() -> Image.Image | None:
            picture = taken(gnome, tmp_path).crop(tuple(corner)).convert("L")
            return picture if min(picture.tobytes()) < 40 else None

        shown = until(tag, "a letter on the window")
        assert shown is not None
        rows = [shown.crop((0, y, shown.width, y + 1)).tobytes() for y in range(shown.height)]
        steps = [abs(one - other) for row in rows for one, other in pairwise(row)]
        assert sum(step > 150 for step in steps) > 20
        assert desk.front() == "radio"
        desk.hand.click(20, y + 12)
        until(lambda: desk.front() == "board", "the window whose letter was clicked")
        desk.close()


@pytest.mark.slow
def test_a_thousand_windows_in_bursts(gnome: Gnome, tmp_path: Path) -> None:
    """Of both kinds, gone as violently as they came; what is told is what there is."""
    desk = Desk(gnome, tmp_path)
    listening = desk.listen()
    chance = random.Random(8)
    try:
        for burst in range(20):
            kind = ("jaklet.demo.wayland_windows", "jaklet.demo.windows")[burst % 2]
            words = ["-m", kind, "--class", "Tally", "--count", "50", "--size", "300x200"]
            program = subprocess.Popen([sys.executable, *words], env=gnome.env)
            try:
                until(lambda: len(gnome.windows()) == 50, "fifty windows", 60)
                until(lambda: "50 windows" in desk.office.jaklet("desk").stdout, "all of them to be told of", 60)
                left = chance.randint(0, 1500)
                desk.office.jaklet("act", f"place at {left},100 size 400x300")
                front = next(one for one in gnome.windows() if one["focus"])
                assert front["frame"] == [left, 100 + BAR, 400, 300]
            finally:
                program.kill()
                program.wait()
            until(lambda: not gnome.windows(), "no window", 60)
        desk.hand.chord("super+b")
        listening.until_says("super+b: berths (Berth board) is launched and in front")
        assert "a fault in Jaklet itself" not in listening.says()
    finally:
        desk.close()
