"""The installed program on files in a temporary folder: what people type, and what comes back."""

import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

from jaklet.core.language.verbs import VERBS
from tests.conftest import JAKLET, Office

COMMANDS = [
    "init",
    "check",
    "explain",
    "listen",
    "reload",
    "act",
    "fire",
    "desk",
    "keys",
    "keys free",
    "keys why",
    "apps",
    "apps explain",
    "apps suggest",
    "pick",
    "layout save",
    "layout recall",
    "layout list",
    "layout show",
    "demo",
]


def windows(office: Office) -> dict[str, dict[str, object]]:
    """Return the windows by app, as the program tells scripts."""
    data = json.loads(office.jaklet("desk", "--format", "json").stdout)
    return {window["app"]: window for window in data["windows"]}


def test_a_day_at_the_harbour_office(office: Office) -> None:
    """The same story as on the real server: each command finds what the one before it did."""
    office.jaklet("fire", "super+b", "super+left", "super+r", "super+right", "super+t", "super+q", "super+b")
    standing = windows(office)
    assert {app: window["place"] for app, window in standing.items()} == {
        "berths": "left 2/3", "radio": "right 1/3", "tides": "full",
    }  # fmt: skip
    assert [*standing] == ["berths", "tides", "radio"]
    saved = office.jaklet("layout", "save", "departures", "--number", "1", "--note", "Berths large")
    assert saved.stdout.splitlines() == [
        "saved departures (number 1): 3 windows on 2 displays",
        "  place: berths left 2/3 on main, tides full on quay, radio right 1/3 on main",
        "  workspace: 1",
        "  order: berths, tides, radio",
        "  focus: berths",
        "  state: all normal",
    ]
    for action in (
        "place berths at 5,5 size 600x400",
        "maximise radio",
        "minimise tides",
        "close radio",
        "focus tides",
    ):
        office.jaklet("act", action)
    assert windows(office) != standing
    dry = office.jaklet("layout", "recall", "1", "--dry-run").stdout
    assert "would launch radio: radio-log\n" in dry
    assert "would then place radio right 1/3 on main" in dry
    assert "radio" not in windows(office)
    recalled = office.jaklet("layout", "recall", "departures").stdout
    assert (
        recalled
        == "recalled departures: 3 of 3 windows in place, 1 moved, 1 program launched in 0.2 s, focus: berths\n"
    )
    back = windows(office)
    assert [*back] == [*standing]
    assert {app: window["frame"] for app, window in back.items()} == {app: w["frame"] for app, w in standing.items()}
    assert "nothing to move" in office.jaklet("fire", "Super+1").stdout
    assert "nothing to move" in office.jaklet("fire", "super+1", "--dry-run").stdout

    office.jaklet("act", "minimise tides")
    again = office.jaklet("layout", "save", "departures").stdout
    assert "former version is kept as departures@1" in again
    assert "state: tides minimised" in again
    shown = json.loads(office.jaklet("layout", "show", "departures@1", "--format", "json").stdout)
    assert [window["minimised"] for window in shown["windows"]] == [False] * 3
    assert (shown["number"], shown["note"]) == (1, "Berths large")
    assert "1       departures  3        super+1  super+s 1  yes   today" in office.jaklet("layout", "list").stdout


def test_check_tells_people_and_scripts_the_same(office: Office) -> None:
    text = office.jaklet("check", "first-try", status=1).stdout
    data = json.loads(office.jaklet("check", "first-try", "--format", "json", status=1).stdout)["findings"]
    heads = re.findall(r"^(\S+):(\d+):(\d+): (error|warning) (JK\d+)", text, re.MULTILINE)
    assert heads == [(f["path"], str(f["line"]), str(f["column"]), f["severity"], f["code"]) for f in data]
    assert [f["code"] for f in data] == [
        "JK105",
        "JK103",
        "JK406",
        "JK104",
        "JK302",
        "JK203",
        "JK301",
        "JK202",
        "JK305",
    ]
    assert text.count("^") > len(data)
    assert "\033" not in text
    assert text.endswith("7 errors and 2 warnings; the config cannot be used until its errors are mended\n")
    assert office.jaklet("check").stdout == "no findings: 73 bindings, 6 apps, 1 layout, on keyboard us\n"
    assert json.loads(office.jaklet("check", "--format", "json").stdout) == {
        "version": 1, "usable": True, "keyboards": ["us"], "findings": [], "silenced": 0, "left_out": [], "listener": None,
    }  # fmt: skip


