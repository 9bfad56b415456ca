"""Programs from Debian that nobody here wrote: a terminal, a clock, an editor, a browser, by real keys."""

import re
import shutil
from collections.abc import Iterator

import pytest

from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.xserver import XServer, until

CONFIG = """
settings: {wait: 20s, terminal: [xterm, -e]}
apps:
  term: {entry: debian-xterm}
  notes: {launch: xterm -e cat, in: /tmp, window: {title: Notes *}}      # its title never comes to be this
  clock: {launch: xclock}
  editor: {entry: org.xfce.mousepad}
  web: {entry: dillo, from afar: bring here}
  broken: {launch: [sh, -c, "echo begun >&2; echo 'no chart: \\e[31mred' >&2; exit 3"]}
  nothing: {launch: no-such-program}
  nowhere: {launch: xload, in: /no/such/folder}
  barred: {launch: /etc/passwd}
bindings:
  super+a: go term
  super+b: go notes
  super+c: go clock
  super+e: go editor
  super+w: go web
  super+x: go broken
  super+y: go nothing
  super+z: go nowhere
  super+v: go barred
  super+f: launch editor
  super+shift+e: go editor backwards
  super+k: {do: kill term, sure: true}
  super+q: close all of editor
"""
KEYS = {"a": "XTerm", "c": "XClock", "e": "Mousepad", "w": "Dillo"}


@pytest.fixture
def listening(x: XServer, x_office: Office) -> Iterator[Listening]:
    missing = [program for program in ("xterm", "xclock", "mousepad", "dillo") if not shutil.which(program)]
    assert not missing, f"Debian packages of {missing} are missing; `make test` installs them"
    x_office.config.write_text(CONFIG)
    x_office.env["HOME"] = str(x_office.folder)  # no settings of a real user, and none left behind
    x.run("xsetroot", "-solid", "black")
    one = Listening(x_office)
    yield one
    print(one.says())  # for the report of a failure
    assert one.stop() == 0


def test_real_programs_are_launched_once_focused_cycled_and_told_apart(
    x: XServer, x_office: Office, listening: Listening
) -> None:
    for key, cls in KEYS.items():
        for _ in range(3):  # pressed again and again while it starts
            x.press(f"super+{key}")
        until(lambda cls=cls: x.active() == cls, f"{cls} in front")  # type: ignore[misc]
    # A press that comes when the window has just come gives its task way to one that only looks.
    ended = r"super\+\w: \w+ \(.*\) is (launched and )?in front"
    until(lambda: len(re.findall(ended, listening.says())) >= len(KEYS), "each to be said to be in front")
    assert {cls: len(x.of_class(cls)) for cls in KEYS.values()} == dict.fromkeys(KEYS.values(), 1)
    for key, cls in [*KEYS.items()][::-1]:
        x.press(f"super+{key}")
        until(lambda cls=cls: x.active() == cls, f"the focus to go to {cls}")  # type: ignore[misc]

    x.press("super+b")  # of the same class as the terminal, and only known as launched
    listening.until_says("super+b: notes")
    notes = until(lambda: x.active_id() if x.active() == "XTerm" else "", "the notes in front")
    (term,) = (wid for wid in x.of_class("XTerm") if wid != notes)
    x.press("super+a")
    until(lambda: x.active_id() == term, "the other terminal")
    x.press("super+b")
    until(lambda: x.active_id() == notes, "the notes again")
    # What was tied is known to other processes, too, and says where it was started.
    told = x_office.jaklet("apps", "explain", notes).stdout
    assert "notes has it: Jaklet launched it for notes" in told
    assert '_JAKLET_APP(UTF8_STRING) = "notes ' in x.run("xprop", "-id", notes, "_JAKLET_APP")

    x.press("super+e")
    until(lambda: x.active() == "Mousepad", "the editor")
    for count in (2, 3):
        x.press("super+f")
        until(lambda count=count: len(x.of_class("Mousepad")) == count, f"{count} editors")  # type: ignore[misc]
        listening.until_says("super+f: editor", times=count - 1)
    ids = x.of_class("Mousepad")
    went = [x.active_id()]
    for chord in ("super+e", "super+e", "super+e", "super+shift+e"):
        before = x.active_id()
        x.press(chord)
        went.append(until(lambda before=before: x.active_id() != before and x.active_id(), chord))  # type: ignore[misc]
    first = ids.index(went[0])
    assert went == [ids[(first + step) % 3] for step in (0, 1, 2, 3, 2)]

    x_office.jaklet("act", "minimise web")
    x.press("super+w")
    until(lambda: x.active() == "Dillo", "the browser back in view")

    x.press("super+k")
    listening.until_says("term (xterm) is killed")
    until(lambda: x.of_class("XTerm") == [notes], "the killed terminal to be gone")
    x.press("super+q")
    until(lambda: not x.of_class("Mousepad"), "all editors to close")


