"""jaklet tabletop: new, save, show"""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from jaklet.cli import terminal
from jaklet.cli.options import ConfigOption, DeskOption, FormatOption, OutputFormat
from jaklet.core.values.errors import UsageError

if TYPE_CHECKING:
    from jaklet.core.values.config import Config
    from jaklet.desktops.tabletop.room import Room

commands = typer.Typer(
    no_args_is_help=True, help="Make, show and keep simulated desks, which are files.", rich_markup_mode=None
)
FileArgument = Annotated[str, typer.Argument(metavar="FILE", help="The tabletop's file.", show_default=False)]
ForceOption = Annotated[bool, typer.Option("--replace", help="Write over a file that is there.")]
OnOption = Annotated[
    str | None,
    typer.Option(
        "--on", metavar="DISPLAYS", help='Displays such as "main 1920x1080, quay 1280x1024".', show_default=False
    ),
]


@commands.command()
def new(
    file: FileArgument,
    on: OnOption = None,
    config: ConfigOption = None,
    desk: DeskOption = None,
    replace: ForceOption = False,
) -> None:
    """Make a tabletop with the displays and programs of the config.

    It has no window.

    Example: jaklet tabletop new desk.yaml --on "main 2560x1440, quay 1920x1080"
    """
    from jaklet.cli.resources import opened_or_bare
    from jaklet.core.actions.layouts.imagining import parse_displays
    from jaklet.rehearsal.tabletops import room_for

    known = opened_or_bare(config, desk)
    displays = parse_displays(on, known) if on else ()
    _write(room_for(known, displays), file, known, replace)


@commands.command()
def save(
    file: FileArgument, config: ConfigOption = None, desk: DeskOption = None, replace: ForceOption = False
) -> None:
    """Keep the desk as it is now as a tabletop.

    Example: jaklet tabletop save morning.yaml
    """
    from jaklet.cli.rehearsing import NOW, room_from
    from jaklet.cli.resources import opened_or_bare

    known = opened_or_bare(config, desk)
    _write(room_from(NOW, desk, known), file, known, replace)


@commands.command()
def show(
    file: FileArgument, config: ConfigOption = None, desk: DeskOption = None, form: FormatOption = OutputFormat.text
) -> None:
    """Show a tabletop.

    A drawing to scale, its windows, and the programs that can be launched on it.

    Example: jaklet tabletop show morning.yaml
    """
    from jaklet.cli.rehearsing import room_from
    from jaklet.cli.resources import opened_or_bare
    from jaklet.drawing.desks import desk_data, desk_text

    known = opened_or_bare(config, desk)
    room = room_from(file, None, known)
    now = room.desk()
    if form is OutputFormat.json:
        terminal.say_json(desk_data(now, known) | {"programs": sorted(room.programs)})
        return
    terminal.say(desk_text(now, known, terminal.columns(), terminal.ink_for()))
    terminal.say(f"programs: {', '.join(sorted(room.programs)) or 'none'}")


def _write(room: "Room", file: str, config: "Config", replace: bool) -> None:
    from jaklet.core.values.words import counted
    from jaklet.desktops.tabletop.file import write_room

    path = Path(file).expanduser()
    if path.exists() and not replace:
        raise UsageError(f"{file} is there already", "add --replace to write over it, or name another file")
    write_room(room, path, config.role_of)
    terminal.say(
        f"{file}: {counted(len(room.displays), 'display')}, {counted(len(room.programs), 'program')},"
        f" {counted(len(room.standing), 'window')}; use it with --desk tabletop:{file}"
    )