REFUSALS = [  # words typed, exit status, what is said, what to do
    (["act", "plce left"], 2, "no action is called 'plce'", "did you mean place"),
    (["act", "go birth"], 2, "no app is called 'birth'", "did you mean berths"),
    (["act", "place berths redding"], 2, "no place is called 'redding'", "did you mean reading"),
    (["act", "place left 1/2"], 1, "no window has the focus", ""),
    (["fire", "super+pgup"], 2, "no key is called 'pgup'", "pageup"),
    (["fire", "ctrl+alt+up"], 2, "ctrl+alt+up is off", "take `off: true` away"),
    (["keys", "--app", "rdio"], 2, "no app is called 'rdio'", "did you mean radio"),
    (["keys", "zzz"], 1, "no key or word fits", ""),
    (["fire", "super+i"], 2, "super+i is not bound", ""),
    (["layout", "recall", "arival"], 1, "no layout is called 'arival'", "did you mean arrivals"),
    (["layout", "recall", "77"], 1, "no layout has number 77", "--number 77"),
    (["layout", "save", "a/b"], 1, "cannot be a layout's name", "departures"),
    (["layout", "show", "arrivals@9"], 1, "no version 9 of arrivals", ""),
    (["layout", "save", "x", "--number", "2"], 1, "number 2 belongs to arrivals", "another number"),
    (["check", "nowhere"], 2, "there is no config at nowhere", "--config"),
    (["desk", "--desk", "wayland"], 2, "there is no desk called 'wayland'", "tabletop:FILE"),
    (["desk", "--desk", "tabletop:none.yaml"], 2, "there is no tabletop at none.yaml", "demo --write"),
    (["listen"], 2, "a tabletop has no keys", "jaklet fire"),
    (["desk", "--desk", "x11"], 1, "DISPLAY is not set", "tabletop"),
    (["demo", "--write", "."], 2, ". is not empty", "new folder"),
    (["demo", "--x11"], 1, "DISPLAY is not set", "without --x11"),
    (["fire", "ctrl+alt+delete"], 1, "another program holds it", "bind another chord"),
    (["act", "kill"], 1, "no window has the focus", ""),
    (["act", "outt"], 2, "no action is called 'outt'", "did you mean out"),
    (["act", "focus window 0x99"], 1, "there is no window 0x99", ""),
    (["apps", "explain", "kite"], 1, "no window is meant by 'kite'", "jaklet desk"),
    (["pick", "window"], 2, "there is no kind called 'window'", "did you mean windows"),
    (["init"], 2, "there is a config at jaklet.yaml already", "--print"),
    (["fly"], 2, "there is no command 'fly'", ""),
    (["recall", "day"], 2, 'did you mean jaklet layout recall or jaklet act "recall …"?', ""),
    (["layout", "go"], 2, "there is no command 'layout go'", ""),
    (["check", "tabletop.yml"], 2, "did you mean tabletop.yaml", ""),
    (["layout", "save", "x", "--number", "one"], 2, "--number", ""),
]


@pytest.mark.parametrize(
    ("words", "status", "said", "remedy"),
    REFUSALS,
    ids=lambda value: " ".join(value) if isinstance(value, list) else "",
)
def test_what_cannot_be_is_refused_with_a_remedy(
    words: list[str], status: int, said: str, remedy: str, office: Office
) -> None:
    office.edit("super+z: focus last", "ctrl+alt+delete: focus last")
    done = office.jaklet(*words, status=status)
    assert said in done.stderr
    assert remedy in done.stderr


def test_a_config_with_errors_is_used_by_no_command(office: Office) -> None:
    office.edit("go berths", "go birth")
    for words in (["act", "close"], ["fire", "super+r"], ["layout", "list"]):
        done = office.jaklet(*words, status=1)
        assert "no app is called 'birth'" in done.stderr
        assert "run `jaklet check`" in done.stderr


