"""Findings and their catalogue: every fault that a check can report, with a stable code.

JK1xx the files · JK2xx the keys · JK3xx sentences and what they name · JK4xx programs · JK5xx layouts
"""

from typing import Any, Final, NamedTuple

from jaklet.core.spans import Spot

ERROR: Final = "error"  # the files cannot be used
WARNING: Final = "warning"  # they can, but something in them will not do what it says


class Kind(NamedTuple):
    """One entry of the catalogue. `cause` and `remedy` are templates, filled in by the rule."""

    severity: str
    title: str
    cause: str
    remedy: str = "{remedy}"


class Finding(NamedTuple):
    """One result of a check. `also` names other places that it is about, each with a word on it."""

    code: str
    spot: Spot
    cause: str
    remedy: str
    also: tuple[tuple[Spot, str], ...] = ()

    @property
    def severity(self) -> str:
        """`error` or `warning`."""
        return CATALOGUE[self.code].severity

    @property
    def order(self) -> tuple[str, int, int, str]:
        """Where it sorts: by file and position."""
        return self.spot.path, self.spot.line, self.spot.column, self.code


CATALOGUE: Final[dict[str, Kind]] = {
    "JK101": Kind(ERROR, "not YAML", "this does not parse as YAML: {problem}"),
    "JK102": Kind(ERROR, "file cannot be read", "{problem}"),
    "JK103": Kind(ERROR, "unknown section", "there is no section called {name!r}"),
    "JK104": Kind(ERROR, "unknown key", "{inside} has no key called {name!r}"),
    "JK105": Kind(ERROR, "wrong type", "{what} should be {wanted}, and this is {found}"),
    "JK106": Kind(ERROR, "something is missing", "{what} has no {key}"),
    "JK107": Kind(ERROR, "written twice", "{name!r} is written twice in {inside}", "keep one of the two"),
    "JK108": Kind(ERROR, "not a possible value", "{problem}"),
    "JK109": Kind(ERROR, "others can write it", "other users can write this file: {problem}", "run: {remedy}"),
    "JK201": Kind(ERROR, "chord does not parse", "{problem}"),
    "JK202": Kind(ERROR, "unknown key name", "{problem}"),
    "JK203": Kind(
        ERROR, "chord bound twice", "{chord} is bound already, to: {action}", "give one of the two another chord"
    ),
    "JK204": Kind(
        ERROR,
        "chord begins a sequence",
        "{sequence} can never be pressed: {start} is bound by itself, to: {action}",
        "give one of the two another chord",
    ),
    "JK301": Kind(ERROR, "action does not parse", "{problem}"),
    "JK302": Kind(ERROR, "unknown app", "no app is called {name!r}"),
    "JK303": Kind(ERROR, "unknown place", "{problem}"),
    "JK304": Kind(ERROR, "unknown display", "no display is called {name!r}"),
    "JK305": Kind(WARNING, "unknown layout", "{problem}"),
    "JK306": Kind(
        ERROR,
        "can lose work",
        "{action} ends a program and what is not saved in it",
        "write {{do: {action}, sure: true}} if that is meant",
    ),
    "JK307": Kind(
        WARNING,
        "word cannot be typed",
        "{word!r} can never be typed: {shorter!r} is done as soon as it stands there",
        "choose words of which none begins another, or write `words: with enter` in the settings",
    ),
    "JK401": Kind(WARNING, "program not found", "{program!r} is not found on PATH"),
    "JK402": Kind(
        ERROR,
        "two apps claim the same windows",
        "{app} claims the same windows as {other} ({rule})",
        "tell them apart by class, instance, role, title or process under `window:`",
    ),
    "JK403": Kind(WARNING, "no such desktop entry", "no desktop entry is called {name!r}"),
    "JK404": Kind(WARNING, "desktop entry cannot be launched", "desktop entry {name} cannot be launched: {problem}"),
    "JK405": Kind(
        WARNING,
        "two apps may claim the same window",
        "a window can match {app} ({rule}) and {other} ({its}) just as well",
        "make one of the two rules say more; else {first} has it, as it stands first",
    ),
    "JK501": Kind(ERROR, "layout number used twice", "number {number} is {other}'s already", "give one another number"),
    "JK502": Kind(
        ERROR,
        "layout is not in its file",
        "this layout is called {name!r}, and its file {file!r}",
        "rename one of the two",
    ),
}


def finding(code: str, spot: Spot, also: tuple[tuple[Spot, str], ...] = (), **arguments: Any) -> Finding:
    """Return a finding of this kind, its templates filled in."""
    kind = CATALOGUE[code]
    return Finding(code, spot, kind.cause.format(**arguments), kind.remedy.format(**arguments), also)
