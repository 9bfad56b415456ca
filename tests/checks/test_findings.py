"""Every finding of the catalogue has a file that fires it, at the right place, and one that keeps it silent."""

import tempfile
from pathlib import Path
from typing import NamedTuple

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools import make_owners
from tools.make_findings import page

from jaklet.checks.explaining import explanations
from jaklet.checks.run import check_config, shelf_of
from jaklet.config.paths import locate_config
from jaklet.core.language.first_config import ROLES, RoleProgram, config_text, wanted_chords
from jaklet.core.values.chords import Chord
from jaklet.core.values.desktop_entries import parse_entry
from jaklet.core.values.errors import StoreError
from jaklet.core.values.findings import CATALOGUE, ERROR, NOTE
from jaklet.drawing.findings import findings_data, findings_text
from jaklet.installed.programs import InstalledPrograms


class Case(NamedTuple):
    """A config; where each of its findings stands (line:column), and a word of cause or remedy."""

    text: str
    found: tuple[tuple[str, str, str], ...] = ()
    layouts: tuple[tuple[str, str], ...] = ()


ENTRIES = {
    name: parse_entry(name, f"[Desktop Entry]\nType=Application\nName={name}\n{text}")
    for name, text in {
        "ledger": "Exec=sh\nActions=dues;\n[Desktop Action dues]\nExec=sh -c dues",
        "hidden": "Exec=sh\nHidden=true",
        "bus": "DBusActivatable=true",
        "gone": "Exec=gone",
        "odd": "Exec=%U",
        "tried": "Exec=sh\nTryExec=tried",
        "log": "Exec=sh\nTerminal=true\nStartupWMClass=Log",
    }.items()
}
APPS = "apps:\n  berths: {launch: sh, window: {class: BerthBoard}}\n"
CASES = {
    "fine": Case(
        "settings: {gap: 8, wait: 500ms}\ndisplays:\n  main: {name: DP-1}\n" + APPS + "  radio: {launch: [sh, -c, ':']}\n"
        "places:\n  reading: centre 50% x 90% on main\n"
        "bindings:\n  super+b: go berths\n  super+shift+b: {do: place berths reading on main, note: yes}\n"
        "  super+1: recall departures\n  super+2: recall 2\n  super+shift+2: save 2\n  super+3: recall 1\n",
        layouts=(("departures", "layout: departures\nnumber: 1\nwindows:\n- {app: berths, place: reading}\n"),),
    ),
    "placed where windows stay arranged": Case(
        "workspaces: {1: {name: desk, arranged: columns}}\n"
        "apps:\n  berths: {launch: sh, opens: place left 1/2}\n  radio: {launch: sh, window: {class: R}, arranged: no}\n"
        "bindings: {super+b: go berths, super+r: go radio, super+1: recall 1}\n",
        (("JK320", "3:3", "never takes part"), ("JK320", "day.yaml:4:3", "places a window on workspace desk")),
        (("day", "layout: day\nnumber: 1\nwindows:\n- {app: berths, place: full}\n- {app: radio, place: full}\n"),),
    ),
    "fine: places, gaps, new windows": Case(
        "settings: {gap: 1%, rim: 4px, no gap when alone: true, workspaces: 4, missing workspaces: refuse}\n"
        "displays:\n  main: {name: DP-1, gap: 12, rim: 0}\n"
        "apps:\n  berths: {launch: sh, opens: [place wide, keep above on]}\n"
        "places:\n  wide: {place: 'left 3/4, cells A1:B2 of 6x4 on main', note: the board, displays: {main: full}}\n"
        "bindings:\n  super+b: go berths\n  super+w: workspace 4\n  super+d: place berths same place on main\n"
        "  super+x: send berths to display main\n",
    ),
    "faults of places, gaps, new windows": Case(
        "settings: {gap: 50%, rim: -1, missing workspaces: make}\n"
        "apps:\n  berths: {launch: sh, opens: [go berths, place berths full, plce full, gather]}\n"
        "places:\n  a: {place: full on pier, displays: {wharf: left, b: 'left, right'}}\n  c: same place on pier\n  d: {note: x}\n"
        "bindings:\n  super+a: place left 1/2 on pier, a\n  super+c: place c\n  super+d: place d, left\n"
        "  super+w: workspace 99\n  super+x: send to display pier\n  super+p: pair left 1/1\n  super+b: go berths\n",
        (
            ("JK108", "1:17", "more than 20%"),
            ("JK105", "1:27", "a width from 0"),
            ("JK105", "1:51", "create or refuse"),
            ("JK312", "3:32", "go cannot be done with a new window"),
            ("JK312", "3:43", "another app's"),
            ("JK301", "3:62", "did you mean place"),
            ("JK312", "3:73", "gather cannot be done"),
            ("JK304", "5:22", "pier"),
            ("JK304", "5:39", "wharf"),
            ("JK304", "5:52", "no display is called 'b'"),
            ("JK303", "5:56", "one place, and no other display"),
            ("JK303", "6:6", "another one for each window"),
            ("JK106", "7:6", "place"),
            ("JK304", "9:30", "pier"),
            ("JK301", "12:22", "count from 1"),
            ("JK304", "13:28", "pier"),
            ("JK301", "14:22", "nothing would be left"),
        ),
    ),
    "a layout needs one place": Case(
        APPS + "bindings: {super+b: go berths, super+1: recall bay}\n",
        (("JK303", "bay.yaml:3:25", "one place for each window"),),
        layouts=(("bay", "layout: bay\nwindows:\n- {app: berths, place: 'left 1/2, left 1/3'}\n"),),
    ),
    "a walk with nothing to let go of": Case(
        "bindings:\n  f9: pick windows while held\n  alt+f9: {do: pick windows while held, on release: true}\n"
        "  super+tab: pick windows while held\n",
        (("JK224", "2:3", "f9 has none"), ("JK224", "3:3", "it begins when that is let go of")),
    ),
    "empty": Case(""),
    "not YAML": Case(
        "settings: {gap: x\nbindings:\n  super+b: go birth\n\tsuper+c: close\n",
        (("JK101", "1:18", "`,` or `}`"), ("JK101", "4:1", "a tab stands where YAML wants spaces")),
    ),
    "YAML that goes on": Case(
        'apps:\n  berths: {launch: "sh}\nbindings:\n  super+b: go birth\n', (("JK101", "2:24", "close the quotes"),)
    ),
    "one section broken, others still checked": Case(
        "bindings:\n  super+b: go birth\napps:\n  berths: [sh\nplaces:\n  a: lft 1/2\n",
        (("JK101", "4:14", "close the bracket with ]"), ("JK303", "6:6", "did you mean left")),
    ),
    "unknown section": Case("binding:\n  super+b: close\n", (("JK103", "1:1", "did you mean bindings"),)),
    "unknown key": Case("settings:\n  gapp: 8\n", (("JK104", "2:3", "did you mean gap"),)),
    "wrong types": Case(
        "settings: {gap: eight, wait: 5}\nbindings: [a]\nplaces:\n  a: {b: c}\napps: none\n",
        (
            ("JK105", "1:17", "a width from 0"),
            ("JK105", "1:30", "a time such as 10s"),
            ("JK105", "2:11", "a mapping"),
            ("JK104", "4:7", "place, note or displays"),
            ("JK105", "5:7", "a mapping"),
        ),
    ),
    "something missing": Case(
        "apps:\n  berths: {}\n  radio: {window: {}}\nbindings:\n  super+b: {note: x}\ndisplays:\n  main: {}\n",
        (
            ("JK106", "2:3", "launch"),
            ("JK106", "3:19", "role or title"),
            ("JK106", "5:3", "no do"),
            ("JK106", "7:3", "no name"),
        ),
    ),
    "keys written twice": Case(
        "settings:\n  gap: 1\n  gap: 2\nsettings:\n  gap: 3\n",
        (("JK107", "3:3", "'gap' is written twice"), ("JK107", "4:1", "'settings' is written twice")),
    ),
    "impossible values": Case(
        "settings: {gap: 99999}\napps:\n  last: {launch: sh}\n  two words: {launch: sh}\n  x: {launch: \"sh 'a\"}\n",
        (
            ("JK108", "1:17", "more than 32767"),
            ("JK108", "3:3", "sentences need that word"),
            ("JK108", "4:3", "one word"),
            ("JK108", "5:16", "quote in this command"),
        ),
    ),
    "chords that do not parse": Case(
        "bindings:\n  hyper+l: close\n  super+pgup: close\n  'super+': close\n",
        (("JK201", "2:3", "'hyper' is no modifier"), ("JK202", "3:9", "pageup"), ("JK201", "4:10", "key is missing")),
    ),
    "one chord, three spellings": Case(
        "bindings:\n  super+shift+Prior: close\n  Shift+Super+PageUp: go birth\n  super+shift+page_up: clse\n",
        (
            ("JK203", "3:3", "is bound already, to: close"),
            ("JK302", "3:26", "birth"),
            ("JK203", "4:3", "super+shift+pageup"),
            ("JK301", "4:24", "did you mean close"),
        ),
    ),
    "actions that do not parse": Case(
        'bindings:\n  super+a: place left 3/2\n  super+b: "go"\n  super+c: {do: plce left}\n',
        (("JK301", "2:23", "3/2"), ("JK301", "3:15", "which app"), ("JK301", "4:17", "did you mean place")),
    ),
    "names that nothing has": Case(
        APPS + "displays:\n  main: {name: DP-1}\nplaces:\n  reading: full on mian\nbindings:\n"
        "  super+a: place birth redding on min\n  super+b: recall depatures\n  super+c: recall 7\n",
        (
            ("JK304", "6:20", "did you mean main"),
            ("JK302", "8:18", "did you mean berths"),
            ("JK303", "8:24", "did you mean reading"),
            ("JK304", "8:35", "did you mean main"),
            ("JK305", "9:19", "did you mean departures"),
            ("JK305", "10:19", "--number 7"),
        ),
        (("departures", "layout: departures\nwindows: []\n"),),
    ),
    "a place that is another's name": Case("places:\n  a: full\n  b: a\n", (("JK303", "3:6", "cannot be defined by another"),)),
    "program not found": Case(
        "settings: {terminal: termnl -e}\napps:\n  berths: {launch: mkdirr --live}\n",
        (("JK401", "1:22", "termnl"), ("JK406", "3:20", "did you mean mkdir")),
    ),
    "two apps, the same windows": Case(
        APPS + "  boats: {launch: sh, window: {class: BerthBoard}}\n  tall: {window: {class: BerthBoard, title: Tall}}\n"
        "  logs: {launch: sh -c a}\n  notes: {launch: sh -c b}\n",
        (("JK402", "3:3", "boats claims the same windows as berths"), ("JK405", "6:3", "instance: sh")),
    ),
    "fine programs": Case(
        "settings: {terminal: [sh, -c], words: at once}\napps:\n  ledger: {entry: ledger, in: ~/books, env: {LANG: C}}\n"
        "  dues: {entry: 'ledger#dues', window: {title: Dues*}, closing: minimise}\n  log: {entry: log, from afar: bring here}\n"
        "  radio: {launch: sh, window: [{class: Radio*}, {kind: dialog, process: radio}]}\n"
        "bindings:\n  super+a: go ledger backwards or go log or focus last\n  super+b: {do: kill, sure: true}\n"
        "words:\n  le: go ledger\n  out: {do: close all of log, note: Out}\n",
    ),
    "desktop entries": Case(
        "apps:\n  a: {entry: ledgr}\n  b: {entry: hidden}\n  c: {entry: bus}\n  d: {entry: gone}\n  e: {entry: 'ledger#due'}\n"
        "  f: {entry: odd}\n  g: {entry: ledger, launch: sh}\n  h: {entry: tried}\n",
        (
            ("JK403", "2:14", "did you mean ledger"),
            ("JK404", "3:14", "marked Hidden"),
            ("JK404", "4:14", "over D-Bus only"),
            ("JK404", "5:14", "its program 'gone' is not installed"),
            ("JK404", "6:15", "it has no action 'due'; it has dues"),
            ("JK404", "7:14", "Exec line is empty"),
            ("JK108", "8:14", "both `launch` and `entry`"),
            ("JK404", "9:14", "its program 'tried' is not installed"),
        ),
    ),
    "rules of windows": Case(
        "apps:\n  a: {launch: sh, window: {kind: dialogue}}\n  b: {launch: sh, window: [{}, {class: X}]}\n"
        f"  c: {{launch: sh, window: {{title: {'x' * 300}}}}}\n  d: {{launch: sh, from afar: come, closing: maybe, env: [A]}}\n",
        (
            ("JK105", "2:34", "did you mean dialog"),
            ("JK106", "3:28", "kind, process, class, instance, role or title"),
            ("JK108", "4:35", "longer than 200"),
            ("JK105", "5:30", "go there or bring here"),
            ("JK105", "5:45", "close or minimise"),
            ("JK105", "5:57", "a mapping"),
        ),
    ),
    "two apps that may claim the same window": Case(
        "apps:\n  a: {launch: sh, window: {class: Log, title: Radio*}}\n  b: {launch: sh, window: {class: Log, title: '*of today'}}\n"
        "  c: {launch: sh, window: {class: Log, title: Tide*}}\n  d: {launch: sh, window: {class: Lug, title: Radio*}}\n",
        (("JK405", "3:3", "a has it, as it stands first"), ("JK405", "4:3", "c (class: Log, title: Tide*) and b")),
    ),
    "names that look like numbers": Case(
        f"bindings:\n  super+a: save ²\n  super+s: recall ²\n  super+d: save 007\n  super+f: recall {'9' * 5000}\n",
        (
            ("JK301", "2:17", "a number alone is not a name"), ("JK301", "3:19", "a number alone is not a name"),
            ("JK301", "5:19", "longer than 60 characters"),
        ),
    ),
    "what can lose work": Case(
        APPS + "bindings:\n  super+k: kill\n  super+j: {do: go berths or kill berths, sure: false}\nwords:\n  x: kill berths\n",
        (("JK306", "4:12", "{do: kill, sure: true}"), ("JK306", "5:17", "or kill"), ("JK306", "7:6", "kill berths")),
    ),
    "short words": Case(
        "settings: {words: at once}\nwords:\n  b: close\n  bd: maximise\n  B: close\n  go: close\n  left: close\n  c: clse\n",
        (
            ("JK307", "4:3", "'b' is done as soon as it stands there"),
            ("JK107", "5:3", "'B' is written twice"),
            ("JK108", "6:3", "what an action begins with"),
            ("JK108", "7:3", "sentences need that word"),
            ("JK301", "8:6", "did you mean close"),
        ),
    ),
    "words begin each other where Enter does them": Case("words:\n  b: close\n  bd: maximise\n"),
    "fine families": Case(
        APPS + "bindings:\n  layouts:\n    super+<n>: recall <n>\n    super+f5: close\n  places:\n    ctrl+alt+<side>: place berths <side> 1/2\n"
        "  super+x: {do: close, off: true}\n  super+X: minimise\n",
        layouts=(("departures", "layout: departures\nnumber: 4\nwindows: []\n"),),
    ),
    "families at fault": Case(
        APPS + "bindings:\n  super+<n>: recall <n>\n  super+a: recall <n>\n  alt+<n>+<side>: close\n  super+ctrl+<side>: plce <side>\n"
        "  super+<side>: go birth\n  super+4: close\n",
        (
            ("JK305", "4:21", "no layout has number 1"),
            ("JK301", "5:3", "write it in both, as in super+<n>; it stands for 1, 2"),
            ("JK301", "6:3", "a family has one of them"),
            ("JK301", "7:22", "did you mean place"),
            ("JK222", "8:3", "all 4 keys of super+<side> do the same: go birth"),
            ("JK302", "8:20", "did you mean berths"),
            ("JK203", "9:3", "is bound already, to: recall 4"),
        ),
    ),
    "rows of keys": Case(
        "settings: {workspaces: 9}\nbindings:\n  super+1: workspace 1\n  super+2: workspace 2\n  super+4: workspace 4\n"
        "  alt+1: send to workspace 1\n  alt+2: send to workspace 2\n  alt+3: send to workspace 3\n"
        "  alt+4: send to workspace 4\n  alt+5: send to workspace 5\n"
        "  ctrl+alt+left: focus left\n  ctrl+alt+up: focus up\n  ctrl+alt+down: focus down\n",
        (
            ("JK221", "5:3", "keys workspace 1, 2 and 4, and there is no key to workspace 3 or 5"),
            ("JK221", "13:3", "keys focus left, up and down, and there is no key to focus right"),
        ),
    ),
    "sequences": Case(
        "settings: {sequence: 1s}\nbindings:\n  super+w h: close\n  super+w: minimise\n  Super+W  H: maximise\n  super+v <n>: recall <n>\n"
        "  super+v x y: close\n  super+v x: {do: close, off: true}\n  super+u hyper+x: close\n  super+<n> a: save <n>\n",
        (
            ("JK204", "3:3", "super+w h can never be pressed: super+w is bound by itself, to: minimise"),
            ("JK203", "5:3", "super+w h is bound already"),
            ("JK204", "5:3", "super+w is bound by itself"),
            ("JK201", "9:11", "'hyper' is no modifier"),
        ),
    ),
    "layers and scopes at fault": Case(
        APPS + "bindings:\n  super+w: enter arange\n  super+q: leave now\n  super+a: {do: go berths, only in: [berth]}\n"
        "  super+x: {do: close, only in: }\n  super+z:\n  - {do: go berths, only in: berths}\n  - close\n  - [close]\n"
        "  super+s: go berths or enter arrange\n  super+t: {do: close, only in: berths, not in: berths}\n"
        "  super+u: {do: close, repeat: true, on release: true}\n  super+v: press hyper+x\n  super+b: {do: close, instead: true}\n"
        "layers:\n  arrange: {stay: true, ends after: 5, other keys: pass, bindings: {q: leave}}\n  empty: {}\n"
        "reserved:\n  berth: {super+c: x}\n  box: {where: nowhere}\n",
        (
            ("JK310", "4:18", "did you mean arrange"),
            ("JK301", "5:18", "too much for leave"),
            ("JK302", "6:38", "did you mean berths"),
            ("JK105", "7:33", "an app in only in"),
            ("JK203", "8:3", "is bound already, to: go berths (only in berths)"),
            ("JK105", "11:5", "this is a list"),
            ("JK301", "12:25", "enter can only stand by itself"),
            ("JK108", "13:41", "either `only in` or `not in`"),
            ("JK108", "14:3", "cannot both repeat and wait"),
            ("JK301", "15:18", "'hyper' is no modifier"),
            ("JK210", "16:3", "instead of an earlier binding"),
            ("JK104", "18:13", "did you mean stays"),
            ("JK105", "18:37", "a time such as 10s"),
            ("JK105", "18:52", "drop or leave and pass on"),
            ("JK106", "19:3", "layer empty has no bindings"),
            ("JK216", "19:3", "nothing leads into layer empty"),
            ("JK302", "21:3", "did you mean berths"),
            ("JK106", "22:3", "box has no keys"),
            ("JK105", "22:16", "everywhere, programs, terminals or browsers"),
        ),
    ),
    "a part that is not there may define anything": Case(
        "include: more.yaml\nbindings:\n  super+w: enter arange\n  super+q: go berth\n  super+a: run begin\n"
        "  super+b: {do: close, instead: true}\nlayers:\n  stow: {bindings: {q: leave}}\nmacros: {tidy: [close]}\n",
        (("JK110", "1:10", "there is no file more.yaml"),),
    ),
    "a section that does not parse may lead anywhere": Case(
        "bindings:\n  super+g: - gaps\nlayers:\n  stow: {bindings: {q: leave}}\nmacros: {tidy: [close]}\n",
        (("JK101", "2:12", "check indentation"),),
        layouts=(("bay", "layout: bay\nwindows: []\n"),),
    ),
    "headings at fault": Case(
        "bindings:\n  programs:\n    super+a: close\n  programs:\n    super+a: minimise\n    deeper:\n      super+b: close\n"
        "  supr+c: {do: close}\n",
        (
            ("JK107", "4:3", "'programs' is written twice in bindings"),
            ("JK203", "5:5", "to: close"),
            ("JK108", "6:5", "'deeper' is a heading below a heading"),
            ("JK201", "8:3", "'supr' is no modifier"),
        ),
    ),
    "layouts at fault": Case(
        APPS,
        (
            ("JK108", "a.yaml:3:8", "no such window"),
            ("JK105", "b.yaml:1:10", "'one'"),
            ("JK106", "c.yaml:1:1", "no layout"),
            ("JK502", "d.yaml:1:9", "'other'"),
            ("JK501", "f.yaml:2:9", "number 4 belongs to e already"),
            ("JK302", "f.yaml:4:9", "birth"),
            ("JK304", "f.yaml:4:25", "quay"),
        ),
        (
            ("a", "layout: a\nnumber: 3\nfocus: birth\nwindows: [{app: berths}]\n"),
            ("b", "windows: one\nlayout: b\n"),
            ("c", "number: 2\n"),
            ("d", "layout: other\nwindows: []\n"),
            ("e", "layout: e\nnumber: 4\nwindows: []\n"),
            ("f", "layout: f\nnumber: 4\nwindows:\n- {app: birth, display: quay, place: full}\n"),
        ),
    ),
}  # fmt: skip