def test_looking_at_the_desk_needs_no_config(office: Office) -> None:
    office.jaklet("fire", "super+b")
    office.edit("go berths", "go birth")
    done = office.jaklet("desk")
    assert "(BerthBoard)" in done.stdout
    assert "the config has errors" in done.stderr


def test_a_layout_at_fault_cannot_be_recalled_and_is_in_nobodys_way(office: Office) -> None:
    (office.folder / "layouts" / "torn.yaml").write_text("layout: torn\nwindows:\n- {app: berths, plaec: full}\n")
    found = json.loads(office.jaklet("check", "--format", "json", status=1).stdout)
    assert (found["usable"], [one["code"] for one in found["findings"] if one["severity"] == "error"]) == (
        True,
        ["JK104"],
    )
    assert "recalled arrivals" in office.jaklet("layout", "recall", "2").stdout
    assert "did you mean place" in office.jaklet("layout", "recall", "torn", status=1).stderr
    done = office.jaklet("layout", "list")
    assert "arrivals" in done.stdout
    assert "torn.yaml:3:17" in done.stderr


def test_apps_are_listed_explained_and_suggested(office: Office) -> None:
    office.jaklet("fire", "super+b", "super+g")
    office.edit("  radio:   {launch: radio-log,          window: {class: RadioLog}}\n", "")
    office.edit("  super+r: go radio\n", "")
    office.edit("  super+m: go radio or minimise\n", "")
    for line in (
        "go radio",
        '{do: wait for radio up to 5s, else: [tell "The radio log does not come"]}',
        "place radio right 1/3",
    ):
        office.edit(f"    - {line}\n", "")
    office.edit(" and radio at right 1/3 on main", "")
    office.edit("    ctrl+alt+<side>: {do: place radio <side> 1/2, off: true, note: Tried for a while}\n", "")
    tabletop = office.folder / "tabletop.yaml"
    tabletop.write_text(tabletop.read_text().replace("windows:", "windows:\n- {id: 9, program: radio-log}", 1))
    tabletop.write_text(re.sub(r"\n(stacking|recent|active): .*", "", tabletop.read_text()))
    text = office.jaklet("apps").stdout
    assert re.search(
        r"^berths +super\+b, super\+shift\+b +1 +Berth board +main +1 +berth-board --live$", text, re.MULTILINE
    )
    assert re.search(r"^ledger +super\+g +1 +Ledger +main +1 +focus +ledger$", text, re.MULTILINE)
    assert re.search(r"^\(no app\) +1 +Radio log", text, re.MULTILINE)
    data = json.loads(office.jaklet("apps", "--format", "json").stdout)
    assert [(app["app"], app["windows"]) for app in data][:3] == [("berths", [1]), ("tides", []), ("ledger", [2])]

    told = office.jaklet("apps", "explain", "berth").stdout
    assert "berths has it: Jaklet launched it for berths" in told
    assert re.search(r"^tides +class: TideGauge +32 +class is 'BerthBoard'$", told, re.MULTILINE)
    assert "no app claims it; `jaklet apps suggest`" in office.jaklet("apps", "explain", "0x9").stdout
    (data,) = json.loads(office.jaklet("apps", "explain", "ledger", "--format", "json").stdout)
    assert (data["app"], data["facts"]["launched for"]) == ("ledger", "ledger")

    entry = office.jaklet("apps", "suggest").stdout
    assert entry == "apps:\n  radio-log: {launch: radio-log, window: {class: RadioLog}}\n"
    assert "belongs to berths already" in office.jaklet("apps", "suggest", "berths", status=1).stderr
    office.edit("apps:\n", entry)
    office.jaklet("check")
    assert "radio-log (Radio log) is in front" in office.jaklet("act", "go radio-log").stdout
    assert office.jaklet("apps", "suggest").stderr == "every window belongs to an app\n"


