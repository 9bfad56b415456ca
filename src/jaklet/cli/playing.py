"""A rehearsal by hand: keys pressed in the terminal, and the desk drawn after each."""

from collections.abc import Mapping

from prompt_toolkit.application import Application
from prompt_toolkit.application.current import get_app
from prompt_toolkit.formatted_text import ANSI
from prompt_toolkit.key_binding import KeyBindings, KeyPressEvent
from prompt_toolkit.keys import Keys
from prompt_toolkit.layout import Layout, Window
from prompt_toolkit.layout.controls import FormattedTextControl

from jaklet.cli import terminal
from jaklet.core.values.chords import Chord, Modifier
from jaklet.core.values.desk import Desk
from jaklet.drawing.desks import MIN_COLUMNS, draw_desk
from jaklet.drawing.panels import DeskPanel, hidden_told, panel_names
from jaklet.drawing.rehearsals import act_lines
from jaklet.rehearsal.stage import PressResult, Rehearsal
from jaklet.rehearsal.terminal_keys import base_of, chord_of

LEAVE = "Ctrl+C"
WIDEST = 120
LINES = 10  # that are left for what a key did
# Keys that the terminal has names for.
NAMED = (
    *("escape", "up", "down", "left", "right", "s-up", "s-down", "s-left", "s-right", "enter", "backspace"),
    *("pageup", "pagedown", "home", "end", "delete", "insert", *(f"f{n}" for n in range(1, 13))),
)


class _View:
    """The desk on a stage, what the last chord did, and what a key is pressed with."""

    def __init__(self, stage: Rehearsal) -> None:
        self.stage = stage
        self.base = base_of(stage.config)
        self.bare = False
        self.last: PressResult | None = None

    def press(self, key: str) -> None:
        """Press a key of the terminal; in a layer, keys are meant as they are."""
        chord = chord_of(key, 0 if self.bare or self.stage.session.layer else self.base)
        if chord is not None:
            self.last = self.stage.press(chord)

    def text(self) -> ANSI:
        """Return all that is shown."""
        size = get_app().output.get_size()
        ink, config, desk = terminal.ink_for(), self.stage.config, self.stage.desk
        panel = DeskPanel("", desk)
        names = panel_names(panel, config)
        held = str(Chord(self.base, ord("x"))).removesuffix("+x") if self.base else ""
        layer = self.stage.session.layer
        how = "as they are" if self.bare or layer or not held else f"with {held}"
        other = f"with {held}" if self.bare else "as they are"
        head = f"keys are pressed {how}"
        head += "" if layer or not held else f" · Tab: {other}"
        lines = [ink(f"{head} · {LEAVE}: leave", "faint")]
        drawn = self._drawn(desk, names, min(size.columns, WIDEST), size.rows - LINES)
        hidden = hidden_told(panel, names)
        told = act_lines(self.last, config, ink, size.columns) if self.last else ["press a key"]
        room = max(3, size.rows - len(drawn) - 4)
        told = told if len(told) <= room else [told[0], "         …", *told[-(room - 2) :]]
        return ANSI("\n".join([*lines, *drawn, ink(hidden, "faint"), *told]))

    def _drawn(self, desk: Desk, names: Mapping[int, str], columns: int, rows: int) -> list[str]:
        """Return the drawing, as large as there is room for."""
        while True:
            drawn = draw_desk(desk, self.stage.config, columns, terminal.ink_for(), names=names).split("\n")
            if len(drawn) <= rows or columns <= MIN_COLUMNS:
                return drawn
            columns = max(MIN_COLUMNS, columns - 8)


def play_by_hand(stage: Rehearsal) -> None:
    """Let keys be pressed until the view is left; raises `UsageError` where there is no terminal."""
    import sys

    from jaklet.core.values.errors import UsageError

    if not (sys.stdin.isatty() and sys.stdout.isatty()):
        raise UsageError("--interactive needs a terminal", "give the chords instead: jaklet rehearse super+b")
    view, keys = _View(stage), KeyBindings()

    @keys.add("c-c")
    @keys.add("c-q")
    def _(event: KeyPressEvent) -> None:
        event.app.exit()

    @keys.add("tab")
    def _(_: KeyPressEvent) -> None:
        view.bare = not view.bare and bool(view.base & ~Modifier.SHIFT)

    @keys.add(Keys.Any)
    def _(event: KeyPressEvent) -> None:
        key = event.key_sequence[0].key
        view.press(key.value if isinstance(key, Keys) else key)

    for name in NAMED:
        keys.add(name, eager=name == "escape")(lambda _event, name=name: view.press(name))
    control = FormattedTextControl(view.text, focusable=True, show_cursor=False)
    app: Application[None] = Application(Layout(Window(control)), key_bindings=keys, full_screen=True)
    app.ttimeoutlen = 0.05  # how long Escape waits for being the start of another key
    app.run()