def findings(folder: Path, case: Case) -> list[tuple[str, str, str]]:
    """Return code, position and all words of each finding."""
    (folder / "jaklet.yaml").write_bytes(case.text.encode())
    (folder / "layouts").mkdir(exist_ok=True)
    for name, text in case.layouts:
        (folder / "layouts" / f"{name}.yaml").write_text(text)
    result = check_config(locate_config(str(folder)), InstalledPrograms(["mkdir"], ENTRIES))
    lines = {path: source.lines for path, source in result.reading.sources.items()}
    assert findings_text(result.findings, lines).count("remedy: ") == len(result.findings)  # each says what to do
    assert len(findings_data(result.findings)) == len(result.findings)
    told = []
    for found in result.findings:
        file = "" if found.spot.path.endswith("jaklet.yaml") else found.spot.path.rsplit("/", 1)[1] + ":"
        told.append((found.code, f"{file}{found.spot.line}:{found.spot.column}", f"{found.cause} {found.remedy}"))
    return told


@pytest.mark.parametrize("name", CASES)
def test_exactly_these_findings_in_this_order(name: str, tmp_path: Path) -> None:
    case = CASES[name]
    listed = {code for code, _, _ in case.found}
    told = [one for one in findings(tmp_path, case) if one[0] in listed or CATALOGUE[one[0]].severity != NOTE]
    assert [(code, where) for code, where, _ in told] == [(code, where) for code, where, _ in case.found]
    for (_, _, words), (_, _, wanted) in zip(told, case.found, strict=True):
        assert wanted in words