def test_a_dialog_is_told_as_its_parents(office: Office) -> None:
    office.jaklet("fire", "super+b")
    tabletop = office.folder / "tabletop.yaml"
    dialog = "- {id: 5, program: letters, title: Moor where?, kind: dialog, parent: 1}\nstacking: [1, 5]\nrecent: [5, 1]\nactive: 5\n"
    tabletop.write_text(tabletop.read_text().partition("stacking:")[0] + dialog)
    assert "berths has it: it is a dialog of berths (Berth board)" in office.jaklet("apps", "explain", "front").stdout
    assert "1 dialog" in office.jaklet("apps").stdout
    assert "focus: berths" in office.jaklet("layout", "save", "x").stdout
    assert office.jaklet("act", "go berths").stdout == "berths (Berth board) is in front already\n"
    assert '"active": 5' not in tabletop.read_text()
    assert "active: 5" in tabletop.read_text()


def test_pick_prints_what_fits_for_scripts(office: Office) -> None:
    (office.folder / ".ssh").mkdir()
    (office.folder / ".ssh" / "config").write_text("Host pilot\nHost *\n")
    office.jaklet("fire", "super+b", "super+r")
    lines = [line.split("\t") for line in office.jaklet("pick", "all", "rad", "log").stdout.splitlines()]
    assert lines == [["windows", "radio: Radio log", "on main", "super+r super+m", "focus window 0x2"]]
    assert office.jaklet("act", lines[0][4]).stdout == "radio (Radio log) is in front\n"
    assert office.jaklet("pick", "apps", "zzz", status=1).stdout == ""
    found = json.loads(office.jaklet("pick", "actions", "bd", "--format", "json").stdout)
    assert found[0] == {
        "kind": "actions", "label": "place left 2/3", "detail": "", "keys": ["super+left", "bd"], "does": "place left 2/3",
    }  # fmt: skip
    assert office.jaklet("pick", "hosts", HOME=str(office.folder)).stdout == "hosts\tpilot\tssh\t\tssh pilot\n"
    assert office.jaklet("pick", "layouts", "charts").stdout.split("\t")[:2] == ["layouts", "arrivals"]


def test_the_sheet_has_headings_families_and_what_is_off(office: Office) -> None:
    lines = office.jaklet("keys").stdout.splitlines()
    assert lines[0].split() == ["keys", "action", "where", "note", "state"]
    at = lines.index("layouts")
    assert lines[at - 1] == ""
    assert lines[at + 1].split() == ["super+<n>", "recall", "<n>"]
    assert lines[at + 4].split()[-1] == "off"
    words = lines.index("typed words")
    assert lines[words + 1].split()[:4] == ["bd", "place", "left", "2/3"]
    arrange = lines.index("layer arrange (super+w; stays until it is left)")
    assert lines[arrange + 1].split() == ["<side>", "place", "<side>", "1/2"]
    only = json.loads(office.jaklet("keys", "--layer", "arrange", "--with", "plain", "--format", "json").stdout)
    assert [line["keys"] for line in only] == ["<side>", *"kwpsxdmrcfgu"]
    assert [
        line.split()[0] for line in office.jaklet("keys", "--with", "ctrl").stdout.splitlines() if "ledger" in line
    ] == ["ctrl+e"]
    data = json.loads(office.jaklet("keys", "super+3", "--format", "json").stdout)
    assert [line["keys"] for line in data] == ["super+<n>"]
    assert data[0]["chords"] == [f"super+{n}" for n in range(1, 10)]
    about_radio = json.loads(office.jaklet("keys", "--app", "radio", "--format", "json").stdout)
    assert [(line["keys"], line["live"]) for line in about_radio] == [
        ("super+r", True), ("super+m", True), ("ctrl+alt+<side>", False),
    ]  # fmt: skip
    office.jaklet("fire", "super+b", "super+s 7")
    assert "recalled layout 7" in office.jaklet("fire", "super+7").stdout


def test_a_sequence_is_pressed_chord_by_chord(office: Office) -> None:
    office.edit("  super+z: focus last", "  super+v b: go berths\n  super+v r: go radio\n  super+z: focus last")
    assert office.jaklet("fire", "super+v", "b", "super+v r").stdout.splitlines() == [
        "super+v b: go berths", "berths (Berth board) is launched and in front",
        "super+v r: go radio", "radio (Radio log) is launched and in front",
    ]  # fmt: skip
    done = office.jaklet("fire", "super+v", status=2)
    assert "super+v is the start of a sequence" in done.stderr
    assert "go on with b or r" in done.stderr
    assert "super+v x is not bound" in office.jaklet("fire", "super+v", "x", status=2).stderr
    assert "super+v b" in office.jaklet("keys", "berths").stdout


