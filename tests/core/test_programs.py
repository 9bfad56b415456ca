"""Going to programs, walking through windows, ending them: on the tabletop, judged by its own state."""

from collections.abc import Mapping
from typing import Any

import pytest

from jaklet.core.actions.begin import begin
from jaklet.core.actions.tasks import TaskContext, TaskOutcome
from jaklet.core.language.actions import parse_action
from jaklet.core.values.apps import App, WindowRule, exactly
from jaklet.core.values.changes import Focus, Stack
from jaklet.core.values.config import Config, Settings
from jaklet.core.values.desk import DIALOG, Desk, Display, WindowShape
from jaklet.core.values.desk_abilities import EVERY, Ability
from jaklet.core.values.geometry import Rect
from jaklet.desktops.drive import drive_task
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.desktops.tabletop.room import Program, Room
from tests.core.test_recall import Shelf

LEFT, RIGHT = Rect(0, 0, 1600, 900), Rect(1600, 0, 1920, 1080)


class Office:
    """Two displays, the apps berths, radio, tides and charts, and what is done there."""

    def __init__(self, **keys: Mapping[str, Any]) -> None:
        self.room = Room((Display("A", LEFT, LEFT, True), Display("B", RIGHT, RIGHT._replace(y=40, height=1040))))
        names = ("berths", "radio", "tides", "charts")
        self.room.programs = {
            name: Program(name=name, cls=name.title(), instance=name, title=name.title()) for name in names
        }
        apps = {name: App(name, (name,), (exactly(cls=name.title()),))._replace(**keys.get(name, {})) for name in names}
        self.config = Config(Settings(wait=5), apps=apps)
        self.desktop = Tabletop(self.room)

    def open(self, program: str, frame: Rect | None = None, **seen: object) -> int:
        return self.room.add(self.room.programs[program], frame, None, **seen)

    def do(self, *sentences: str) -> TaskOutcome:
        """Do actions and return how the last one ended."""
        outcome = TaskOutcome(False, "nothing was done")
        context = TaskContext(self.config, Shelf())
        for action in map(parse_action, sentences):
            outcome = drive_task(self.desktop, lambda moment, action=action: begin(action, context, moment))  # type: ignore[misc]
        return outcome

    @property
    def desk(self) -> Desk:
        return self.room.desk()


def test_a_window_that_opens_or_closes_meanwhile_is_visited_or_left_out() -> None:
    office = Office()
    a, b, c = (office.open("berths") for _ in range(3))
    office.do("go berths")
    assert office.room.active == a
    new = office.open("berths")
    office.do("focus window " + str(a), "close", "go berths")
    assert [w.id for w in office.desk.windows] == [b, c, new]
    assert office.room.active in (b, c, new)
    visited = set()
    for _ in range(3):
        office.do("go berths")
        visited.add(office.room.active)
    assert visited == {b, c, new}


def test_an_app_can_bring_its_window_here_with_its_share_of_the_display() -> None:
    office = Office(berths={"bring_here": True})
    here = office.open("radio", Rect(1700, 100, 500, 400))
    share = office.open("berths", Rect(0, 0, 800, 900), workspace=2)
    office.do(f"focus window {here}")
    assert office.do("go berths").done
    desk = office.desk
    assert (desk.workspace, desk.active, desk.by_id[share].workspace) == (1, share, 1)
    assert desk.by_id[share].frame == Rect(1600, 40, 960, 1040)  # the left half of the other display
    office.do(f"focus window {here}", "maximise berths", "place radio left 1/2 on A", f"focus window {here}")
    assert office.do("go berths").done
    berths = office.desk.by_id[share]
    assert (berths.shape, berths.frame) == (WindowShape.MAXIMISED, LEFT)
    assert office.do("restore").done
    assert office.desk.by_id[share].frame == Rect(0, 0, 800, 900)


def test_a_window_of_no_simple_share_keeps_its_size_and_stays_on_the_display() -> None:
    office = Office(berths={"bring_here": True})
    window = office.open("berths", Rect(3100, 700, 401, 303))
    here = office.open("radio", Rect(10, 10, 500, 400))
    office.do(f"focus window {here}", "go berths")
    frame = office.desk.by_id[window].frame
    assert (frame.width, frame.height) == (401, 303)
    assert LEFT.overlap(frame) == 401 * 303


def test_what_else_to_do_where_the_only_window_is_in_front() -> None:
    office = Office()
    radio, berths = office.open("radio"), office.open("berths")
    assert office.do("go berths").line == "berths (Berths) is in front already"
    office.do("go berths or focus last")
    assert office.room.active == radio
    office.do("go berths or minimise", "go berths or minimise")
    assert (office.desk.by_id[berths].minimised, office.room.active) == (True, radio)
    second = office.open("berths")
    office.do("go berths or minimise", "go berths or minimise")  # two windows: it goes on to the next
    assert not any(office.desk.by_id[wid].minimised for wid in (berths, second))
    assert office.do("close all of berths", "go tides or go berths or close").line.startswith(
        "tides (Tides) is launched"
    )