OFFICE = ["berth-board", "radio-log", "tide-gauge", "ledger", "mkdir"]
EXAMPLES = [(code, name) for code, one in explanations().items() if one.fires for name in ("fires", "silent")]


@pytest.mark.parametrize(("code", "name"), EXAMPLES)
def test_the_examples_of_the_manual_have_what_they_say(code: str, name: str, tmp_path: Path) -> None:
    """The one that has a finding has it; the other one has none at all, of any code but a note."""
    for file, text in getattr(explanations()[code], name).items():
        (tmp_path / file).parent.mkdir(exist_ok=True)
        (tmp_path / file).write_text(text)
    found = check_config(locate_config(str(tmp_path)), InstalledPrograms(OFFICE, ENTRIES)).findings
    if name == "fires":
        assert code in {one.code for one in found}
    else:
        assert [one.code for one in found if one.severity != NOTE or one.code == code] == []


def test_catalogue_explanations_examples_and_manual_are_in_step() -> None:
    known = explanations()
    assert set(known) == set(CATALOGUE)
    elsewhere = {"JK102", "JK109"}  # unreadable files and file modes: tests of their own below
    live = {
        "JK213",
        "JK214",
        "JK223",
        "JK316",
        "JK317",
        "JK407",
    }  # a running desk: tests/checks/test_live.py and tests/listener/test_x11.py
    elsewhere |= {"JK701"}  # what a desk can do: tests/desktops/test_abilities.py
    assert {code for code, one in known.items() if one.situation} == elsewhere | live
    assert all(bool(one.fires) == bool(one.silent) != bool(one.situation) for one in known.values())
    assert (Path(__file__).parents[2] / "docs" / "findings.md").read_text() == page()


