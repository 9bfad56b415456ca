"""Layouts in the listener: Escape, a second press, displays that come and go; real programs on a real server."""

import shutil
import signal
from collections.abc import Callable, Iterator

import pytest

from jaklet.core.actions.layouts.trust import HARMLESS
from jaklet.core.actions.ports.chord_source import KeyEdge, KeyEvent
from jaklet.core.keys.keymap import ESCAPE
from jaklet.core.language.place_grammar import parse_place
from jaklet.core.values.config import Settings
from jaklet.core.values.geometry import Rect
from jaklet.core.values.layouts import SKIP, Arrangement, Layout
from jaklet.listener.event_follower import WatchedHistory
from jaklet.rehearsal.memory import RehearsedHistory
from tests.conftest import Office
from tests.core.test_layouts import entry
from tests.core.test_recall import office
from tests.listener.test_session import Pressing
from tests.listener.test_windows import MAIN, QUAY
from tests.listener.test_x11 import Listening, everything
from tests.xserver import MONITORS, Seen, XServer, running, until


def pressing(on_displays: str = "offer", **bindings: str) -> Pressing:
    one = Pressing(**bindings)
    one.session._history = WatchedHistory(RehearsedHistory(), lambda _layout: None)
    one.session.use(one.session.config._replace(settings=Settings(wait=5, on_displays=on_displays)))
    one.desktop.room.displays = (MAIN, QUAY)
    one.session.step(one.desktop.look())
    return one


def test_escape_gives_up_a_recall_that_waits_and_is_the_programs_else() -> None:
    one = pressing(r="recall bay")
    slow = office().programs["charts"]._replace(takes=4.0)
    one.desktop.room.programs = {**one.desktop.room.programs, "charts": slow}
    one.shelf.keep(Layout("bay", entries=(entry("charts"),)))
    assert ESCAPE not in one.session.hearing.chords
    one.press("r")
    hearing = one.session.hearing
    assert ESCAPE in hearing.chords
    assert one.session.hearing is hearing
    assert one.session.key(KeyEvent(KeyEdge.PRESS, ESCAPE, 0), one.desktop.look()) is False
    assert one.told == ["recall bay was given up"]
    assert ESCAPE not in one.session.hearing.chords
    assert one.session.key(KeyEvent(KeyEdge.PRESS, ESCAPE, 0), one.desktop.look()) is True


def test_a_key_that_would_save_over_much_waits_for_the_key_again() -> None:
    one = pressing(s="save bay", c="close")
    room = one.desktop.room
    for program in ("charts", "tide-gauge", "letters"):
        room.add(room.programs[program])
    one.press("s", "c", "c")
    assert one.run()[0].startswith("saved bay: 3 windows")
    one.press("s")
    told = one.run()
    assert told[-1] == "bay is not saved yet: press again to save it all the same"
    assert len(one.shelf.layouts["bay"].entries) == 3
    room.now += 6  # too late: it asks again
    one.press("s")
    assert one.run()[-1].startswith("bay is not saved yet")
    one.press("s")
    assert one.run() == ["saved bay: 1 window on 1 display"]


def test_a_window_that_opens_later_goes_to_its_place_in_the_layout_that_stands() -> None:
    one = pressing(r="recall bay", q="recall pier")
    one.shelf.keep(Layout("bay", entries=(entry("tide-gauge", "right 1/2 on quay", missing=SKIP),)))
    one.press("r")
    one.run()
    late = one.desktop.room.add(one.desktop.room.programs["tide-gauge"])
    one.session.step(one.desktop.look())
    assert one.run() == ["tide-gauge (Tide gauge) has its place in bay"]
    assert one.desktop.look().desk.by_id[late].frame == Rect(3520, 0, 960, 1080)


FOLLOWING: list[tuple[str, Callable[[str], bool], Rect]] = [
    ("recall", lambda line: line.startswith("recalled bay: 1 of 1"), Rect(2560, 0, 1920, 1080)),
    ("offer", lambda line: "recall bay (super+r) sets it up for them" in line, Rect(0, 40, 640, 1400)),
    ("leave", lambda _: False, Rect(0, 40, 640, 1400)),
]