def test_what_has_the_focus_under_another_window_is_raised() -> None:
    """A click can raise a window without the focus, and some window managers give the focus without raising."""
    office = Office()
    tides, radio, berths = (office.open(name) for name in ("tides", "radio", "berths"))
    office.room.change(Stack((berths, radio)))
    assert office.do("go berths").line == "berths (Berths) is in front already"
    assert office.desk.stacking == (tides, radio, berths)
    office.room.change(Stack((radio,)))
    office.room.abilities = EVERY - {Ability.STACK}
    office.room.stacking.reverse()
    assert office.do("go berths").line == "berths (Berths) is active, but tides (Tides) stands before it"
    office.room.standing[berths].window = office.desk.by_id[berths]._replace(frame=RIGHT)  # no window covers it there
    assert office.do("go berths").line == "berths (Berths) is in front already"


def test_going_to_a_window_whose_dialog_has_the_focus_is_going_nowhere() -> None:
    office = Office()
    berths = office.open("berths")
    dialog = office.open("berths", title="Moor where?", kind=DIALOG, parent=berths)
    radio = office.open("radio")
    assert [office.config.claims.app_of(w, office.desk) for w in office.desk.windows] == ["berths", "berths", "radio"]
    office.do(f"focus window {dialog}")
    assert office.do("go berths").line == "berths (Berths) is in front already"
    assert office.room.active == dialog
    office.do("focus last")
    assert office.room.active == radio


def test_a_launch_that_fails_is_told_with_the_programs_own_last_words() -> None:
    office = Office()
    programs = office.room.programs
    programs["charts"] = programs["charts"]._replace(fails=3, says="no chart of these waters")
    programs["tides"] = programs["tides"]._replace(silent=True, says="no gauge on /dev/gauge")
    del programs["radio"]
    assert office.do("go charts")[:3] == (
        False, "charts ended with status 3 before it showed a window", ("it said: no chart of these waters",),
    )  # fmt: skip
    assert office.do("go tides")[:3] == (
        False, "tides was launched but showed no window within 5 s", ("it said: no gauge on /dev/gauge",),
    )  # fmt: skip
    assert office.room.now == pytest.approx(5.2)
    assert office.do("go radio")[:3] == (False, "radio could not be launched: there is no program 'radio'", ())
    assert office.do("go berths").done


def test_a_launched_window_leaves_the_focus_to_what_was_gone_to_meanwhile() -> None:
    office = Office()
    office.room.programs["charts"] = office.room.programs["charts"]._replace(takes=3)
    berths, radio = office.open("berths"), office.open("radio")
    context = TaskContext(office.config, Shelf())
    task = begin(parse_action("go charts"), context, office.desktop.look())
    office.desktop.apply(next(task).changes)
    office.desktop.wait(1)
    office.do("go berths")
    moment = office.desktop.wait(10)
    charts = office.room.active
    office.room.change(Focus(berths))  # as a window manager that keeps the focus where it is
    with pytest.raises(StopIteration) as end:
        task.send(office.desktop.look())
    assert end.value.value.line == "charts (Charts) is launched; berths (Berths) was gone to meanwhile"
    assert (office.room.active, moment.desk.active, radio) == (berths, charts, 2)


def test_a_launched_window_is_its_apps_before_its_class_is_right() -> None:
    office = Office(charts={"rules": (WindowRule((("title", "Charts of*"),)),)})
    assert office.do("go charts").line == "charts (Charts) is launched and in front"
    assert office.do("go charts").line == "charts (Charts) is in front already"


def test_two_apps_with_an_equal_claim_are_warned_of() -> None:
    rules = {"rules": (WindowRule((("title", "*t*"),)),)}
    office = Office(tides={"rules": (WindowRule((("title", "*s"),)),)}, radio=rules)
    office.open("charts", title="Tides of ports")
    office.open("berths", title="x")
    outcome = office.do("go radio")
    assert outcome.done
    assert outcome.more == ("tides claims this window just as much; radio has it, as it stands first in the config",)


def test_a_walk_visits_all_in_the_order_of_use_and_comes_back() -> None:
    office = Office()
    a, b, c = office.open("berths"), office.open("radio"), office.open("tides")
    office.open("charts", minimised=True)  # what is not in view is not visited
    office.open("charts", workspace=2)
    office.do(f"focus window {a}", f"focus window {b}", f"focus window {c}")
    went = []
    for sentence in ("focus next",) * 4 + ("focus previous",) * 4:
        office.do(sentence)
        went.append(office.room.active)
    assert went == [b, a, c, b, c, a, b, c]
    office.do("focus next", "focus next")
    office.room.now += 3  # the walk is over: where it ended was used last
    office.do("focus next")
    assert office.room.active == c
    office.do("focus last")
    assert office.room.active == a


@pytest.mark.parametrize(
    ("title", "shown"),
    [
        ("a\x1b]0;owned\x07b", "a�]0;owned�b"),
        ("\u202egnp.exe", "�gnp.exe"),
        ("x" * 70000, "x" * 39 + "…"),
        ("caf\ufffd", "caf�"),
    ],
)
def test_hostile_titles_are_shown_safely_and_match(title: str, shown: str) -> None:
    office = Office(charts={"rules": (WindowRule((("title", f"{title[:1]}*"),)),)})
    office.open("berths", title=title)
    assert office.do("focus charts").line == f"charts ({shown}) is in front"