@pytest.mark.parametrize(
    ("raw", "where"),
    [(b"settings:\n  gap: \xff8\n", "2:8"), (b"\xfe\xff\x00a", "1:1"), (b"a: " + b"x" * 5_000_000, "1:1")],
)
def test_files_that_cannot_be_read(raw: bytes, where: str, tmp_path: Path) -> None:
    path = tmp_path / "jaklet.yaml"
    path.write_bytes(raw)
    found = check_config(locate_config(str(path)), InstalledPrograms()).findings
    assert [(one.code, f"{one.spot.line}:{one.spot.column}") for one in found] == [("JK102", where)]


OTHERS_WRITE = {  # what others may write, with which mode; the files that are reported; whether the config is used
    "nothing": ("above/own/jaklet.yaml", 0o644, [], True),
    "nothing, private": ("above/own/jaklet.yaml", 0o600, [], True),
    "the config": ("above/own/jaklet.yaml", 0o666, ["jaklet.yaml"], False),
    "the config, all but a group": ("above/own/jaklet.yaml", 0o646, ["jaklet.yaml"], False),
    "what it includes": ("above/own/part.yaml", 0o666, ["part.yaml"], False),
    "its folder": ("above/own", 0o777, ["jaklet.yaml"], False),
    "a folder above": ("above", 0o777, ["jaklet.yaml"], False),
    "a sticky folder above": ("above", 0o1777, [], True),
    "the folder of layouts": ("above/own/layouts", 0o777, ["jaklet.yaml"], False),
    "the folder of trials": ("above/own/trials", 0o777, ["jaklet.yaml"], False),
    "one layout": ("above/own/layouts/day.yaml", 0o666, ["day.yaml"], True),
}


