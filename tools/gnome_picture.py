"""Take a picture of the demo on GNOME, by the shell's own screenshot: python tools/gnome_picture.py ABOVE.png OUT.png

It stands below another picture, as that of the demo on Plasma.
Real windows of Wayland, keys as a hand presses them, and the keys of a layer over the windows. The picture of two
monitors is made smaller.
"""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from PIL import Image
from tests.gnome import Gnome, RemoteHand, needed, session, taken
from tests.xserver import until

from jaklet.demo.harbour import WAYLAND_WINDOWS, write_files

WIDTH = 1280
STEPS = (
    ("super+b", "super+b: "), ("super+q", "super+q: "), ("super+r", "super+r: "), ("super+y", "super+y: "),
    ("super+t", "super+t: "), ("super+v", "super+v: "), ("super+w", "layer arrange is on"),
)  # fmt: skip


def main(above: Path, out: Path) -> None:
    """Set the office up, and take the picture."""
    needed()
    with tempfile.TemporaryDirectory() as folder, session(Path(folder) / "s") as gnome:
        office = Path(folder) / "office"
        write_files(office, WAYLAND_WINDOWS)
        config = office / "jaklet.yaml"
        text = config.read_text().replace("DP-1", "Meta-0").replace("HDMI-1", "Meta-1")
        text = text.replace("  by task:\n", "  by task:\n    super+y: place left 2/3\n    super+v: place right 1/3\n")
        text = text.replace("settings:\n", "settings:\n  take over: [super+v]\n  overlay: {hints: always}\n")
        config.write_text(text)
        path, shared = f"{office / 'bin'}:{os.environ['PATH']}", f"{office / 'share'}:/usr/share"
        env = {**gnome.env, "JAKLET_CONFIG": str(config), "PATH": path, "XDG_DATA_DIRS": shared}
        hand, log = RemoteHand(gnome), Path(folder) / "log"  # before the listener: a shell without a hand has no keys
        with log.open("w") as file:
            listener = subprocess.Popen([sys.executable, "-m", "jaklet", "listen"], env=env, stdout=file, stderr=file)
        until(lambda: "listening on" in log.read_text(), "the listener")
        for chord, line in STEPS:
            hand.chord(chord)
            until(lambda line=line: line in log.read_text(), f"{line}: {log.read_text()}")  # type: ignore[misc]
        picture = until(lambda: shown(gnome, Path(folder)), "the card over the windows")
        assert picture is not None
        small = picture.resize((WIDTH, picture.height * WIDTH // picture.width), Image.Resampling.LANCZOS)
        with Image.open(above) as first:
            both = Image.new("RGB", (WIDTH, first.height + small.height))
            both.paste(first, (0, 0))
            both.paste(small, (0, first.height))
        both.save(out)
        listener.terminate()
        listener.wait()
        hand.close()


def shown(gnome: Gnome, folder: Path) -> Image.Image | None:
    """Return the picture once something dark stands at the lower edge of the first display: the keys of the layer."""
    picture = taken(gnome, folder)
    strip = picture.crop((200, 900, 1700, 1070)).convert("L").resize((24, 1))
    return picture if min(strip.tobytes()) < 40 else None


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
