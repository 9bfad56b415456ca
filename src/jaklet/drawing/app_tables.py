"""Apps as text and data: their windows and keys, whose a window is and why, and lines to be put into a config."""

from typing import Any, Final

from jaklet.core.actions.change_words import window_name
from jaklet.core.language.verbs import KEYS_OF_APPS, traits_of
from jaklet.core.values.config import Config
from jaklet.core.values.desk import DIALOG, Desk, Window
from jaklet.core.values.words import listed, printable, shortened
from jaklet.drawing.ink import PLAIN, Ink
from jaklet.drawing.tables import table_text

HEADS: Final = ("app", "keys", "windows", "title", "display", "workspace", "state", "launched by")


def app_keys(config: Config) -> dict[str, list[str]]:
    """Return the chords that go to each app."""
    keys: dict[str, list[str]] = {}
    for binding in config.live:
        app = binding.action.named("APP")
        if app and KEYS_OF_APPS in traits_of(binding.action).listed:
            keys.setdefault(app.name, []).append(binding.written)
    return keys


def command_told(config: Config, name: str) -> str:
    """Return how an app is launched, as one would type it."""
    import shlex

    app = config.apps[name]
    return shlex.join(app.command_line(config.settings.terminal)) if app.command else ""


def apps_text(config: Config, desk: Desk | None, columns: int | None, ink: Ink = PLAIN) -> str:
    """Return the table of apps, a line for each window; then the windows of no app. `desk` None: no windows."""
    keys, rows = app_keys(config), []
    for name in config.apps:
        windows = config.claims.windows_of(name, desk) if desk else ()
        for i, window in enumerate(windows or (None,)):
            first = (name, ", ".join(keys.get(name, [])), str(len(windows)) if desk else "")
            head = first if i == 0 else ("", "", "")
            tail = command_told(config, name) if i == 0 else ""
            rows.append((*head, *_window_cells(window, desk, config), tail))
    strays = [w for w in desk.main_windows if config.claims.app_of(w, desk) is None] if desk else []
    for i, window in enumerate(strays):
        head = ("(no app)", "", str(len(strays))) if i == 0 else ("", "", "")
        rows.append((*head, *_window_cells(window, desk, config), ""))
    lines = [table_text(HEADS, rows, columns, ink)] if rows else ["there is no app in the config, and no window"]
    if strays:
        lines.append("\n`jaklet apps suggest` writes lines for the windows that no app claims")
    return "\n".join(lines)


def _window_cells(window: Window | None, desk: Desk | None, config: Config) -> tuple[str, str, str, str]:
    if window is None or desk is None:
        return "", "", "", ""
    state = ["focus"] if desk.active == window.id else []
    state += ["minimised"] if window.minimised else []
    dialogs = sum(other.id != window.id and desk.family(other).id == window.id for other in desk.windows)
    state += [f"{dialogs} dialog{'s' if dialogs > 1 else ''}"] if dialogs else []
    title = shortened(window.title, 32) or f"({window.cls or '?'})"
    workspace = "all" if window.workspace is None else str(config.workspace_written(window.workspace))
    return title, config.role_of(desk.display_of(window.frame)), workspace, ", ".join(state)


def apps_data(config: Config, desk: Desk | None) -> list[dict[str, Any]]:
    """Return apps as plain data; `windows` null where the desk could not be looked at."""
    keys = app_keys(config)
    return [
        {
            "app": name,
            "keys": keys.get(name, []),
            "command": list(app.command_line(config.settings.terminal)) if app.command else None,
            "rules": [dict(rule.parts) for rule in app.rules],
            "windows": [window.id for window in config.claims.windows_of(name, desk)] if desk else None,
        }
        for name, app in config.apps.items()
    ]


def window_facts(window: Window, desk: Desk) -> list[tuple[str, str]]:
    """Return the properties of a window that decide its app: those that rules name, and others."""
    parent = desk.by_id.get(window.parent) if window.parent is not None else None
    facts = [
        ("class", window.cls),
        ("instance", window.instance),
        ("role", window.role),
        ("title", shortened(window.title, 80)),
        ("process", window.process),
        ("kind", window.kind),
        ("launched for", window.launched_for.partition(" ")[0]),
        ("dialog of", shortened(parent.title or parent.cls, 60) if parent else ""),
    ]
    return [(name, value) for name, value in facts if value]


def explain_text(window: Window, desk: Desk, config: Config, ink: Ink = PLAIN) -> str:
    """Return which app has a window, and how each rule judges it."""
    owner, rivals = config.claims.app_of(window, desk), config.claims.rivals(window, desk)
    lines = [f"{ink(window_name(window, desk, config), 'strong')}, window 0x{window.id:x}"]
    lines += [f"  {name + ':':<13} {printable(value)}" for name, value in window_facts(window, desk)]
    lines += ["", _reason(window, desk, config, owner)]
    if rivals:
        alike = f"{listed(rivals)} claims it just as much; the app that stands first in the config has it"
        lines.append(ink(alike, "warning"))
    rows = [
        (
            verdict.app,
            str(verdict.rule),
            str(verdict.rule.score),
            "matches" if verdict.miss is None else f"{verdict.miss[0]} is {shortened(verdict.miss[2], 40)!r}",
        )
        for verdict in sorted(config.claims.verdicts(window), key=lambda verdict: verdict.miss is not None)
    ]
    if rows:
        lines += ["", table_text(("app", "rule", "score", "this window"), rows, None, ink)]
    return "\n".join(lines)


def _reason(window: Window, desk: Desk, config: Config, owner: str | None) -> str:
    if owner is None:
        return "no app claims it; `jaklet apps suggest` writes a line for it"
    if config.claims.tied(window) == owner:
        return f"{owner} has it: Jaklet launched it for {owner}, which counts for more than any rule"
    family = desk.family(window)
    dialogs = [v for v in config.claims.verdicts(window) if v.miss is None and ("kind", DIALOG) in v.rule.parts]
    if family is not window and owner not in [verdict.app for verdict in dialogs]:
        return f"{owner} has it: it is a dialog of {window_name(family, desk, config)}"
    won = next(v for v in config.claims.verdicts(window) if v.app == owner and v.miss is None)
    return f"{owner} has it: of the rules that match, {won.rule} says the most"


def explain_data(window: Window, desk: Desk, config: Config) -> dict[str, Any]:
    """Return the same as plain data."""
    return {
        "window": window.id,
        "app": config.claims.app_of(window, desk),
        "rivals": list(config.claims.rivals(window, desk)),
        "facts": dict(window_facts(window, desk)),
        "rules": [
            {
                "app": verdict.app,
                "rule": dict(verdict.rule.parts),
                "score": verdict.rule.score,
                "matches": verdict.miss is None,
                "miss": verdict.miss and dict(zip(("part", "wanted", "has"), verdict.miss, strict=True)),
            }
            for verdict in config.claims.verdicts(window)
        ],
    }