@pytest.mark.parametrize(("follow", "told", "frame"), FOLLOWING)
def test_when_displays_change_the_layout_that_stands_is_recalled_or_offered(
    follow: str, told: Callable[[str], bool], frame: Rect
) -> None:
    one = pressing(follow, r="recall bay")
    there = {"DP-1": "2560x1440+0+0"}
    both = there | {"HDMI-1": "1920x1080+2560+0"}
    alone = Arrangement({"main": there["DP-1"]}, entries=(entry("charts", "left 1/4 on main"),))
    layout = Layout(
        "bay", displays={"main": both["DP-1"], "quay": both["HDMI-1"]}, entries=(entry("charts", "full on quay"),)
    )
    one.shelf.keep(layout._replace(variants=(alone,)))
    room = one.desktop.room
    charts = room.add(room.programs["charts"])
    room.displays = (MAIN,)
    one.session.step(one.desktop.look())
    one.press("r")
    one.run()
    assert one.desktop.look().desk.by_id[charts].frame == Rect(0, 40, 640, 1400)
    room.displays = (MAIN, QUAY)
    one.session.step(one.desktop.look())
    assert any(told(line) for line in one.run()) == (follow != "leave")
    assert one.desktop.look().desk.by_id[charts].frame == frame
    assert parse_place("full on quay") == layout.entries[0].place


# On a real server -----------------------------------------------------------------------------------------------------

CONFIG = """
settings: {wait: 20s, when displays change: recall, gap: 8}
displays: {main: {name: %s}, quay: {name: %s, else: main}}
apps:
  term: {launch: xterm -geometry 60x20}
  clock: {launch: xclock}
  editor: {launch: mousepad}
  web: {launch: dillo}
  never: {launch: sleep 60, wait: 300ms, window: {class: Never}}
  late: {launch: sleep 60, wait: 20s, window: {class: Late}}
bindings:
  super+1: recall 1
  super+3: recall waits
  super+2: recall crowded
  super+shift+1: save 1
  super+0: recall last
"""


@pytest.fixture
def server() -> Iterator[XServer]:
    with running() as x:
        yield x


@pytest.fixture
def real(server: XServer, tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[XServer, Office, Listening]]:
    missing = [program for program in ("xterm", "xclock", "mousepad", "dillo") if not shutil.which(program)]
    assert not missing, f"Debian packages of {missing} are missing; `make test` installs them"
    office = Office(tmp_path_factory.mktemp("real") / "office", server)
    office.config.write_text(CONFIG % (MONITORS[0][0], MONITORS[1][0]))
    office.env["HOME"] = str(office.folder)
    for path in (office.folder / "layouts").glob("*"):
        path.unlink()
    listening = Listening(office)
    try:
        yield server, office, listening
    finally:
        print(listening.says())  # for the report of a failure
        listening.stop(signal.SIGKILL)


def _states(x: XServer) -> tuple[dict[tuple[str, str], Seen], list[str], str]:
    """Return all that a recall has to bring back, as the server tells it."""
    return everything(x), x.stacking(), x.active_id()


def test_real_programs_on_two_displays_then_one_then_two_again(real: tuple[XServer, Office, Listening]) -> None:
    x, office, listening = real
    for sentence in (
        "go term", "place left 1/2", "go editor", "place right 1/2 on main", "go web", "place left 2/3 on quay",
        "go clock", "place right 1/3 on quay", "minimise clock", "maximise editor", "go web",
    ):  # fmt: skip
        office.jaklet("act", sentence)
    x.press("super+shift+1")
    listening.until_says("saved layout 1 (number 1): 4 windows on 2 displays")
    two = until(lambda: _states(x), "the desk")
    for sentence in ("restore editor", "place term full on quay", "close clock", "place web full", "go term"):
        office.jaklet("act", sentence)
    until(lambda: not x.of_class("XClock"), "the clock to close")
    x.press("super+1")
    listening.until_says("recalled layout 1: 4 of 4 windows in place")
    # The clock is another window now; all else is as it was.
    now, stacked, active = _states(x)
    then, _, before = two
    assert {key: seen for key, seen in now.items() if key[0] != "XClock"} == {
        key: seen for key, seen in then.items() if key[0] != "XClock"
    }
    assert active == before
    two = _states(x)

    x.run("xrandr", "--delmonitor", MONITORS[1][0])
    listening.until_says("2 windows of display quay brought to main")
    x.press("super+1")
    listening.until_says("display quay is not there: its windows stand on main")
    one = everything(x)
    left, top, wide, high = 0, 0, 1920, 1080
    for seen in one.values():
        fx, fy, fw, fh = seen.frame
        assert left <= fx
        assert top <= fy
        assert fx + fw <= wide
        assert fy + fh <= high
    web = x.frame("Dillo")
    assert (web[0], web[2]) == (8, 1267)  # the same share of the display that is left

    name, geometry, output = MONITORS[1]
    x.run("xrandr", "--setmonitor", name, geometry, output)
    listening.until_says("recalled layout 1: 4 of 4 windows in place", times=3)
    until(lambda: _states(x) == two, "the desk as it was on two displays")
    x.press("super+1")
    listening.until_says("nothing to move")
    assert stacked


