"""Findings and their catalogue: every fault that a check can report, with a stable code.

JK1xx the files · JK2xx the keys · JK3xx sentences and what they name · JK4xx programs · JK5xx layouts ·
JK6xx macros and events
"""

from typing import Any, Final, NamedTuple

from jaklet.core.values.spans import Spot

ERROR: Final = "error"  # the files cannot be used
WARNING: Final = "warning"  # they can, but something in them will not do what it says
NOTE: Final = "note"  # they say what they mean; it may be worth a thought


class Kind(NamedTuple):
    """One entry of the catalogue. `cause` and `remedy` are templates, filled in by the rule."""

    severity: str
    title: str
    cause: str
    remedy: str = "{remedy}"


class Finding(NamedTuple):
    """One result of a check. `also` names other places that it is about, each with a word on it.

    `cures`: chords that are free, best first, any of which could stand at the spot instead.
    """

    code: str
    spot: Spot
    cause: str
    remedy: str
    also: tuple[tuple[Spot, str], ...] = ()
    cures: tuple[str, ...] = ()

    @property
    def severity(self) -> str:
        """`error`, `warning` or `note`."""
        return CATALOGUE[self.code].severity

    @property
    def order(self) -> tuple[str, int, int, str]:
        """Where it sorts: by file and position."""
        return self.spot.path, self.spot.line, self.spot.column, self.code