def test_a_launch_that_fails_is_told_and_the_listener_lives_on(x: XServer, listening: Listening) -> None:
    x.press("super+x")
    said = listening.until_says("it said: ")
    assert "broken ended with status 3 before it showed a window" in said
    assert re.search(r"it said: no chart: .\[31mred$", said, re.MULTILINE)
    assert "\x1b" not in said
    x.press("super+y")
    assert "nothing could not be launched: there is no program 'no-such-program'" in listening.until_says(
        "no-such-program'\n"
    )
    x.press("super+z")
    listening.until_says("nowhere could not be launched: there is no folder /no/such/folder")
    x.press("super+v")
    listening.until_says("barred could not be launched: '/etc/passwd' cannot be run: Permission denied")
    x.press("super+c")
    until(lambda: x.active() == "XClock", "a key that still works")
    assert listening.process.poll() is None


def test_a_first_config_leaves_out_the_keys_that_others_hold(x: XServer, x_office: Office) -> None:
    other = x.connect()
    for key in "bt":
        other.core.GrabKey(False, other.setup.roots[0].root, 64, x.keycode(ord(key)), 1, 1, is_checked=True).check()
    text = x_office.jaklet("init", "--print").stdout
    other.disconnect()
    assert "super+b:" not in text
    assert "super+t:" not in text
    assert "  main: {name: DP-1}\n" in text
    assert re.search(r"^  web: \{entry: dillo\}$", text, re.MULTILINE)
    chords = [line.split(": ")[0].strip() for line in text.partition("bindings:")[2].splitlines() if ": " in line]
    assert all(x.can_grab(chord) for chord in chords if chord.split("+")[-1] in "abcdefghijklmnopqrstuvwxyz")


def test_a_window_is_brought_here_from_another_workspace(x: XServer, listening: Listening) -> None:
    x.press("super+w")
    until(lambda: x.active() == "Dillo", "the browser")
    listening.until_says("super+w: web")
    x.open("RadioLog")
    send_to_workspace(x, x.of_class("Dillo")[0], 2)
    until(lambda: x.see(x.of_class("Dillo")[0]).workspace == 2, "the browser to be far away")
    x.press("super+w")
    until(lambda: x.active() == "Dillo", "the browser in front")
    assert x.see(x.of_class("Dillo")[0]).workspace == 0
    assert "_NET_CURRENT_DESKTOP(CARDINAL) = 0" in x.run("xprop", "-root", "_NET_CURRENT_DESKTOP")


def test_a_dialog_follows_its_parent(x: XServer, x_office: Office, listening: Listening) -> None:
    x.open("Letters", "--dialog", "Send where?", count=1)
    until(lambda: len(x.of_class("Letters")) == 2, "the dialog")
    x.press("super+c")
    until(lambda: x.active() == "XClock", "the clock")
    listening.until_says("super+c: clock")
    text = x_office.config.read_text()
    x_office.config.write_text(text.replace("  term:", "  letters: {window: {class: Letters}}\n  term:", 1))
    assert "1 dialog" in x_office.jaklet("apps").stdout
    x_office.jaklet("act", "go letters")
    assert x.active() == "Letters"
    assert "is in front already" in x_office.jaklet("act", "go letters").stdout
    explained = x_office.jaklet("apps", "explain", "Send where?").stdout
    assert "letters has it: it is a dialog of letters" in explained
    assert re.search(r"kind: +dialog", explained)


def send_to_workspace(x: XServer, wid: str, number: int) -> None:
    """Ask the window manager, as a pager would."""
    import struct

    connection = x.connect()
    atom = connection.core.InternAtom(False, 15, "_NET_WM_DESKTOP").reply().atom
    event = struct.pack("=BBHII5I", 33, 32, 0, int(wid, 16), atom, number, 2, 0, 0, 0)
    connection.core.SendEvent(False, connection.setup.roots[0].root, 0x180000, event)
    connection.flush()
    connection.core.GetInputFocus().reply()
    connection.disconnect()
