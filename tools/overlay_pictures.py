"""Draw what appears over the windows on the demo's desk, on one sheet: python tools/overlay_pictures.py OUT.png

Run in the demo's folder. No desktop is needed: the helper draws on a picture of a tabletop.
"""

import sys
from pathlib import Path

from PIL import Image

from jaklet.checks.run import check_config, shelf_of
from jaklet.config.paths import locate_config
from jaklet.core.actions.begin import begin
from jaklet.core.actions.tasks import TaskContext
from jaklet.core.language.actions import parse_action
from jaklet.core.values.chords import Modifier
from jaklet.core.values.desk import Desk
from jaklet.core.values.geometry import Rect
from jaklet.core.values.snapshot import desk_data
from jaklet.desktops.drive import drive_task
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.desktops.tabletop.file import read_room
from jaklet.installed.programs import InstalledPrograms
from jaklet.overlay.helper import Helper
from jaklet.overlay.picture_surface import PictureSurface
from jaklet.overlay.scenes import Stores

SIZE = (1280, 800)
STORY = ("go berths", "place left 2/3", "go radio", "place right 1/2", "go letters", "place bottom 1/3", "go berths")
# Each view: what the helper is told, and the keys that are pressed then.
VIEWS: tuple[tuple[dict[str, object], str], ...] = (
    ({"what": "open", "number": 1, "view": "finder", "of": "all"}, "ra"),
    ({"what": "keys", "layer": "arrange", "begun": []}, ""),
    ({"what": "open", "number": 1, "view": "keys", "of": ""}, ""),
    ({"what": "open", "number": 1, "view": "grid", "of": "6x4"}, "s"),
    ({"what": "open", "number": 1, "view": "letters", "of": "focus"}, ""),
    ({"what": "open", "number": 1, "view": "layout", "of": "arrivals"}, ""),
    ({"what": "open", "number": 1, "view": "walk", "of": "windows"}, "x"),
    ({"what": "hold", "modifiers": int(Modifier.SUPER)}, ""),
)


def main(out: Path) -> None:
    """Draw all views, and write the sheet."""
    folder = Path.cwd()
    config = check_config(locate_config(str(folder)), InstalledPrograms()).config
    room = read_room(folder / "tabletop.yaml")
    first = room.displays[0]
    room.displays = (first._replace(rect=Rect(0, 0, *SIZE), work=Rect(0, 0, *SIZE)),)
    desktop, shelf = Tabletop(room), shelf_of(locate_config(str(folder)))
    for sentence in STORY:
        action = parse_action(sentence)
        drive_task(desktop, lambda moment, action=action: begin(action, TaskContext(config, shelf), moment))  # type: ignore[misc]
    desk: Desk = desktop.look().desk
    layouts = tuple(one for name in shelf.names() if (one := shelf.find(name)))
    sheet = Image.new("RGB", (SIZE[0], SIZE[1] * ((len(VIEWS) + 1) // 2) // 2), "#101418")
    for number, (view, keys) in enumerate(VIEWS):
        surface = PictureSurface()
        helper = Helper(surface, Stores(lambda: layouts, lambda: ()), lambda: config, lambda _method, **_more: None)
        helper.take({**view, "desk": desk_data(desk)}, 0.0)
        for key in keys:
            helper.take({"what": "key", "number": 2, "key": key, "text": key}, 0.0)
        helper.show(1.0)
        half = surface.image(desk, config).resize((SIZE[0] // 2 - 2, SIZE[1] // 2 - 2), Image.Resampling.LANCZOS)
        sheet.paste(half, (number % 2 * SIZE[0] // 2 + 1, number // 2 * SIZE[1] // 2 + 1))
    sheet.save(out)


if __name__ == "__main__":
    main(Path(sys.argv[1]))