def test_layers_and_scopes_are_pressed_key_by_key(office: Office) -> None:
    assert office.jaklet("fire", "super+b", "super+w", "m", "r", "z", "escape", "super+g", "ctrl+e").stdout.splitlines() == [
        "super+b: go berths", "berths (Berth board) is launched and in front",
        "super+w: enter arrange", "layer arrange is on",
        "m (arrange): maximise", "berths (Berth board) is maximised",
        "r (arrange): restore", "berths (Berth board) is restored",
        "z: nothing is bound to it in layer arrange", "escape: layer arrange is left",
        "super+g: go ledger", "ledger (Ledger) is launched and in front",
        "ctrl+e: place right 1/2 on quay", "ledger (Ledger) is at right 1/2 on quay",
    ]  # fmt: skip
    done = office.jaklet("fire", "super+b", "ctrl+e", status=1)
    assert "ctrl+e is live only in ledger, and berths is in front" in done.stderr
    assert "only a key can do 'enter'" in office.jaklet("act", "enter arrange", status=2).stderr
    assert "would press ctrl+k super+1" in office.jaklet("act", "press ctrl+k super+1", "--dry-run").stdout


def test_words_stand_for_actions(office: Office) -> None:
    office.jaklet("fire", "super+b")
    assert office.jaklet("act", "BD").stdout == "berths (Berth board) is at left 2/3\n"
    assert office.jaklet("act", "bd", "--dry-run").stdout == "berths (Berth board) is at left 2/3 already\n"


def test_a_kill_is_asked_about_or_sure(office: Office) -> None:
    office.jaklet("fire", "super+b", "super+r")
    refused = office.jaklet("act", "kill radio", status=2)
    assert "nobody is here to be asked" in refused.stderr
    assert office.jaklet("act", "kill radio", "--dry-run").stdout == "would kill radio (Radio log)\n"
    office.edit("  super+z: focus last", "  super+z: {do: kill radio, sure: true}")
    assert "radio (Radio log) is killed" in office.jaklet("fire", "super+z").stdout
    assert office.jaklet("act", "kill", "--sure").stdout == "berths (Berth board) is killed\n"
    assert windows(office) == {}


@pytest.mark.parametrize(("answer", "left"), [("n\n", 1), ("y\n", 0)])
def test_a_kill_names_its_target_and_obeys_the_answer(answer: str, left: int, office: Office) -> None:
    import pty

    office.jaklet("fire", "super+b")
    ours, theirs = pty.openpty()
    process = subprocess.Popen(
        [JAKLET, "act", "kill"], cwd=office.folder, env=office.env, stdin=theirs, stdout=theirs, stderr=theirs
    )
    said = ""
    while "Sure?" not in said:
        said += os.read(ours, 4096).decode()
    assert "kill berths (Berth board): what is not saved in it is lost." in said
    os.write(ours, answer.encode())
    assert process.wait(60) == left
    os.close(ours)
    os.close(theirs)
    assert len(windows(office)) == left