@pytest.mark.parametrize("which", OTHERS_WRITE)
def test_what_others_can_write_is_not_used(which: str, tmp_path: Path) -> None:
    path, mode, reported, used = OTHERS_WRITE[which]
    folder = tmp_path / "above" / "own"
    for name in ("layouts", "trials"):
        (folder / name).mkdir(parents=True)
    (folder / "jaklet.yaml").write_text("include: part.yaml\n")
    (folder / "part.yaml").write_text("bindings: {super+b: undo}\n")
    (folder / "layouts" / "day.yaml").write_text("layout: day\nwindows: []\n")
    (tmp_path / path).chmod(mode)
    result = check_config(locate_config(str(folder)), InstalledPrograms())
    found = [(one.code, Path(one.spot.path).name) for one in result.findings if one.severity == ERROR]
    assert found == [("JK109", name) for name in reported]
    assert result.usable is used
    if which == "one layout":
        with pytest.raises(StoreError, match="other users can write this file"):
            shelf_of(locate_config(str(folder))).find("day")


@pytest.mark.parametrize("fault", ["bindings: {super+b: go nowhere}", "bindings: {", "nonsense: 1", "\0"])
def test_an_error_in_a_part_is_one_of_the_config(fault: str, tmp_path: Path) -> None:
    """Else a reload would go through with the keys of that part gone."""
    (tmp_path / "jaklet.yaml").write_text("include: part.yaml\nbindings: {super+u: undo}\n")
    (tmp_path / "part.yaml").write_text(fault)
    result = check_config(locate_config(str(tmp_path)), InstalledPrograms())
    assert not result.usable
    assert {Path(one.spot.path).name for one in result.errors} == {"part.yaml"}


