"""The chords that a layout may press, though nobody has read its file: layouts are passed from user to user.

A recall may have launched the program that gets the keys, or brought a terminal to the front. So a layout presses only
chords that no text field, on any keyboard, takes for text, Enter, paste or a control character. In a terminal, where
every key means something, it presses none. The config can allow more for an app: `layouts may press`. Its bindings
start programs anyway.
"""

from typing import Final

from jaklet.core.values.apps import App
from jaklet.core.values.chords import Chord, Keys, parse_chord
from jaklet.core.values.desk import Window
from jaklet.core.values.words import listed

# Left out: F1, F10, F11 and F12, which open help, menus and other views; Alt with function keys, which close windows.
HARMLESS: Final[frozenset[Chord]] = frozenset(
    parse_chord(text)
    for text in (
        *(f"f{number}" for number in range(2, 10)),
        *(f"{held}+{key}" for held in ("ctrl", "alt") for key in ("pageup", "pagedown", *"123456789")),
    )
)
REMEDY: Final = "a layout may press f2 to f9, and ctrl or alt with a digit or page key; more under `layouts may press`"
# Programs that are terminals, by the names of their files, for those that are not launched by a desktop entry which
# says so. Facts, not rules: what has the category TerminalEmulator is one, too.
_NAMES: Final = """
    alacritty aterm black-box cool-retro-term deepin-terminal eterm evilvte foot footclient ghostty gnome-terminal
    gnome-terminal-server guake hterm kgx kitty koi8rxterm konsole lilyterm lxterm lxterminal mate-terminal mlterm
    pterm ptyxis qterminal roxterm rxvt rxvt-unicode sakura st stterm terminator terminology termit tilda tilix
    urxvt urxvtc uxterm wezterm wezterm-gui x-terminal-emulator xfce4-terminal xterm xvt yakuake zutty
"""
TERMINALS: Final = frozenset(_NAMES.split())
CATEGORY: Final = "TerminalEmulator"  # Desktop Menu Specification, appendix A


def is_terminal(app: App | None, window: Window | None = None) -> bool:
    """True if an app, or the window that stands for it, is a terminal, as far as that can be known."""
    names = [word.rsplit("/", 1)[-1] for word in app.command] if app else []
    names += [window.cls, window.instance, window.process] if window else []
    return bool(app and (app.terminal or app.in_terminal)) or any(name.lower() in TERMINALS for name in names)


def refusal(keys: Keys, app: App | None, window: Window | None = None) -> str:
    """Return why a layout may not press these keys for an app; empty if it may."""
    if not keys:
        return ""
    if is_terminal(app, window):
        return "a terminal takes every key for something, and gets none from a layout"
    allowed = HARMLESS | set(app.may_press if app else ())
    wrong = [str(chord) for chord in keys if chord not in allowed]
    return f"a layout may not press {listed(wrong)}" if wrong else ""