class Lack(NamedTuple):
    """Something that is missing here: what kind of thing, what of it, where it is named, and what to do."""

    kind: str
    what: str
    where: str
    remedy: str


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
    "JK110": Kind(ERROR, "part cannot be read", "{problem}"),
    "JK111": Kind(
        WARNING, "silence that silences nothing", "{silenced} is silenced, and there is none here", "take it out"
    ),
    "JK112": Kind(WARNING, "silence that does not hold", "{problem}"),
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
    "JK205": Kind(
        WARNING,
        "one key on this keyboard",
        "{chord} is the same key as {other} {keyboards}, and cannot be told from it",
        "give one of the two another chord",
    ),
    "JK206": Kind(
        WARNING, "not on this keyboard", "{chord} cannot be pressed {keyboards}: {problem}", "bind another chord"
    ),
    "JK207": Kind(NOTE, "hard to press", "{chord} is a contortion {keyboards}: {problem}", "bind an easier chord"),
    "JK208": Kind(
        WARNING,
        "typing key taken",
        "{chord} is needed for typing, and no program gets it any more",
        "add a modifier such as super, or bind it in a layer",
    ),
    "JK209": Kind(
        WARNING,
        "types a character",
        "{chord} types {character} {keyboards}, and no program gets that any more",
        "bind another chord",
    ),
    "JK210": Kind(
        ERROR,
        "replaces nothing",
        "{chord} is to stand instead of an earlier binding, and there is none",
        "take `instead: true` away, or mend the chord",
    ),
    "JK211": Kind(WARNING, "owned by the system", "{chord} is not free: {does}", "bind another chord"),
    "JK212": Kind(
        WARNING,
        "taken from programs",
        "{chord} is used by programs, and is lost: {does}",
        "bind another chord, or limit it: only in",
    ),
    "JK213": Kind(WARNING, "held by another program", "{chord} cannot be had now: {holder}", "bind another chord"),
    "JK214": Kind(
        WARNING, "a shortcut of the desktop", "{chord} is the desktop's: {does} ({setting})", "bind another chord"
    ),
    "JK215": Kind(
        WARNING,
        "presses itself",
        "{chord} presses {pressed}, which leads back to it, without end",
        "press another chord",
    ),
    "JK216": Kind(
        WARNING, "layer without a way in", "nothing leads into layer {layer}", "bind a chord to: enter {layer}"
    ),
    "JK217": Kind(
        WARNING, "layer without a way out", "layer {layer} cannot be left: {problem}", "bind a chord in it to: leave"
    ),
    "JK218": Kind(
        NOTE,
        "layer hides a chord",
        "while layer {layer} is on, {chord} is not: {action}",
        "bind another chord in the layer",
    ),
    "JK219": Kind(
        WARNING,
        "dangerous key beside a harmless one",
        "{chord} ({action}) is {near} {other} ({harmless})",
        "move one of the two",
    ),
    "JK220": Kind(
        NOTE,
        "saving key beside a harmless one",
        "{chord} ({action}) is {near} {other} ({harmless}): a slip saves over a layout",
        "none is needed, as former versions are kept",
    ),
    "JK221": Kind(
        NOTE, "family with a gap", "{there}, and there is no key to {missing}", "add one, if it was forgotten"
    ),
    "JK222": Kind(
        WARNING,
        "family that does one thing",
        "all {keys} do the same: {action}",
        "write {mark} in the action, too, or name one key",
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
    "JK308": Kind(NOTE, "nothing uses it", "nothing uses {kind} {name}", "take it out, or use it"),
    "JK309": Kind(
        WARNING,
        "workspace that is not there",
        "there is no workspace {number}: there are {count}",
        "have more, or write `missing workspaces: create` in the settings",
    ),
    "JK310": Kind(ERROR, "unknown layer", "no layer is called {name!r}"),
    "JK311": Kind(ERROR, "only a key can do it", "only a key can do {verb!r}, and this is typed", "bind it to a chord"),
    "JK312": Kind(ERROR, "not for a new window", "{problem}"),
    "JK313": Kind(ERROR, "macro is not told all", "{problem}"),
    "JK314": Kind(ERROR, "condition does not parse", "{problem}"),
    "JK315": Kind(ERROR, "event does not parse", "{problem}"),
    "JK316": Kind(WARNING, "display not connected", "display {role} ({name}) is not connected now", "{remedy}"),
    "JK401": Kind(WARNING, "program not installed", "{program!r} is not installed on this machine"),
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
    "JK406": Kind(WARNING, "program misspelt", "{program!r} is not found on PATH"),
    "JK407": Kind(
        WARNING,
        "no window is like this",
        "app {app} has no window by this rule ({rule}), and one is open that is called a little otherwise: {window}",
        "write: {cure}",
    ),
    "JK501": Kind(ERROR, "layout number used twice", "number {number} is {other}'s already", "give one another number"),
    "JK502": Kind(
        ERROR,
        "layout is not in its file",
        "this layout is called {name!r}, and its file {file!r}",
        "rename one of the two",
    ),
    "JK503": Kind(
        NOTE, "layout without a key", "no key or word recalls layout {name}", "bind a chord to: recall {name}"
    ),
    "JK504": Kind(ERROR, "nothing to build on", "{problem}"),
    "JK505": Kind(
        WARNING,
        "off its display",
        "no pointer reaches {app} there: it would be {frame} of display {display}",
        "write a place that is on it",
    ),
    "JK506": Kind(
        WARNING,
        "too small",
        "{app} would be {size} on {display}, and needs {least}",
        "give it more, or write another arrangement for these displays under `variants`",
    ),
    "JK507": Kind(
        NOTE, "wholly covered", "nothing is seen of {app}: {others} stands before it", "none is needed if that is meant"
    ),
    "JK508": Kind(
        WARNING, "focus may find nothing", "{app} is to have the focus, and {problem}", "name another window in `focus`"
    ),
    "JK509": Kind(
        WARNING,
        "cannot be told apart",
        "two windows of {app} are to stand differently, and nothing says which is which",
        "add `title: …` (a part of it between *), or `nth: 2` for the second that was opened",
    ),
    "JK510": Kind(
        WARNING,
        "next key is typed",
        "{app} takes typing and gets the focus, so that the next {chord} is text ({where})",
        "give another window the focus, or bind a chord with a modifier",
    ),
    "JK511": Kind(
        WARNING,
        "on no display of the layout",
        "this layout is for displays {known}, and {display} is none of them",
        "name one of these, or write a variant for displays with it",
    ),
    "JK512": Kind(
        WARNING, "wanted and not wanted", "{app} has a place, and is to be out of view", "take one of them away"
    ),
    "JK513": Kind(ERROR, "two layouts to return to", "{other} is marked `home` already", "keep one of the two marks"),
    "JK514": Kind(ERROR, "layout name used twice", "another layout is called {name} already", "rename one of the two"),
    "JK515": Kind(ERROR, "layout presses too much", "with {app}: {action} is not done, as {problem}"),
    "JK601": Kind(ERROR, "unknown macro", "no macro is called {name!r}"),
    "JK602": Kind(
        ERROR, "macros in a circle", "macro {name} leads back to itself: {circle}", "take one of the steps out"
    ),
    "JK603": Kind(
        WARNING, "never reached", "this can never be reached: {problem}", "take it out, or mend what stands before it"
    ),
    "JK604": Kind(
        WARNING,
        "wait without limit",
        "this waits for ever if {condition} never comes",
        "say how long: {action} up to 10s",
    ),
    "JK605": Kind(
        WARNING,
        "typing where the focus is not known",
        "{action} goes to whatever has the focus then: {problem}",
        "go to the app before it, or write: {cure}",
    ),
    "JK606": Kind(WARNING, "order in vain", "{problem}"),
    "JK607": Kind(NOTE, "macro that nothing runs", "nothing runs macro {name}", "bind a chord to: run {name}"),
    "JK608": Kind(
        WARNING, "events in a circle", "{event} leads back to itself: {circle}", "break the circle; Jaklet cuts it"
    ),
}


def finding(code: str, spot: Spot, also: tuple[tuple[Spot, str], ...] = (), **arguments: Any) -> Finding:
    """Return a finding of this kind, its templates filled in."""
    kind = CATALOGUE[code]
    return Finding(code, spot, kind.cause.format(**arguments), kind.remedy.format(**arguments), also)