def test_init_writes_a_config_that_passes_check_and_never_overwrites(office: Office) -> None:
    folder = str(office.folder / "new")
    printed = office.jaklet("init", "--print").stdout
    for entry, name, category in (
        ("web", "Harbour web", "Network;WebBrowser"), ("web2", "The web I like", "WebBrowser"), ("term", "Terminal", "TerminalEmulator"),
        ("old", "A gone one", "TextEditor"), ("ed", "Editor", "TextEditor"), ("hid", "A hidden one", "FileManager"),
    ):  # fmt: skip
        path = office.folder / "data" / "applications" / f"{entry}.desktop"
        path.parent.mkdir(parents=True, exist_ok=True)
        more = {"old": "TryExec=no-such-program\n", "hid": "NoDisplay=true\n"}.get(entry, "")
        path.write_text(f"[Desktop Entry]\nType=Application\nName={name}\nExec=sh %U\nCategories={category};\n{more}")
    office.env["XDG_DATA_DIRS"] = "/nowhere"
    taken = office.folder / "tabletop.yaml"
    taken.write_text(
        taken.read_text().replace("[ctrl+alt+delete]", "[ctrl+alt+delete, super+b, super+shift+t, super+z]")
    )
    (office.folder / "config").mkdir()
    defaults = "[Default Applications]\nx-scheme-handler/http=gone.desktop;web2.desktop;web.desktop;\n"
    (office.folder / "config" / "mimeapps.list").write_text(defaults)
    assert "with web, terminal, editor" in office.jaklet("init", "--config", f"{folder}/").stdout
    text = (office.folder / "new" / "jaklet.yaml").read_text()
    assert all(line in text for line in (
        "  main: {name: DP-1}\n", "  web: {entry: web2}\n", "  terminal: {entry: term}\n", "  editor: {entry: ed}\n",
        "  # files: {launch: PROGRAM}", "super+w: go web", "super+t: go terminal\n", "super+grave: focus last",
    ))  # fmt: skip
    assert "super+b:" not in text
    assert "super+shift+t:" not in text
    assert "no findings" in office.jaklet("check", folder).stdout
    again = office.jaklet("init", "--config", folder, status=2)
    assert "already" in again.stderr
    assert (office.folder / "new" / "jaklet.yaml").read_text() == text
    (office.folder / "printed.yaml").write_text(printed)
    office.jaklet("check", "printed.yaml", status=None)


def test_only_x11_lacks_a_desk_and_says_so(office: Office) -> None:
    done = office.jaklet("desk", status=1, JAKLET_DESK="")
    assert "DISPLAY is not set" in done.stderr
    assert done.stderr.count("\n") == 2


def test_a_machine_without_the_x_library_is_told_in_one_line(office: Office) -> None:
    """A stand-in package fails to load as xcffib does where libxcb is missing; all but X still works."""
    package = office.folder / "lacking" / "xcffib"
    package.mkdir(parents=True)
    (package / "__init__.py").write_text("raise OSError('libxcb.so.1: cannot open shared object file')\n")
    office.env["PYTHONPATH"] = str(package.parent)
    office.jaklet("desk")
    done = office.jaklet("desk", "--desk", "x11", status=1, DISPLAY=":999")
    del office.env["PYTHONPATH"]
    assert done.stderr.splitlines() == [
        "jaklet: the X library libxcb cannot be loaded: libxcb.so.1: cannot open shared object file",
        "  remedy: install it; on Debian: sudo apt install libxcb1",
    ]
    assert "no X server answers at" in office.jaklet("desk", "--desk", "x11", status=1, DISPLAY=":999").stderr


@pytest.mark.parametrize("words", [["act"], ["act", "--help"]])
def test_all_actions_are_listed(words: list[str], office: Office) -> None:
    text = office.jaklet(*words).stdout
    assert [verb for verb in VERBS if not re.search(rf"\b{verb}\b", text)] == []


@pytest.mark.parametrize("command", COMMANDS)
def test_help_says_what_and_gives_an_example_that_parses(command: str, office: Office) -> None:
    text = office.jaklet(*command.split(), "--help").stdout
    assert "Example: jaklet" in text
    assert "\033" not in text


def test_hostile_titles_never_reach_the_terminal(office: Office) -> None:
    tabletop = office.folder / "tabletop.yaml"
    evil = '"\\e]0;gotcha\\a\\u202E board"'
    tabletop.write_text(tabletop.read_text().replace("title: Berth board", f"title: {evil}"))
    office.jaklet("fire", "super+b")
    for words in (
        ["desk"],
        ["act", "go berths"],
        ["layout", "save", "x"],
        ["layout", "show", "x"],
        ["layout", "recall", "x", "--dry-run"],
    ):
        done = office.jaklet(*words)
        assert not set("\033\a\u202e") & set(done.stdout + done.stderr)