def test_a_circle_of_links_is_no_file(tmp_path: Path) -> None:
    (tmp_path / "jaklet.yaml").write_text("include: part.yaml\n")
    (tmp_path / "part.yaml").symlink_to(tmp_path / "part.yaml")
    assert [one.code for one in check_config(locate_config(str(tmp_path)), InstalledPrograms()).findings] == ["JK110"]


@pytest.mark.parametrize("line_end", ["\n", "\r\n", "\r"])
def test_positions_hold_for_tabs_wide_letters_and_line_ends(line_end: str, tmp_path: Path) -> None:
    """The caret stands under the word, whatever is before it."""
    text = line_end.join(["# Häfen 港", "bindings:", "  super+港: go\tbirth # 港", "  super+é: 'place   lft 1/2'", ""])
    (tmp_path / "jaklet.yaml").write_bytes(text.encode())
    result = check_config(locate_config(str(tmp_path)), InstalledPrograms())
    errors = result.errors
    assert [(found.spot.line, found.spot.column, found.spot.end) for found in errors] == [(3, 15, 20), (4, 21, 24)]
    lines = {path: source.lines for path, source in result.reading.sources.items()}
    rows = findings_text(errors, lines).splitlines()
    carets = [row for row in rows if set(row) <= set(" |\t^") and "^" in row]
    assert carets == [" " * 5 + " | " + " " * 14 + "\t^^^^^", " " * 5 + " | " + " " * 20 + "^^^"]


