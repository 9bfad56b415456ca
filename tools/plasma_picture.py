"""Take a picture of the demo on Plasma, by KWin's own interface for pictures: python tools/plasma_picture.py OUT.png

Real windows of Wayland, keys as a hand presses them, and the keys of a layer over the windows. Two outputs of 1920x1080
stand one beside the other; the picture is made smaller.
"""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from PIL import Image
from tests.fake_input import Hand
from tests.plasma import SIZE, Plasma, needed, session, taken
from tests.xserver import until

from jaklet.demo.harbour import WAYLAND_WINDOWS, write_files

WIDTH = 1280
STEPS = (
    ("super+b", "super+b: "), ("super+q", "super+q: "), ("super+r", "super+r: "), ("super+y", "super+y: "),
    ("super+t", "super+t: "), ("super+v", "super+v: "), ("super+w", "layer arrange is on"),
)  # fmt: skip


def main(out: Path) -> None:
    """Set the office up, and take the picture."""
    needed()
    with tempfile.TemporaryDirectory() as folder, session(Path(folder) / "s", compositing="O2") as plasma:
        office = Path(folder) / "office"
        write_files(office, WAYLAND_WINDOWS)
        config = office / "jaklet.yaml"
        text = config.read_text().replace("DP-1", "Virtual-0").replace("HDMI-1", "Virtual-1")
        text = text.replace("  by task:\n", "  by task:\n    super+y: place left 2/3\n    super+v: place right 1/3\n")
        text = text.replace("settings:\n", "settings:\n  take over: [super+w, super+t]\n  overlay: {hints: always}\n")
        config.write_text(text)
        path, shared = f"{office / 'bin'}:{os.environ['PATH']}", f"{office / 'share'}:/usr/share"
        env = plasma.jaklet_env(JAKLET_CONFIG=str(config), PATH=path, XDG_DATA_DIRS=shared)
        log = Path(folder) / "log"
        with log.open("w") as file:
            listener = subprocess.Popen([sys.executable, "-m", "jaklet", "listen"], env=env, stdout=file, stderr=file)
        until(lambda: "listening on" in log.read_text(), "the listener")
        hand = Hand(f"{plasma.env['XDG_RUNTIME_DIR']}/{plasma.env['WAYLAND_DISPLAY']}")
        for chord, line in STEPS:
            hand.chord(chord)
            until(lambda line=line: line in log.read_text(), f"{line}: {log.read_text()}")  # type: ignore[misc]
        picture = until(lambda: shown(plasma), "the card over the windows")
        assert picture is not None
        picture.resize((WIDTH, SIZE[1] * WIDTH // SIZE[0]), Image.Resampling.LANCZOS).save(out)
        listener.terminate()
        listener.wait()
        hand.close()


def shown(plasma: Plasma) -> Image.Image | None:
    """Return the picture once something dark stands at the lower edge of the first output: the keys of the layer."""
    picture = taken(plasma)
    strip = picture.crop((0, 900, SIZE[0], 1070)).convert("L").resize((48, 1))
    return picture if min(strip.tobytes()[:24]) < 60 else None


if __name__ == "__main__":
    main(Path(sys.argv[1]))