@pytest.mark.parametrize(("env", "coloured"), [({}, True), ({"NO_COLOR": "1"}, False), ({"TERM": "dumb"}, False)])
def test_colour_is_for_terminals_that_want_it(env: dict[str, str], coloured: bool, office: Office) -> None:
    import pty

    ours, theirs = pty.openpty()
    env = office.env | {"TERM": "xterm-256color"} | env
    subprocess.run([JAKLET, "check", "first-try"], cwd=office.folder, env=env, stdout=theirs, timeout=60)
    os.close(theirs)
    said = os.read(ours, 1 << 16).decode()
    os.close(ours)
    assert ("\033[" in said) == coloured


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        (
            "area: 2560x1440+0+0",
            "area: large",
            "area of a display should be a geometry such as 800x600+100+50, and this is 'large'",
        ),
        ("displays:", "screens:", "this tabletop has no key called 'screens'"),
        (
            "takes: 400ms",
            "takes: soon",
            "takes of program berth-board should be a time such as 10s or 200ms, and this is 'soon'",
        ),
        ("workspaces: 4", "workspaces: [", "this does not parse as YAML"),
        ("workspaces: 4", "windows: [{program: kite}]", "program 'kite' is not under `programs`"),
        ("workspaces: 4", "active: 7", "there is no window 7"),
        ("taken: [ctrl+alt+delete]", "taken: [hyper+x]", "'hyper' is no modifier"),
        (
            "programs:",
            "programs: 3\nother:",
            "programs should be a mapping, and this is '3'; 8:1: this tabletop has no key called 'other'",
        ),
    ],
)
def test_a_tabletop_at_fault_is_told_by_name(old: str, new: str, said: str, office: Office) -> None:
    tabletop = office.folder / "tabletop.yaml"
    tabletop.write_text(tabletop.read_text().replace(old, new))
    before = tabletop.read_text()
    done = office.jaklet("desk", status=1)
    assert "tabletop.yaml" in done.stderr
    assert said in done.stderr
    assert tabletop.read_text() == before
    found = json.loads(office.jaklet("check", "tabletop.yaml", "--format", "json", status=1).stdout)
    assert not found["usable"]
    causes = [f"{one['line']}:{one['column']}: {one['cause']}" for one in found["findings"]]
    assert f"tabletop.yaml:{'; '.join(causes)}" in done.stderr


def test_a_path_that_is_no_config_is_checked_as_what_it_is(office: Office) -> None:
    assert office.jaklet("check", "tabletop.yaml").stdout == "no findings: this tabletop can be used\n"
    whole = office.jaklet("check").stdout
    assert office.jaklet("check", "layouts/arrivals.yaml").stdout == whole
    env = office.env | {"JAKLET_DESK": f"tabletop:{office.folder}/tabletop.yaml"}
    inside, folder = [JAKLET, "check", "arrivals.yaml"], office.folder / "layouts"
    assert subprocess.run(inside, cwd=folder, env=env, capture_output=True, text=True, check=True).stdout == whole


def test_the_demo_goes_as_told(tmp_path: Path) -> None:
    env = {name: value for name, value in os.environ.items() if name not in ("JAKLET_CONFIG", "JAKLET_DESK", "DISPLAY")}
    done = subprocess.run([JAKLET, "demo"], cwd=tmp_path, env=env, capture_output=True, text=True, timeout=120)
    assert (done.returncode, done.stderr) == (0, "")
    assert "this was to end" not in done.stdout
    assert not list(tmp_path.iterdir())


def test_the_manual_names_every_command_and_every_action() -> None:
    commands, actions = (
        (Path(__file__).parents[2] / "docs" / name).read_text() for name in ("commands.md", "actions.md")
    )
    for command in COMMANDS:
        assert f"jaklet {command}" in commands, command
    for verb in VERBS:
        assert f"`{verb}" in actions, verb


def test_it_runs_as_a_module() -> None:
    done = subprocess.run([sys.executable, "-m", "jaklet", "--version"], capture_output=True, text=True, timeout=60)
    assert re.fullmatch(r"jaklet \d+\.\d+\.\d+\n", done.stdout)


def test_a_report_of_a_fault_has_what_it_runs_on(office: Office) -> None:
    told = office.jaklet("--version", "--verbose").stdout.splitlines()
    assert told[0].startswith("jaklet ")
    assert told[1].startswith("Python 3.")
    assert {"typer", "pyyaml", "pywayland"} <= {one.split(" ")[0] for one in told[2].removeprefix("with ").split(", ")}
    assert told[3].startswith("desks here: ")
    assert len(office.jaklet("--version").stdout.splitlines()) == 1
    assert "--version --verbose" in office.jaklet("--verbose", "check", status=2).stderr