@given(st.sets(st.sampled_from(wanted_chords())))
def test_a_first_config_has_no_findings_whatever_others_hold(held: set[Chord]) -> None:
    with tempfile.TemporaryDirectory() as folder:
        config = Path(folder) / "jaklet.yaml"
        said = "[Desktop Entry]\nType=Application\nName={0}\nExec=sh\nStartupWMClass={0}"
        entries = {role.app: parse_entry(role.app, said.format(role.app)) for role in ROLES}
        programs = [RoleProgram(role, entries[role.app]) for role in ROLES]
        config.write_text(config_text(programs, (), lambda chord: chord not in held))
        told = check_config(locate_config(str(config)), InstalledPrograms(["mkdir"], entries))
        assert not told.findings, config.read_text()
        assert not held & {one.keys[0] for one in told.reading.config.bindings}


@given(st.lists(st.sampled_from([
    "bindings:", "  super+b: go berths", "apps:", "  a: {launch: sh}", "- x", "  - {", "\t", "settings: &a", "  *a : b",
    "<<: *a", "? [x]", "'", '"', "|", "%YAML 9", "---", "...", "  gap: !!int 8", "\x01", "layouts: {a: *a}", "{", "}", ": :",
]), max_size=9))  # fmt: skip
def test_no_file_is_too_odd_to_check(lines: list[str]) -> None:
    with tempfile.TemporaryDirectory() as folder:
        findings(Path(folder), Case("\n".join(lines)))


