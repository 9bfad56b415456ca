"""The whole listener, without a server: what it says and what becomes of each key, as transcripts."""

from pathlib import Path

import pytest

from tests.listener.transcript import Scripted

TEXT = """
apps:
  berths: {launch: berth-board, window: {class: BerthBoard}}
  radio: {launch: radio-log, window: {class: RadioLog}}
  charts: {launch: charts, window: {class: Charts}}
  letters: {launch: letters, window: {class: Letters}}
bindings:
  super+b: go berths
  super+r: go radio
  super+n: {do: nudge right 10px, repeat: true}
  super+h: {do: gather, on release: true}
  ctrl+e: {do: place left 1/2, only in: berths}
  super+w: enter tidy
  super+e: enter short
  super+o b: go charts
  super+m: run morning
  super+v: stop
  super+p: pause
  super+y: save bay
  super+u: recall bay
  super+left: place left 1/3
  super+z: undo
layers:
  tidy: {stays: true, bindings: {b: go berths, q: leave}}
  short: {ends after: 5s, other keys: leave and pass on, bindings: {b: go berths}}
macros:
  morning: [wait 3s, tell "high water"]
events:
  idle for 10m: tell "nobody is here"
  window of charts opens: place right 1/2
  window of letters opens: {do: tell "a letter", only in: letters}
  focus moves to letters: {do: tell "to work", not in: radio}
"""
CASES = {
    "what a notice says is not said twice": """
> start
listening on quay: 18 bindings
> tap super+w
layer tidy is on
> tap q
no layer is on
> tap super+p
paused: keys and events are let be
super+p: a pause begins, or is over
> tap super+p
listening again
super+p: a pause begins, or is over
""",
    "a modifier that somebody holds by itself": """
> start
listening on quay: 18 bindings
> take super for berthd
super+b, super+e, super+h and 11 more chords cannot be used: berthd holds the Super key by itself, so that no chord with super is heard
> tap super+b
> passed
super+b
> tap ctrl+e
> passed
ctrl+e
> take super
super+b, super+e, super+h and 11 more chords can be used now
> tap super+b
super+b: berths (Berth board) is launched and in front
""",
    "events with a scope": """
> start
listening on quay: 18 bindings
> tap super+r
super+r: radio (Radio log) is launched and in front
> user opens letters
a letter
to work
> user focuses radio-log
> user closes letters
> tap super+b
super+b: berths (Berth board) is launched and in front
> user opens letters
a letter
to work
> user focuses berth-board
> user focuses letters
to work
""",
    "a reload tells what came of it": """
> start
listening on quay: 18 bindings
> connect
> ask reload
reloaded: 18 bindings
{"done": true, "lines": ["reloaded: 18 bindings"]}
> write bindings: [
> ask reload
:1:12: error JK101: this does not parse as YAML: did not find expected node content; check indentation, quotes and brackets around here
the old config stays in use
{"done": false, "lines": [":1:12: error JK101: this does not parse as YAML: did not find expected node content; check indentation, quotes and brackets around here", "the old config stays in use"]}
> write bindings: {super+b: gather}
> ask reload
reloaded: 1 binding
{"done": true, "lines": ["reloaded: 1 binding"]}
> shown
failed: the config was not reloaded: :1:12: error JK101: this does not parse as YAML: did not find expected node content; check indentation, quotes and brackets around here
""",
    "a second recall changes nothing": """
> start
listening on quay: 18 bindings
> tap super+b
super+b: berths (Berth board) is launched and in front
> tap super+r
super+r: radio (Radio log) is launched and in front
> tap super+y
super+y: saved bay: 2 windows on 1 display
> user focuses berth-board
> tap super+left
super+left: berths (Berth board) is at left 1/3
> tap super+u
super+u: recalled bay: 2 of 2 windows in place, 1 moved, focus: radio
> tap super+u
super+u: recalled bay: 2 of 2 windows in place, nothing to move, focus: radio
""",
    "layouts that lose windows are kept by a second press": """
> start
listening on quay: 18 bindings
> tap super+b
super+b: berths (Berth board) is launched and in front
> tap super+r
super+r: radio (Radio log) is launched and in front
> tap super+o b
super+o b: charts (Charts of the approaches) is launched and in front
place: charts (Charts of the approaches) is at right 1/2
> tap super+y
super+y: saved bay: 3 windows on 1 display
> user closes charts
> user closes radio-log
> tap super+y
super+y: save bay: bay is not saved yet: press again to save it all the same
> tap super+b
super+b: berths (Berth board) is in front already
> tap super+y
super+y: save bay: bay is not saved yet: press again to save it all the same
> tap super+y
super+y: saved bay: 1 window on 1 display
> tap super+y
super+y: saved bay: 1 window on 1 display
""",
    "a recall that waits for a program goes on when its window is placed elsewhere": """
> start
listening on quay: 18 bindings
> tap super+b
super+b: berths (Berth board) is launched and in front
> tap super+o b
super+o b: charts (Charts of the approaches) is launched and in front
place: charts (Charts of the approaches) is at right 1/2
> tap super+y
super+y: saved bay: 2 windows on 1 display
> user closes charts
> tap super+left
super+left: berths (Berth board) is at left 1/3
> slow charts 3s
> tap super+u
> tap super+left
super+left: berths (Berth board) is at left 1/3
> pass 3s
super+u: recalled bay: 2 of 2 windows in place, 1 moved, 1 program launched in 3.0 s, focus: charts
place: charts (Charts of the approaches) is at right 1/2
""",
    "a launch goes on when another window is gone to": """
> start
listening on quay: 18 bindings
> tap super+b
super+b: berths (Berth board) is launched and in front
> slow charts 3s
> tap super+o b
> tap super+b
super+b: berths (Berth board) is in front already
> pass 3s
super+o b: charts (Charts of the approaches) is launched and in front
place: charts (Charts of the approaches) is at right 1/2
""",
    "a program that fails is told of at once": """
> start
listening on quay: 18 bindings
> fails charts
> tap super+o b
super+o b: go charts: charts ended with status 3 before it showed a window
> shown
failed: charts ended with status 3 before it showed a window
""",
    "Escape that somebody else has is no matter": """
> start
listening on quay: 18 bindings
> take escape for berthd
> tap super+o
> state
> tap b
super+o b: charts (Charts of the approaches) is launched and in front
place: charts (Charts of the approaches) is at right 1/2
""",
    "keys": """
> start
listening on quay: 18 bindings
> tap super+b
super+b: berths (Berth board) is launched and in front
> tap super+b
super+b: berths (Berth board) is in front already
> tap super+q
> passed
super+q
> hold super+n
super+n: berths (Berth board) is nudged right: 1100x700 at 10,40
> repeat super+n
> repeat super+n
> release super+n
> tap super+n
super+n: berths (Berth board) is nudged right: 1100x700 at 40,40
> tap super+z
super+z: undone: nudge right 10px (1 window put back)
> tap super+z
super+z: undone: nudge right 10px (1 window put back)
> tap super+n
super+n: berths (Berth board) is nudged right: 1100x700 at 10,40
> hold super+h
> release super+h
super+h: no window is out of reach
> end
stopped: all chords are free again
""",
    "a layer": """
> start
listening on quay: 18 bindings
> tap super+w
layer tidy is on
> shown
layer tidy is on
> tap b
b: berths (Berth board) is launched and in front
> tap x
> passed
> state
layer tidy, keyboard a layer is on
> tap escape
no layer is on
> tap b
> passed
b
""",
    "a layer that ends after a time": """
> start
listening on quay: 18 bindings
> tap super+e
layer short is on
> pass 3s
> tap b
no layer is on
b: berths (Berth board) is launched and in front
> tap super+e
layer short is on
> pass 6s
no layer is on
> tap b
> passed
b
> tap super+e
layer short is on
> tap super+b
super+b: berths (Berth board) is in front already
no layer is on
> state
""",
    "a sequence": """
> start
listening on quay: 18 bindings
> tap super+o b
super+o b: charts (Charts of the approaches) is launched and in front
place: charts (Charts of the approaches) is at right 1/2
> tap super+o
> tap escape
> tap b
> passed
b
> tap super+o
> pass 3s
> tap b
> passed
b
> tap super+o super+b
super+b: berths (Berth board) is launched and in front
> hold super+o
> write bindings: {super+o: gather}
> reload
reloaded: 1 binding
> tap super+o
super+o: no window is out of reach
""",
    "scopes": """
> start
listening on quay: 18 bindings
> tap ctrl+e
> passed
ctrl+e
> tap super+b
super+b: berths (Berth board) is launched and in front
> tap ctrl+e
ctrl+e: berths (Berth board) is at left 1/2
> passed
> tap super+r
super+r: radio (Radio log) is launched and in front
> tap ctrl+e
> passed
ctrl+e
> user focuses berth-board
> tap ctrl+e
ctrl+e: berths (Berth board) is at left 1/2 already
""",
    "reload": """
> start
listening on quay: 18 bindings
> write bindings: {super+b: gather}
> reload
reloaded: 1 binding
> tap super+b
super+b: no window is out of reach
> write bindings: {super+b: gathr}
> reload
:1:21: error JK301: no action is called 'gathr'; did you mean gather?
the old config stays in use
> tap super+b
super+b: no window is out of reach
> shown
failed: the config was not reloaded: :1:21: error JK301: no action is called 'gathr'; did you mean gather?
> write bindings: [
> reload
:1:12: error JK101: this does not parse as YAML: did not find expected node content; check indentation, quotes and brackets around here
the old config stays in use
""",
    "reload in a layer": """
> start
listening on quay: 18 bindings
> tap super+w
layer tidy is on
> reload
reloaded: 18 bindings
no layer is on
> state
> tap b
> passed
b
""",
    "files that change": """
> start
listening on quay: 18 bindings
> edit bindings: {super+b: gather}
> pass 0.2s
> edit bindings: {super+b: gaps off}
> pass 0.2s
> pass 0.2s
reloaded: 1 binding
> tap super+b
super+b: gaps are off
""",
    "refusals": """
> start
listening on quay: 18 bindings
> take super+b for berthd
super+b cannot be used: berthd holds it
> tap super+b
> passed
super+b
> state
refused {'super+b': 'berthd holds it'}
> take super+b
super+b can be used now
> tap super+b
super+b: berths (Berth board) is launched and in front
> tap super+w
layer tidy is on
> take super+b for berthd
> state
layer tidy, keyboard a layer is on
> tap escape
super+b cannot be used: berthd holds it
no layer is on
> state
refused {'super+b': 'berthd holds it'}
> tap super+w
layer tidy is on
> take super+b
> tap escape
no layer is on
> tap super+b
super+b: berths (Berth board) is in front already
""",
    "lost chords": """
> start
listening on quay: 18 bindings
> lose super+b
super+b: it waited too long to be judged, and went to the program in front
> tap super+b
super+b: berths (Berth board) is launched and in front
""",
    "followers": """
> start
listening on quay: 18 bindings
> connect
> ask follow
{"following": true}
> tap super+b
super+b: berths (Berth board) is launched and in front
> hear
{"action": "go berths", "done": true, "keys": "super+b", "line": "berths (Berth board) is launched and in front", "what": "action"}
{"event": "opens", "name": "berths", "what": "happened", "window": 1}
{"event": "focus", "name": "berths", "what": "happened", "window": 1}
> tap super+w
layer tidy is on
> hear
{"action": "enter tidy", "done": true, "keys": "super+w", "line": "layer tidy is on", "what": "action"}
{"layer": "tidy", "what": "layer"}
> user opens charts
place: charts (Charts of the approaches) is at right 1/2
> hear
{"event": "opens", "name": "charts", "what": "happened", "window": 2}
{"event": "focus", "name": "charts", "what": "happened", "window": 2}
{"action": "place right 1/2", "done": true, "keys": "", "line": "charts (Charts of the approaches) is at right 1/2", "what": "action"}
> user closes charts
> hear
{"event": "closes", "name": "charts", "what": "happened", "window": null}
{"event": "focus", "name": "berths", "what": "happened", "window": 1}
> tap escape
no layer is on
> hear
{"layer": "", "what": "layer"}
> ask act {"action": "go radio"}
go: radio (Radio log) is launched and in front
{"action": "go radio", "done": true, "keys": "", "line": "radio (Radio log) is launched and in front", "what": "action"}
{"done": true, "line": "radio (Radio log) is launched and in front", "more": [], "told": []}
{"event": "opens", "name": "radio", "what": "happened", "window": 3}
{"event": "focus", "name": "radio", "what": "happened", "window": 3}
> ask act {"action": "go nosuch"}
{"data": {"remedy": "add it to `apps` in the config", "status": 2}, "message": "no app is called 'nosuch'"}
> ask act {"action": "enter tidy"}
{"data": {"remedy": "bind it under `bindings`", "status": 2}, "message": "only a key can do 'enter', while a listener runs"}
> ask act {"action": "kill radio"}
{"data": {"remedy": "add {\\"sure\\": true} if that is meant"}, "message": "this can lose work"}
> ask act {"action": "kill radio", "sure": true}
kill: radio (Radio log) is killed
{"action": "kill radio", "done": true, "keys": "", "line": "radio (Radio log) is killed", "what": "action"}
{"done": true, "line": "radio (Radio log) is killed", "more": [], "told": []}
{"event": "closes", "name": "radio", "what": "happened", "window": null}
{"event": "focus", "name": "berths", "what": "happened", "window": 1}
> ask desk
{"windows": 1}
> ask pause
paused: keys and events are let be
{"failed": false, "text": "paused: keys and events are let be", "what": "notice"}
{"paused": true}
> tap super+b
> passed
super+b
> ask resume
listening again
{"failed": false, "text": "listening again", "what": "notice"}
{"paused": false}
> ask nothing
{"message": "there is no method 'nothing'"}
""",
    "nobody follows": """
> start
listening on quay: 18 bindings
> connect
> tap super+b
super+b: berths (Berth board) is launched and in front
> user opens charts
place: charts (Charts of the approaches) is at right 1/2
> hear
> ask layouts
{"layouts": [], "stands": ""}
""",
    "macros": """
> start
listening on quay: 18 bindings
> tap super+m
> state
under_way ['run morning']
> tap super+b
super+b: berths (Berth board) is launched and in front
> tap super+m
super+m: run morning: run morning was stopped by its own chord
> tap super+m
> tap escape
super+m: run morning: run morning was stopped
> tap super+m
> pass 4s
high water
super+m: morning is done: 2 steps
> shown
high water
> tap super+v
super+v: what was under way is stopped
""",
    "events": """
> start
listening on quay: 18 bindings
> user opens radio-log
> user opens charts
place: charts (Charts of the approaches) is at right 1/2
> pass 700s
nobody is here
> tap super+p
paused: keys and events are let be
super+p: a pause begins, or is over
> user opens charts
> tap super+p
listening again
super+p: a pause begins, or is over
""",
    "a desk that gives no key back": """
> start pass on
listening on quay: 18 bindings
> tap ctrl+e
> passed
ctrl+e
> tap super+b
super+b: berths (Berth board) is launched and in front
> tap ctrl+e
ctrl+e: berths (Berth board) is at left 1/2
> passed
> tap super+r
super+r: radio (Radio log) is launched and in front
> tap ctrl+e
> passed
ctrl+e
> tap super+o super+r b
super+r: radio (Radio log) is in front already
> passed
b
""",
    "a desk that cannot everything": """
> start pass on, whole keyboard, at once
this desktop cannot hold a key back and give it to the program after all; ctrl+e would need that
this desktop cannot give the whole keyboard to a layer; super+w, super+e, b (tidy), q (tidy) and b (short) would need that
this desktop cannot let other chords be heard from one moment to the next; super+w, super+e, super+o b, b (tidy), q (tidy) and b (short) would need that
listening on quay: 11 of 18 bindings
> tap ctrl+e
> passed
ctrl+e
> tap super+w
> passed
super+w
> tap super+b
super+b: berths (Berth board) is launched and in front
""",
    "a desk that asks the user": """
> start unasked
super+b, super+e, super+h and 12 more chords cannot be used: the user is asked for it still
listening on quay: 3 of 18 bindings
> tap super+b
> passed
super+b
> agree
super+b, super+e, super+h and 12 more chords can be used now
> tap super+b
super+b: berths (Berth board) is launched and in front
""",
    "a desk that goes away": """
> start
listening on quay: 18 bindings
> tap super+b
super+b: berths (Berth board) is launched and in front
> goes
ended: the X server has gone away
""",
    "a fault of our own": """
> start
listening on quay: 18 bindings
> break keys
> tap super+b ctrl+e
key super+b: this is a fault in Jaklet itself: ZeroDivisionError: of all things
key super+b: this is a fault in Jaklet itself: ZeroDivisionError: of all things
key ctrl+e: this is a fault in Jaklet itself: ZeroDivisionError: of all things
key ctrl+e: this is a fault in Jaklet itself: ZeroDivisionError: of all things
> passed
ctrl+e
""",
}


@pytest.mark.parametrize("name", CASES)
def test_a_listener_does_as_the_transcript_says(name: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
    scripted = Scripted(tmp_path, TEXT)
    try:
        assert scripted.run(CASES[name]) == CASES[name].strip()
    finally:
        scripted.close()


def test_what_is_shown_of_a_layer_ends_when_its_config_is_replaced(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
    one, shown = Scripted(tmp_path, TEXT), list[str]()
    one.run("> start")
    monkeypatch.setattr(one.listener.screen, "follow", lambda state, _desk: shown.append(state.layer))
    one.run("> tap super+w\n> edit bindings: {super+b: gather}\n> pass 5s")
    one.close()
    assert list(dict.fromkeys(shown)) == ["tidy", ""]
