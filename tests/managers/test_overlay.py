"""What appears over the windows: over all of them, on the display in use, without the focus, and with all keys."""

from typing import NamedTuple

import xcffib.xproto as xp

from tests.listener.test_x11 import Listening
from tests.managers.desk import CONFIG, Managed
from tests.xserver import until

KEYS = (
    "  ctrl+alt+shift+p: pick windows\n  ctrl+alt+shift+k: show keys\n  ctrl+alt+shift+f: focus by letter\n"
    "  ctrl+alt+shift+w: pick windows while held\n"
)


class Eye(NamedTuple):
    """Sees our panels, by the server's tree."""

    desk: Managed
    listening: Listening

    def panels(self) -> dict[int, tuple[int, int, int, int]]:
        """Return where our panels are that can be seen."""
        found = {}
        reading = self.desk.reading
        for top in reading.core.QueryTree(reading.root).reply().children:
            try:
                state, place = reading.core.GetWindowAttributes(top).reply(), reading.core.GetGeometry(top).reply()
            except (xp.WindowError, xp.DrawableError):
                continue
            if state.override_redirect and state.map_state == xp.MapState.Viewable and reading.cls(top) == "Jaklet":
                found[top] = (place.x, place.y, place.width, place.height)
        return found

    def sees(self, what: str, main: bool) -> None:
        """Wait for a panel, and see that it is on this display, above the windows of all programs."""
        until(self.panels, f"{what}: {self.listening.says()}")
        tree = [*self.desk.reading.core.QueryTree(self.desk.reading.root).reply().children]
        for panel, (x, _, wide, _) in [one for one in self.panels().items() if one[0] in tree]:
            assert (x >= 0 and x + wide <= 1280) is main, (what, self.panels())
            covering = [top for top in tree[tree.index(panel) :] if self._shows_a_client(top)]
            assert not covering, (what, covering)

    def _shows_a_client(self, top: int) -> bool:
        reading = self.desk.reading
        return any(top in (client, reading.top_of(client)) for client in reading.clients().values())

    def sees_nothing(self) -> None:
        """Wait until nothing of ours is there, and the keyboard is free."""
        until(lambda: not self.panels(), f"nothing over the windows: {self.listening.says()}")
        until(self._is_free, f"a free keyboard: {self.listening.says()}")

    def _is_free(self) -> bool:
        core = self.desk.reading.core
        status = core.GrabKeyboard(False, self.desk.reading.root, 0, 1, 1).reply().status
        core.UngrabKeyboard(0)
        core.GetInputFocus().reply()
        return bool(status == xp.GrabStatus.Success)


def test_cards_come_over_everything_and_the_focus_is_right_afterwards(desk: Managed) -> None:
    desk.office.config.write_text(CONFIG + KEYS)
    desk.open("Radio", "Tides", "Berths")
    for sentence in ("place tides left 1/2 on side", "place radio right 1/3 on main", "keep radio above on"):
        desk.act(sentence)
    desk.activate("Berths")
    desk.act("fullscreen berths")
    desk.until(desk.reading.focus, "Berths", "the fullscreen window in front")
    listening = Listening(desk.office)
    eye = Eye(desk, listening)
    press = desk.x.press

    press("ctrl+alt+shift+p")
    eye.sees("the finder over a fullscreen window", main=True)
    assert desk.reading.focus() == "Berths"
    for key in ("t", "i", "d", "return"):
        press(key)
    desk.until(desk.reading.focus, "Tides", f"what was chosen; {listening.says()}")
    eye.sees_nothing()

    press("ctrl+alt+shift+p")
    eye.sees("the finder on the other display", main=False)
    press("escape")
    eye.sees_nothing()
    assert desk.reading.focus() == "Tides"

    press("ctrl+alt+shift+w")  # let go of at once: the former window
    desk.until(desk.reading.focus, "Berths", f"the former window; {listening.says()}")
    eye.sees_nothing()

    other = desk.x.connect()  # a program whose menu is open
    assert other.core.GrabKeyboard(False, desk.reading.root, 0, 1, 1).reply().status == xp.GrabStatus.Success
    desk.jaklet("fire", "ctrl+alt+shift+k", status=None)
    listening.until_says("it cannot be typed into, and is closed: another program holds the keyboard")
    other.core.UngrabKeyboard(0)
    other.core.GetInputFocus().reply()
    other.disconnect()
    until(lambda: all(height < 100 for *_, height in eye.panels().values()), "no keys, but why")
    press("ctrl+alt+shift+k")
    eye.sees("the keys", main=True)
    press("x")
    assert desk.reading.focus() == "Berths"
    assert listening.stop() == 0
