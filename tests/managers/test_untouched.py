"""What nobody asked for does not change: a full reading of the server before and after each action."""

from typing import Final, NamedTuple

from tests.managers.desk import Managed
from tests.managers.reading import Frame
from tests.xserver import until

NORMAL: Final = ("Berths", "Radio")  # in view on workspace 1
HIDDEN: Final = "Tides"  # minimised
AFAR: Final = "Ledger"  # on workspace 2
FRONT: Final = "Letters"


class Seen(NamedTuple):
    """All that a person can see of a window."""

    frame: Frame | None
    states: frozenset[str]
    workspace: int | None
    minimised: bool
    seen: bool


# What is done, by command; and the windows of which anything may be otherwise then.
ACTIONS: Final[tuple[tuple[str, set[str]], ...]] = (
    ("act place letters left 1/2", {FRONT}),
    ("undo", {FRONT}),
    ("act place berths right 1/3", {"Berths"}),
    ("act nudge right 40px", {FRONT}),
    ("act go radio", set()),
    ("act go letters", set()),
    ("act swap left", {FRONT, "Radio", "Berths"}),
    ("undo", {FRONT, "Radio", "Berths"}),
    ("act keep above on", {FRONT, *NORMAL}),
    ("undo", {FRONT, *NORMAL}),
    ("act maximise berths", {"Berths"}),
    ("undo", {"Berths"}),
    ("act spread columns", {"Berths", "Radio", FRONT}),
    ("undo", {"Berths", "Radio", FRONT}),
    ("layout save day", set()),
    ("act place radio left 1/3", {"Radio"}),
    ("layout recall day", {"Radio"}),
    ("undo", {"Radio"}),
    ("layout recall small", {"Berths", "Radio"}),
    ("undo", {"Berths", "Radio"}),
)
LOOKS: Final = {"maximized_vert", "maximized_horz", "fullscreen", "above", "hidden", "sticky"}


def seen(desk: Managed) -> dict[str, Seen]:
    reading = desk.reading
    found = {}
    for name in (*NORMAL, HIDDEN, AFAR, FRONT):
        shown = reading.is_seen(name)
        states = frozenset(one for one in reading.states(name) if one.lower().removeprefix("_net_wm_state_") in LOOKS)
        frame = reading.frame(name) if shown else None
        found[name] = Seen(frame, states, reading.workspace(name), reading.is_minimised(name), shown)
    return found


def hide(desk: Managed) -> None:
    """Put one window out of view by minimising, and one on another workspace, if there is one."""
    desk.act("minimise tides")  # it stays above the others, where nobody sees it
    desk.act("send ledger to workspace 2" if desk.workspaces() > 1 else "minimise ledger")


def test_what_nobody_asked_for_does_not_change(desk: Managed) -> None:
    """Above all, what is minimised or on another workspace is not brought into view by what is done here."""
    desk.open(*NORMAL, FRONT, HIDDEN, AFAR)
    for name, place in (("berths", "left 1/2"), ("radio", "right 1/2"), ("letters", "centre 300px x 200px")):
        desk.act(f"place {name} {place}")
    desk.activate("Berths", "Radio", FRONT, HIDDEN, AFAR)
    hide(desk)
    desk.act("go letters")
    layout = "layout: small\nwindows:\n- {app: radio, place: left 1/4}\n- {app: berths, place: right 1/4}\n"
    (desk.office.folder / "layouts").mkdir(exist_ok=True)
    (desk.office.folder / "layouts" / "small.yaml").write_text(layout)
    for words, may in ACTIONS:
        until(lambda: seen(desk) == seen(desk), "a desk at rest")
        before = seen(desk)
        verb, _, rest = words.partition(" ")
        said = desk.jaklet(*([verb, rest] if verb == "act" else words.split()), status=None)
        after = seen(desk)
        others = [name for name in before if name not in may and before[name] != after[name]]
        told = {name: (before[name], after[name]) for name in others}
        assert not others, (words, said.stdout, said.stderr, told)
        assert after[HIDDEN].minimised, words  # whether it is mapped is the manager's business: some keep pictures
        assert after[AFAR][2:4] == before[AFAR][2:4], words
        assert desk.reading.words(desk.reading.root, "_NET_CURRENT_DESKTOP") == (0,), words
