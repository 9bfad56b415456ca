"""The finder on a terminal. It can be typed into from the first moment; what there is to find comes in behind."""

import asyncio
from collections.abc import Callable
from functools import partial
from typing import TypeVar

from prompt_toolkit.application import Application
from prompt_toolkit.application.current import get_app
from prompt_toolkit.buffer import Buffer
from prompt_toolkit.document import Document
from prompt_toolkit.filters import Condition
from prompt_toolkit.formatted_text import StyleAndTextTuples
from prompt_toolkit.key_binding import KeyBindings, KeyPressEvent
from prompt_toolkit.key_binding.key_bindings import merge_key_bindings
from prompt_toolkit.key_binding.key_processor import KeyPress
from prompt_toolkit.keys import Keys
from prompt_toolkit.layout import HSplit, Layout, Window
from prompt_toolkit.layout.controls import BufferControl, FormattedTextControl
from prompt_toolkit.layout.processors import BeforeInput
from prompt_toolkit.styles import Style

from jaklet.core.actions.pick_candidate import Candidate
from jaklet.core.values.errors import JakletError
from jaklet.finder.state import CHOSEN, FAINT, KEY, LABEL, MARK, TAB, TAB_OPEN, Finder, Fragments

PROMPT = "find: "
T = TypeVar("T")
# Attributes and the eight named colours alone, which follow the terminal's own palette.
_COLOURS = {
    MARK: "ansiyellow bold", CHOSEN: "reverse", FAINT: "ansibrightblack", LABEL: "ansicyan", KEY: "ansigreen",
    TAB: "ansibrightblack", TAB_OPEN: "bold reverse",
}  # fmt: skip
_PLAIN = {MARK: "underline", CHOSEN: "reverse", TAB_OPEN: "reverse", LABEL: "bold"}


def pick(finder: Finder, load: Callable[[], T], take: Callable[[T], None], coloured: bool) -> Candidate | None:
    """Show the finder until something is chosen; None where it was left. Errors of `load` are raised.

    `load` runs beside the screen, in another thread; `take` gets what it returns, in this one.
    """
    screen = _Screen(finder, coloured)

    async def bring_in() -> None:
        try:
            take(await asyncio.get_running_loop().run_in_executor(None, load))
        except JakletError as fault:
            screen.app.exit(exception=fault)
            return
        screen.app.invalidate()

    def begin(_: Application[Candidate | None]) -> None:
        # After the first screen, so that it is there before anything slow begins.
        screen.app.after_render -= begin
        # The library puts its key bindings together at the first key, which takes as long as a whole screen.
        screen.app.key_processor.feed(KeyPress(Keys.Ignore))
        screen.app.key_processor.process_keys()
        screen.app.create_background_task(bring_in())

    screen.app.after_render += begin
    return screen.app.run()


class _Screen:
    """Keys and windows around a finder."""

    def __init__(self, finder: Finder, coloured: bool) -> None:
        self.finder = finder
        document = Document(finder.typed, len(finder.typed))
        self._typed = Buffer(document=document, multiline=False, on_text_changed=self._changed)
        colours = _COLOURS if coloured else _PLAIN
        self.app: Application[Candidate | None] = Application(
            layout=self._layout(),
            key_bindings=merge_key_bindings([self._keys(), self._jump_keys()]),
            style=Style.from_dict(colours),
            full_screen=True,
        )
        self.app.ttimeoutlen = 0.05  # how long Escape waits for being the start of another key

    def _layout(self) -> Layout:
        # One window for the prompt and what is typed: to divide a line among two costs 2 ms at each key.
        top = Window(BufferControl(self._typed, [BeforeInput(PROMPT, "bold")]), height=1)
        tabs = Window(FormattedTextControl(lambda: _styled([self.finder.tabs()])), height=1)
        below = Window(FormattedTextControl(lambda: _styled([self.finder.status()])), height=1)
        return Layout(HSplit([top, tabs, Window(height=1), Window(FormattedTextControl(self._list)), below]), top)

    def _list(self) -> StyleAndTextTuples:
        size = get_app().output.get_size()
        return _styled(self.finder.lines(size.rows - 4, size.columns))

    def _changed(self, _: Buffer) -> None:
        self.finder.type(self._typed.text)
        if word := self.finder.word_stands:
            self.app.exit(result=word)

    def _keys(self) -> KeyBindings:
        keys, finder = KeyBindings(), self.finder
        usual = Condition(lambda: finder.jumping is None)

        def page() -> int:
            return max(1, get_app().output.get_size().rows - 5)

        steps: dict[str, Callable[[], int]] = {
            "down": lambda: 1, "c-n": lambda: 1, "up": lambda: -1, "c-p": lambda: -1,
            "pagedown": page, "pageup": lambda: -page(),
        }  # fmt: skip
        for name, step in steps.items():
            keys.add(name, filter=usual)(partial(_move, finder, step))
        keys.add("tab")(lambda _: finder.turn(1))
        keys.add("s-tab")(lambda _: finder.turn(-1))

        @keys.add("enter", filter=usual)
        def _(event: KeyPressEvent) -> None:
            if finder.choice:
                event.app.exit(result=finder.choice)

        @keys.add("c-l", filter=usual)
        def _(_: KeyPressEvent) -> None:
            finder.jumping = ""

        @keys.add("escape", eager=True)
        @keys.add("c-c")
        @keys.add("c-g")
        def _(event: KeyPressEvent) -> None:
            if finder.jumping is not None:
                finder.jumping = None
            else:
                event.app.exit(result=None)

        return keys

    def _jump_keys(self) -> KeyBindings:
        keys, finder = KeyBindings(), self.finder

        @keys.add(Keys.Any, filter=Condition(lambda: finder.jumping is not None), eager=True)
        def _(event: KeyPressEvent) -> None:
            if found := finder.jump(event.data):
                event.app.exit(result=found)

        return keys


def _move(finder: Finder, step: Callable[[], int], _: KeyPressEvent) -> None:
    finder.move(step())


def _styled(lines: list[Fragments]) -> StyleAndTextTuples:
    """Return lines in the form that the library takes: roles as style classes."""
    styled: StyleAndTextTuples = []
    for i, line in enumerate(lines):
        if i:
            styled.append(("", "\n"))
        styled += [(" ".join(f"class:{role}" for role in roles.split()), text) for roles, text in line]
    return styled
