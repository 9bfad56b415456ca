"""Typing goes into a main window that has the focus; a dialog before it gets nothing of what is meant for its window."""

import pytest

from jaklet.core.actions.begin import begin
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import TaskContext, TaskOutcome, TaskRequest
from jaklet.core.language.actions import parse_action
from jaklet.core.values.apps import App, exactly
from jaklet.core.values.changes import Press
from jaklet.core.values.config import Config
from jaklet.core.values.desk import DIALOG, Desk, Display, Window
from jaklet.core.values.geometry import Rect
from tests.core.test_recall import Shelf

LETTERS = Window(1, cls="Letters", title="Letter to the pilots")
ASKS = Window(2, cls="Letters", title="Save Changes", kind=DIALOG, parent=1)
RADIO = Window(3, cls="Radio", title="Radio log")
CONFIG = Config(
    apps={name: App(name, (name,), (exactly(cls=cls),)) for name, cls in (("letters", "Letters"), ("radio", "Radio"))}
)
SCREEN = Rect(0, 0, 1920, 1080)


def desk(*windows: Window, active: int) -> Desk:
    ids = tuple(window.id for window in windows)
    return Desk((Display("DP-1", SCREEN, SCREEN),), windows, ids, ids[::-1], active)


def typed(sentence: str, now: Desk, macros: tuple[str, ...] = ()) -> tuple[list[Press], TaskOutcome]:
    """Do a `type`, every key of which is pressed at once; return what was pressed, and how it ended."""
    moment, pressed = Moment(now, 0.0), list[Press]()
    task = begin(parse_action(sentence), TaskContext(CONFIG, Shelf(), macros=macros), moment)
    try:
        ask: TaskRequest = next(task)
        while True:
            pressed += [change for change in ask.changes if isinstance(change, Press)]
            ask = task.send(moment)
    except StopIteration as end:
        return pressed, end.value


@pytest.mark.parametrize(
    ("sentence", "now", "macros", "said"),
    [
        (
            'type "x\\n" into letters',
            desk(LETTERS, ASKS, active=2),
            (),
            "a dialog is open, so that nothing was typed: letters",
        ),
        ('type "x" into letters', desk(LETTERS, ASKS, active=1), (), "a dialog is open"),
        ('type "x\\n"', desk(LETTERS, ASKS, active=2), (), "a dialog is open"),
        ('type "x"', desk(LETTERS, ASKS, active=2), ("morning",), "a dialog is open"),
        ('type "x" into letters', desk(LETTERS, RADIO, active=3), (), "letters is not in front"),
        ('type "x"', desk(LETTERS, active=9), (), "no window has the focus"),
    ],
)
def test_nothing_is_typed_into_a_dialog_or_elsewhere(
    sentence: str, now: Desk, macros: tuple[str, ...], said: str
) -> None:
    pressed, outcome = typed(sentence, now, macros)
    assert pressed == []
    assert not outcome.done
    assert said in outcome.line


def test_a_main_window_gets_it_and_a_dialog_what_is_typed_for_itself() -> None:
    for sentence, now, window in (
        ('type "x" into letters', desk(LETTERS, RADIO, active=1), 1),
        ('type "x" into letters', desk(LETTERS, ASKS._replace(minimised=True), active=1), 1),
        ('type "name"', desk(LETTERS, ASKS, active=2), 2),
    ):
        pressed, outcome = typed(sentence, now)
        assert outcome.done
        assert [press.window for press in pressed] == [window]


def test_a_window_that_is_on_its_way_to_the_front_is_waited_for() -> None:
    """Else the text would go to the one that still has the focus."""
    now = desk(LETTERS, RADIO, active=3)
    task = begin(
        parse_action('type "x" into letters'), TaskContext(CONFIG, Shelf()), Moment(now._replace(aimed=1), 0.0, False)
    )
    assert next(task).changes == ()
    ask = task.send(Moment(desk(LETTERS, RADIO, active=1), 0.1))
    assert [type(change) for change in ask.changes] == [Press]


def test_what_could_not_be_pressed_is_told_of() -> None:
    now = desk(LETTERS, active=1)
    task = begin(parse_action('type "x" into letters'), TaskContext(CONFIG, Shelf()), Moment(now, 0.0))
    (change,) = next(task).changes
    assert isinstance(change, Press)
    task.send(Moment(now, 0.1, pressing=(change,)))
    with pytest.raises(StopIteration) as end:
        task.send(Moment(now, 0.2, unpressed={change: "nothing was pressed: super is still held"}))
    assert end.value.value == TaskOutcome(False, "'x': nothing was pressed: super is still held")
