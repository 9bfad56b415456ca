"""Findings and their catalogue: every fault that a check can report, with a stable code.

JK1xx the files · JK2xx the keys · JK3xx sentences and what they name · JK4xx programs · JK5xx layouts ·
JK6xx macros and events
"""

from typing import Any, Final, NamedTuple

from jaklet.core.values.spans import Spot

ERROR: Final = "error"  # the files cannot be used
WARNING: Final = "warning"  # they can, but something in them will not do what it says
NOTE: Final = "note"  # they say what they mean; it may be worth a thought


class FindingKind(NamedTuple):
    """One entry of the catalogue. `cause` and `remedy` are templates, filled in by the rule."""

    severity: str
    title: str
    cause: str
    remedy: str = "{remedy}"
    of_absence: bool = (
        False  # it says that something is not there, which nobody knows of a file that was not read whole
    )


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


class MissingRequirement(NamedTuple):
    """Something that is missing here: what kind of thing, what of it, where it is named, and what to do."""

    kind: str
    what: str
    where: str
    remedy: str


CATALOGUE: Final[dict[str, FindingKind]] = {
    "JK101": FindingKind(ERROR, "not YAML", "this does not parse as YAML: {problem}"),
    "JK102": FindingKind(ERROR, "file cannot be read", "{problem}"),
    "JK103": FindingKind(ERROR, "unknown section", "there is no section called {name!r}"),
    "JK104": FindingKind(ERROR, "unknown key", "{inside} has no key called {name!r}"),
    "JK105": FindingKind(ERROR, "wrong type", "{what} should be {wanted}, and this is {found}"),
    "JK106": FindingKind(ERROR, "something is missing", "{what} has no {key}"),
    "JK107": FindingKind(ERROR, "written twice", "{name!r} is written twice in {inside}", "keep one of the two"),
    "JK108": FindingKind(ERROR, "not a possible value", "{problem}"),
    "JK109": FindingKind(ERROR, "others can write it", "other users can write {what}: {problem}", "run: {remedy}"),
    "JK110": FindingKind(ERROR, "part cannot be read", "{problem}"),
    "JK111": FindingKind(
        WARNING,
        "silence that silences nothing",
        "{silenced} is silenced, and there is none here",
        "take it out",
        of_absence=True,
    ),
    "JK112": FindingKind(WARNING, "silence that does not hold", "{problem}"),
    "JK201": FindingKind(ERROR, "chord does not parse", "{problem}"),
    "JK202": FindingKind(ERROR, "unknown key name", "{problem}"),
    "JK203": FindingKind(
        ERROR, "chord bound twice", "{chord} is bound already, to: {action}", "give one of the two another chord"
    ),
    "JK204": FindingKind(
        ERROR,
        "chord begins a sequence",
        "{sequence} can never be pressed: {start} is bound by itself, to: {action}",
        "give one of the two another chord",
    ),
    "JK205": FindingKind(
        WARNING,
        "one key on this keyboard",
        "{chord} is the same key as {other} {keyboards}, and cannot be told from it",
        "give one of the two another chord",
    ),
    "JK206": FindingKind(
        WARNING, "not on this keyboard", "{chord} cannot be pressed {keyboards}: {problem}", "bind another chord"
    ),
    "JK207": FindingKind(
        NOTE, "hard to press", "{chord} is a contortion {keyboards}: {problem}", "bind an easier chord"
    ),
    "JK208": FindingKind(
        WARNING,
        "typing key taken",
        "{chord} is needed for typing, and no program gets it any more",
        "add a modifier such as super, or bind it in a layer",
    ),
    "JK209": FindingKind(
        WARNING,
        "types a character",
        "{chord} types {character} {keyboards}, and no program gets that any more",
        "bind another chord",
    ),
    "JK210": FindingKind(
        ERROR,
        "replaces nothing",
        "{chord} is to stand instead of an earlier binding, and there is none",
        "take `instead: true` away, or mend the chord",
        of_absence=True,
    ),
    "JK211": FindingKind(WARNING, "owned by the system", "{chord} is not free: {does}", "bind another chord"),
    "JK212": FindingKind(
        WARNING,
        "taken from programs",
        "{chord} is used by programs, and is lost: {does}",
        "bind another chord, or limit it: only in",
    ),
    "JK213": FindingKind(
        WARNING, "held by another program", "{chord} cannot be had now: {holder}", "bind another chord"
    ),
    "JK214": FindingKind(
        WARNING, "a shortcut of the desktop", "{chord} is the desktop's: {does} ({setting})", "bind another chord"
    ),
    "JK215": FindingKind(
        WARNING,
        "presses itself",
        "{chord} presses {pressed}, which leads back to it, without end",
        "press another chord",
    ),
    "JK216": FindingKind(
        WARNING,
        "layer without a way in",
        "nothing leads into layer {layer}",
        "bind a chord to: enter {layer}",
        of_absence=True,
    ),
    "JK217": FindingKind(
        WARNING, "layer without a way out", "layer {layer} cannot be left: {problem}", "bind a chord in it to: leave"
    ),
    "JK218": FindingKind(
        NOTE,
        "layer hides a chord",
        "while layer {layer} is on, {chord} is not: {action}",
        "bind another chord in the layer",
    ),
    "JK219": FindingKind(
        WARNING,
        "dangerous key beside a harmless one",
        "{chord} ({action}) is {near} {other} ({harmless})",
        "move one of the two",
    ),
    "JK220": FindingKind(
        NOTE,
        "saving key beside a harmless one",
        "{chord} ({action}) is {near} {other} ({harmless}): a slip saves over a layout",
        "none is needed, as former versions are kept",
    ),
    "JK221": FindingKind(
        NOTE, "family with a gap", "{there}, and there is no key to {missing}", "add one, if it was forgotten"
    ),
    "JK222": FindingKind(
        WARNING,
        "family that does one thing",
        "all {keys} do the same: {action}",
        "write {mark} in the action, too, or name one key",
    ),
    "JK223": FindingKind(WARNING, "modifier that is not heard", "{number} cannot work: {reason}"),
    "JK224": FindingKind(
        WARNING, "nothing to let go of", "{action} ends when the modifiers of its key are let go of, and {problem}"
    ),
    "JK301": FindingKind(ERROR, "action does not parse", "{problem}"),
    "JK302": FindingKind(ERROR, "unknown app", "no app is called {name!r}"),
    "JK303": FindingKind(ERROR, "unknown place", "{problem}"),
    "JK304": FindingKind(ERROR, "unknown display", "no display is called {name!r}"),
    "JK305": FindingKind(WARNING, "unknown layout", "{problem}"),
    "JK306": FindingKind(
        ERROR,
        "can lose work",
        "{action} ends a program and what is not saved in it",
        "write {{do: {action}, sure: true}} if that is meant",
    ),
    "JK307": FindingKind(
        WARNING,
        "word cannot be typed",
        "{word!r} can never be typed: {shorter!r} is done as soon as it stands there",
        "choose words of which none begins another, or write `words: with enter` in the settings",
    ),
    "JK308": FindingKind(
        NOTE, "nothing uses it", "nothing uses {kind} {name}", "take it out, or use it", of_absence=True
    ),
    "JK309": FindingKind(
        WARNING,
        "workspace that is not there",
        "there is no workspace {number}: there are {count}",
        "have more, or write `missing workspaces: create` in the settings",
    ),
    "JK310": FindingKind(ERROR, "unknown layer", "no layer is called {name!r}"),
    "JK311": FindingKind(
        ERROR, "only a key can do it", "only a key can do {verb!r}, and this is typed", "bind it to a chord"
    ),
    "JK312": FindingKind(ERROR, "not for a new window", "{problem}"),
    "JK313": FindingKind(ERROR, "macro is not told all", "{problem}"),
    "JK314": FindingKind(ERROR, "condition does not parse", "{problem}"),
    "JK315": FindingKind(ERROR, "event does not parse", "{problem}"),
    "JK316": FindingKind(WARNING, "display not connected", "display {role} ({name}) is not connected now", "{remedy}"),
    "JK317": FindingKind(
        NOTE,
        "edge that is free anyway",
        "the desktop keeps {has} free at the {side} of {role} by itself, and {wished} are asked for",
        "take `reserve` out, or ask for more",
    ),
    "JK318": FindingKind(ERROR, "unknown workspace", "no workspace is called {name!r}"),
    "JK319": FindingKind(ERROR, "form does not parse", "{problem}"),
    "JK320": FindingKind(NOTE, "placed where windows stay arranged", "{problem}"),
    "JK401": FindingKind(WARNING, "program not installed", "{program!r} is not installed on this machine"),
    "JK402": FindingKind(
        ERROR,
        "two apps claim the same windows",
        "{app} claims the same windows as {other} ({rule})",
        "tell them apart by class, instance, role, title or process under `window:`",
    ),
    "JK403": FindingKind(WARNING, "no such desktop entry", "no desktop entry is called {name!r}"),
    "JK404": FindingKind(
        WARNING, "desktop entry cannot be launched", "desktop entry {name} cannot be launched: {problem}"
    ),
    "JK405": FindingKind(
        WARNING,
        "two apps may claim the same window",
        "a window can match {app} ({rule}) and {other} ({its}) just as well",
        "make one of the two rules say more; else {first} has it, as it stands first",
    ),
    "JK406": FindingKind(WARNING, "program misspelt", "{program!r} is not found on PATH"),
    "JK407": FindingKind(
        WARNING,
        "no window is like this",
        "app {app} has no window by this rule ({rule}), and one is open that is called a little otherwise: {window}",
        "write: {cure}",
    ),
    "JK501": FindingKind(
        ERROR, "layout number used twice", "number {number} belongs to {other} already", "give one another number"
    ),
    "JK502": FindingKind(
        ERROR,
        "layout is not in its file",
        "this layout is called {name!r}, and its file {file!r}",
        "rename one of the two",
    ),
    "JK503": FindingKind(
        NOTE,
        "layout without a key",
        "no key or word recalls layout {name}",
        "bind a chord to: recall {name}",
        of_absence=True,
    ),
    "JK504": FindingKind(ERROR, "nothing to build on", "{problem}"),
    "JK505": FindingKind(
        WARNING,
        "off its display",
        "no pointer reaches {app} there: it would be {frame} of display {display}",
        "write a place that is on it",
    ),
    "JK506": FindingKind(
        WARNING,
        "too small",
        "{app} would be {size} on {display}, and needs {least}",
        "give it more, or write another arrangement for these displays under `variants`",
    ),
    "JK507": FindingKind(
        NOTE, "wholly covered", "nothing is seen of {app}: {others} stands before it", "none is needed if that is meant"
    ),
    "JK508": FindingKind(
        WARNING, "focus may find nothing", "{app} is to have the focus, and {problem}", "name another window in `focus`"
    ),
    "JK509": FindingKind(
        WARNING,
        "cannot be told apart",
        "two windows of {app} are to stand differently, and nothing says which is which",
        "add `title: …` (a part of it between *), or `nth: 2` for the second that was opened",
    ),
    "JK510": FindingKind(
        WARNING,
        "next key is typed",
        "{app} takes typing and gets the focus, so that the next {chord} is text ({where})",
        "give another window the focus, or bind a chord with a modifier",
    ),
    "JK511": FindingKind(
        WARNING,
        "on no display of the layout",
        "this layout is for displays {known}, and {display} is none of them",
        "name one of these, or write a variant for displays with it",
    ),
    "JK512": FindingKind(
        WARNING, "wanted and not wanted", "{app} has a place, and is to be out of view", "take one of them away"
    ),
    "JK513": FindingKind(
        ERROR, "two layouts to return to", "{other} is marked `home` already", "keep one of the two marks"
    ),
    "JK514": FindingKind(
        ERROR, "layout name used twice", "another layout is called {name} already", "rename one of the two"
    ),
    "JK515": FindingKind(ERROR, "layout presses too much", "with {app}: {action} is not done, as {problem}"),
    "JK601": FindingKind(ERROR, "unknown macro", "no macro is called {name!r}"),
    "JK602": FindingKind(
        ERROR, "macros in a circle", "macro {name} leads back to itself: {circle}", "take one of the steps out"
    ),
    "JK603": FindingKind(
        WARNING, "never reached", "this can never be reached: {problem}", "take it out, or mend what stands before it"
    ),
    "JK604": FindingKind(
        WARNING,
        "wait without limit",
        "this waits for ever if {condition} never comes",
        "say how long: {action} up to 10s",
    ),
    "JK605": FindingKind(
        WARNING,
        "typing where the focus is not known",
        "{action} goes to whatever has the focus then: {problem}",
        "go to the app before it, or write: {cure}",
    ),
    "JK606": FindingKind(WARNING, "order in vain", "{problem}"),
    "JK607": FindingKind(
        NOTE, "macro that nothing runs", "nothing runs macro {name}", "bind a chord to: run {name}", of_absence=True
    ),
    "JK608": FindingKind(
        WARNING, "events in a circle", "{event} leads back to itself: {circle}", "break the circle; Jaklet cuts it"
    ),
    "JK701": FindingKind(
        WARNING,
        "beyond this desk",
        "{lacking}, and {for_what} would need that: {result}",
        "do it otherwise, or keep it in a part that is for other hosts: include: [{{file: NAME.yaml, host: HOST}}]",
    ),
}


def finding(code: str, spot: Spot, also: tuple[tuple[Spot, str], ...] = (), **arguments: Any) -> Finding:
    """Return a finding of this kind, its templates filled in."""
    kind = CATALOGUE[code]
    return Finding(code, spot, kind.cause.format(**arguments), kind.remedy.format(**arguments), also)
