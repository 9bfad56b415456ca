"""jaklet keys draw"""

from typing import Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.keys import WithOption, commands, known_layer, modifiers_of
from jaklet.cli.options import ConfigOption, DeskOption, KeyboardOption
from jaklet.core.values.errors import UsageError


@commands.command()
def draw(
    modifiers: WithOption = None,
    layer: Annotated[str, typer.Option("--layer", help="The keys of this layer.", show_default=False)] = "",
    shape: Annotated[
        str | None,
        typer.Option("--shape", metavar="WORDS", help="Another shape: small laptop, 60%, iso-105.", show_default=False),
    ] = None,
    out: Annotated[
        str | None, typer.Option("--out", metavar="FILE", help="Write it: .png, .svg or .pdf.", show_default=False)
    ] = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    keyboard: KeyboardOption = None,
) -> None:
    """Draw the keyboard with what is on its keys.

    What each key does with some modifiers held, who else has it, and how it is reached.

    Without `--with`, one drawing for each set of modifiers that is in use.

    Example: jaklet keys draw --with super --keyboard fr
    """
    from jaklet.cli.resources import checked_config
    from jaklet.core.keys.keycaps import boards
    from jaklet.core.keys.shapes import CALLED, SHAPES, shape_called
    from jaklet.core.values.words import counted, did_you_mean, either
    from jaklet.drawing.keycap_figures import draw_keyboards
    from jaklet.drawing.keycaps import KEY_TO_SIGNS, keyboard_text
    from jaklet.keyboards.shipped import keyboard as shipped

    result = checked_config(config, desk, keyboard or ())
    known_layer(result.config, layer)
    board = result.case.keyboards[0]
    if shape:
        words = shape_called(shape)
        if not words:
            names = [*(one.words for one in SHAPES), *CALLED]
            raise UsageError(
                f"no keyboard has the shape {shape!r}", did_you_mean(shape, names, f"shapes are {either(names)}")
            )
        board = shipped(board.name._replace(shape=words))
    drawings = boards(
        board, result.config.live, result.case.reserved, None if modifiers is None else modifiers_of(modifiers), layer
    )
    if not drawings:
        terminal.warn("no key is bound here; `--with super` draws the keys that are free")
        raise typer.Exit(1)
    if out is None:
        ink = terminal.ink_for()
        for title, caps in drawings:
            terminal.say(ink(title, "strong"))
            terminal.say(keyboard_text(caps, terminal.wide_columns(), ink))
        terminal.say(ink(KEY_TO_SIGNS, "faint"))
        return
    draw_keyboards(drawings, out)
    terminal.say(f"wrote {out}: {counted(len(drawings), 'drawing')}")