def test_the_chords_of_others_are_as_the_tables_say() -> None:
    assert make_owners.OUT.read_text() == make_owners.text(), "make docs"


@pytest.mark.parametrize(("count", "more"), [(11, ""), (12, ""), (13, "1 more"), (15, "3 more")])
def test_a_remedy_names_up_to_a_dozen(count: int, more: str, tmp_path: Path) -> None:
    names = [f"gauge-{chr(97 + i)}" for i in range(count)]
    apps = "".join(f"  {name}: {{launch: mkdir}}\n" for name in names)
    (tmp_path / "jaklet.yaml").write_text(f"apps:\n{apps}bindings:\n  super+b: go zzzz\n  super+x: go {names[0]}\n")
    found = check_config(locate_config(str(tmp_path)), InstalledPrograms(["mkdir"])).findings
    (remedy,) = [one.remedy for one in found if one.code == "JK302"]
    assert sum(name in remedy for name in names) == min(count, 12)
    assert ("more" in remedy, more in remedy) == (bool(more), True)


def test_a_layer_ends_after_one_action_unless_it_says_that_it_stays(tmp_path: Path) -> None:
    layers = "layers:\n  a: {bindings: {m: maximise}}\n  b: {stays: true, bindings: {m: maximise}}\n"
    layers += "  c: {stays: false, ends after: 5s, other keys: leave and pass on, bindings: {m: maximise}}\n"
    (tmp_path / "jaklet.yaml").write_text(layers)
    read = check_config(locate_config(str(tmp_path)), InstalledPrograms([])).config.layers
    assert [(one.stays, one.ends_after, one.passes_on) for one in read.values()] == [
        (False, None, False), (True, None, False), (False, 5, True),
    ]  # fmt: skip


def test_of_two_keys_in_turn_the_first_is_no_slip_away_from_anything(tmp_path: Path) -> None:
    """`super+x` alone does nothing yet; as a chord by itself the same `kill` is one slip from `super+c`."""
    apps = "apps: {berths: {launch: mkdir}}\nbindings:\n  super+c: go berths\n"
    found = []
    for keys in ("super+x k", "super+x"):
        (tmp_path / "jaklet.yaml").write_text(f"{apps}  {keys}: {{do: kill, sure: true}}\n")
        result = check_config(locate_config(str(tmp_path)), InstalledPrograms(["mkdir"]))
        found.append([one.code for one in result.findings if one.code == "JK219"])
    assert found == [[], ["JK219"]]