def test_a_program_that_never_shows_a_window_and_a_window_manager_that_restarts(
    real: tuple[XServer, Office, Listening],
) -> None:
    x, office, listening = real
    layouts = office.folder / "layouts"
    layouts.mkdir(exist_ok=True)
    (layouts / "crowded.yaml").write_text(
        "layout: crowded\nfocus: term\nwindows:\n"
        "- {app: never, display: main, place: full}\n"
        "- {app: term, display: main, place: left 1/2}\n"
        "- {app: clock, display: quay, place: right 1/3}\n"
        "- {app: editor, display: main, place: right 1/2}\n"
    )
    (layouts / "waits.yaml").write_text("layout: waits\nwindows:\n- {app: late, place: full}\n")
    office.jaklet("reload")
    assert x.can_grab("escape")
    x.press("super+3")
    until(lambda: not x.can_grab("escape"), "Escape to be heard while a recall waits")
    x.press("escape")
    listening.until_says("recall waits was given up")
    until(lambda: x.can_grab("escape"), "Escape to be the programs' again")
    x.press("super+2")
    listening.until_says("never was launched but showed no window within 0.3 s")
    listening.until_says("recalled crowded: 3 of 4 windows in place")
    editor = x.frame("Mousepad")
    for sentence in ("place editor left 1/3 on quay", "place clock left 1/2 on main"):
        office.jaklet("act", sentence)
    x.press("super+2")
    x.manage("metacity")  # in the midst of it
    listening.until_says("recalled crowded: 3 of 4 windows in place", times=2)
    until(lambda: x.frame("Mousepad") == editor, "the editor at its place")
    assert x.active() in ("XTerm", "Mousepad", "XClock")
    x.press("super+2")
    listening.until_says("recalled crowded: 3 of 4 windows in place", times=3)
    until(lambda: x.active() == "XTerm", "the focus where the layout says")


def test_a_layout_presses_nothing_that_a_terminal_or_an_editor_could_take_for_text(
    x: XServer, x_office: Office
) -> None:
    """The attack, and then every chord that a layout may press: a terminal gets no byte, and an editor's text stays."""
    typed, note = x_office.folder / "typed", x_office.folder / "note.txt"
    note.write_text("Pier 7")
    harmless = ", ".join(f"press {chord}" for chord in sorted(HARMLESS))
    x_office.config.write_text(
        f'apps:\n  term: {{launch: [xterm, -e, sh, -c, "stty raw -echo; cat >> {typed}"], window: {{class: XTerm}}}}\n'
        f"  editor: {{launch: [mousepad, {note}], window: {{class: Mousepad}}}}\nbindings: {{super+1: recall trap}}\n"
    )
    attack = "press super+l super+s super+greater super+o"
    for name, keys in (("trap", attack), ("list", harmless)):
        text = f"layout: {name}\nwindows:\n- {{app: term, after: [{keys}]}}\n"
        (x_office.folder / "layouts" / f"{name}.yaml").write_text(text)
    (x_office.folder / "layouts" / "edit.yaml").write_text(
        f"layout: edit\nwindows:\n- {{app: editor, after: [{harmless}]}}\n"
    )
    assert x_office.jaklet("check", status=None).stdout.count("JK515") >= 2
    for name in ("trap", "list"):
        assert "gets none from a layout" in x_office.jaklet("layout", "recall", name, status=1).stderr
    until(lambda: x.active() == "XTerm", "the terminal")
    x.press("q")
    until(lambda: typed.exists() and typed.read_text() != "", "a key of the user's own")
    assert typed.read_text() == "q"
    x_office.jaklet("layout", "recall", "edit", status=None)
    until(lambda: x.active() == "Mousepad", "the editor")
    x.press("ctrl+s")
    x.press("ctrl+q")
    until(lambda: not x.of_class("Mousepad"), "the editor's end, without a question")
    assert note.read_text().rstrip("\n") == "Pier 7"
