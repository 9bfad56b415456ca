"""What each action answers and does on the harbour office's desk, as transcripts that were worked out by hand.

The desk: `main` 2560x1440 with a bar of 40 pixels at its top, `quay` 1920x1080 at its right; gaps and rims of 8 pixels.
Letters go by steps of 9x18 pixels and are minimised where others are closed; charts are brought here; the ledger fails, and
the tide gauge never shows a window; that of the pilots' notes takes no other size.
A line `> ` is an action, `! ` one that fails; its answer follows, and each window that has changed.
"""

from dataclasses import replace
from typing import Any

import pytest

from jaklet.core.values.apps import App, exactly
from jaklet.core.values.desk import Desk
from jaklet.rehearsal.memory import RehearsedHistory
from tests.core.test_recall import CONFIG, Table

APPS = {name.partition("-")[0]: app._replace(name=name.partition("-")[0]) for name, app in CONFIG.apps.items()}
APPS["charts"] = APPS["charts"]._replace(bring_here=True)
APPS["letters"] = APPS["letters"]._replace(stays=True)
APPS["pilot"] = App("pilot", ("pilot-notes",), (exactly(cls="PilotNotes"),))
TROUBLE: dict[str, dict[str, Any]] = {
    "ledger": {"fails": 3, "says": "no ink"},
    "tide-gauge": {"silent": True},
    "pilot-notes": {"stubborn": True},
}
SCENES = {
    "one window": """
! place left 1/2
no window has the focus
! spread columns
no window is in view on main
! spread grid on quay
no window is in view on quay
> launch berth
berth (Berth board) is launched and in front
= 1 berth-board 0,40 1100x700
= focus 1
> spread columns
berth (Berth board) has main to itself
= 1 berth-board 8,48 2544x1384
> place left 2/3
berth (Berth board) is at left 2/3
= 1 berth-board 8,48 1693x1384
> place left 2/3
berth (Berth board) is at left 2/3 already
> place left 1/2, left 1/3, left 2/3
berth (Berth board) is at left 1/2
= 1 berth-board 8,48 1268x1384
> place left 1/2, left 1/3, left 2/3
berth (Berth board) is at left 1/3
= 1 berth-board 8,48 843x1384
> place left 1/2, left 1/3, left 2/3
berth (Berth board) is at left 2/3
= 1 berth-board 8,48 1693x1384
> place left 1/2, left 1/3, left 2/3
berth (Berth board) is at left 1/2
= 1 berth-board 8,48 1268x1384
> nudge right 50px
berth (Berth board) is nudged right: 1268x1384 at 58,48
= 1 berth-board 58,48 1268x1384
> place left 1/2, left 1/3, left 2/3
berth (Berth board) is at left 1/2
= 1 berth-board 8,48 1268x1384
> place top 1/4 on quay
berth (Berth board) is as near to top 1/4 on quay as its least size lets it: 1904x320
= 1 berth-board 2568,8 1904x320
! place full on pier
display pier is not there
  displays: main, quay
> nudge left
nothing to do: the window is as far left as it goes
> nudge left 4000px
nothing to do: the window is as far left as it goes
> nudge down 10px
berth (Berth board) is nudged down: 1904x320 at 2568,18
= 1 berth-board 2568,18 1904x320
> stretch right 5%
nothing to do: the window is as far right as it goes
> stretch up 100px
berth (Berth board) is stretched up: 1904x330 at 2568,8
= 1 berth-board 2568,8 1904x330
> stretch down 9999px
berth (Berth board) is stretched down: 1904x1064 at 2568,8
= 1 berth-board 2568,8 1904x1064
> shrink up 5000px
berth (Berth board) is shrunk up: 1904x320 at 2568,752
= 1 berth-board 2568,752 1904x320
> shrink right 30px
berth (Berth board) is shrunk right: 1874x320 at 2568,752
= 1 berth-board 2568,752 1874x320
> spread columns
berth (Berth board) has quay to itself
= 1 berth-board 2568,8 1904x1064
> undo
undone: spread columns (1 window put back)
= 1 berth-board 2568,752 1874x320
> undo
undone: shrink right 30px (1 window put back)
= 1 berth-board 2568,752 1904x320
> maximise
berth (Berth board) is maximised
= 1 berth-board 2560,0 1920x1080 maximised
> maximise
berth (Berth board) is maximised already
> nudge left
berth (Berth board) is nudged left: 1904x1064 at 2568,8
= 1 berth-board 2568,8 1904x1064
> place right 1/2
berth (Berth board) is at right 1/2
= 1 berth-board 3524,8 948x1064
> fullscreen
berth (Berth board) is fullscreen
= 1 berth-board 2560,0 1920x1080 fullscreen
> fullscreen
berth (Berth board) is restored
= 1 berth-board 3524,8 948x1064
> restore
berth (Berth board) is restored already
> restore
berth (Berth board) is restored already
> minimise
berth (Berth board) is minimised
= 1 berth-board 3524,8 948x1064 minimised
= focus none
> minimise berth
berth (Berth board) is minimised already
> restore berth
berth (Berth board) is restored
= 1 berth-board 3524,8 948x1064
= focus 1
> keep above
berth (Berth board) is kept above
= 1 berth-board 3524,8 948x1064 above
> keep above on
berth (Berth board) is kept above already
> keep above off
berth (Berth board) is not kept above
= 1 berth-board 3524,8 948x1064
> keep above off
berth (Berth board) is not kept above
> gaps
gaps are off, 1 window moved
= 1 berth-board 3520,0 960x1080
> gaps on
gaps are on, 1 window moved
= 1 berth-board 3524,8 948x1064
> gaps on
gaps are on
> gather
no window is out of reach
> shrink left 5000px
berth (Berth board) is shrunk left: 480x1064 at 3992,8
= 1 berth-board 3992,8 480x1064
> stretch left 50%
berth (Berth board) is stretched left: 1440x1064 at 3032,8
= 1 berth-board 3032,8 1440x1064
> shrink down 20px
berth (Berth board) is shrunk down: 1440x1044 at 3032,8
= 1 berth-board 3032,8 1440x1044
> nudge up 5px
nothing to do: the window is as far up as it goes
> nudge right 20px
nothing to do: the window is as far right as it goes
> place at 300,10 size 700x600
berth (Berth board) is at 300,10 size 700x600
= 1 berth-board 2860,10 700x600
> place centre 50% x 50%
berth (Berth board) is at centre 50% x 50%
= 1 berth-board 3046,276 948x528
> place cells B2:C2 of 4x2
berth (Berth board) is at cells B2:C2 of 4x2
= 1 berth-board 3046,544 948x528
> place column 2 of 3
berth (Berth board) is at column 2 of 3
= 1 berth-board 3205,8 630x1064
> place columns 2-3 of 3
berth (Berth board) is at columns 2-3 of 3
= 1 berth-board 3205,8 1267x1064
> place row 2 of 2
berth (Berth board) is at row 2 of 2
= 1 berth-board 2568,544 1904x528
> place left 1/2 bottom 1/2
berth (Berth board) is at left 1/2 bottom 1/2
= 1 berth-board 2568,544 948x528
> place bottom 400px
berth (Berth board) is at bottom 400px
= 1 berth-board 2568,672 1904x400
> place same place on main
berth (Berth board) is at same place on main
= 1 berth-board 8,712 1904x400
> send to display next
berth (Berth board) is on quay
= 1 berth-board 2568,672 1904x400
> send to display previous
berth (Berth board) is on main
= 1 berth-board 8,712 1904x400
""",
    "two windows": """
> launch berth
berth (Berth board) is launched and in front
= 1 berth-board 0,40 1100x700
= focus 1
> pair left
berth (Berth board) is at the left, and the rest is free
= 1 berth-board 8,48 1268x1384
> launch radio
radio (Radio log) is launched and in front
= 2 radio-log 32,72 700x500
= focus 2
> pair left 2/3
radio (Radio log) is at the left, berth (Berth board) at the right
= 1 berth-board 1709,48 843x1384
= 2 radio-log 8,48 1693x1384
> pair up
radio (Radio log) is at the top, berth (Berth board) at the bottom
= 1 berth-board 8,744 2544x688
= 2 radio-log 8,48 2544x688
! swap left
no window is to the left
! swap right
no window is to the right
> swap last
radio (Radio log) and berth (Berth board) have changed places
= 1 berth-board 8,48 2544x688
= 2 radio-log 8,744 2544x688
> swap next
radio (Radio log) and berth (Berth board) have changed places
= 1 berth-board 8,744 2544x688
= 2 radio-log 8,48 2544x688
> swap largest
radio (Radio log) and berth (Berth board) have changed places
= 1 berth-board 8,48 2544x688
= 2 radio-log 8,744 2544x688
> swap up
radio (Radio log) and berth (Berth board) have changed places
= 1 berth-board 8,744 2544x688
= 2 radio-log 8,48 2544x688
! swap window 2
there is no other window 2
> send to display next
radio (Radio log) is on quay
= 2 radio-log 2568,8 1904x528
> send to display next
radio (Radio log) is on main
= 2 radio-log 8,48 2544x688
> send to display right
radio (Radio log) is on quay
= 2 radio-log 2568,8 1904x528
! send to display right
no display is to the right
> send to display left
radio (Radio log) is on main
= 2 radio-log 8,48 2544x688
> send to display quay
radio (Radio log) is on quay
= 2 radio-log 2568,8 1904x528
! send to display pier
display pier is not there
  displays: main, quay
> send berth to display quay
berth (Berth board) is on quay
= 1 berth-board 2568,544 1904x528
! send letters to display quay
letters has no window
> swap last
radio (Radio log) and berth (Berth board) have changed places
= 1 berth-board 2568,8 1904x528
= 2 radio-log 2568,544 1904x528
> focus last
berth (Berth board) is in front
= focus 1
! focus left
no window is to the left
! focus left
no window is to the left
> focus berth
berth (Berth board) is in front
! focus tide
tide has no window
  `go tide` launches it
> spread rows on quay
2 windows share quay in rows already
! spread rows on main
no window is in view on main
> minimise others
1 window minimised
= 2 radio-log 2568,544 1904x528 minimised
> restore all
1 window shown again
= 2 radio-log 2568,544 1904x528
= focus 2
> restore all
no window is minimised here
> minimise all
2 windows minimised
= 1 berth-board 2568,8 1904x528 minimised
= 2 radio-log 2568,544 1904x528 minimised
= focus none
> minimise all
no window is in view
! focus down
no window is in view
> restore all
2 windows shown again
= 1 berth-board 2568,8 1904x528
= 2 radio-log 2568,544 1904x528
= focus 2
> keep above
radio (Radio log) is kept above
= 2 radio-log 2568,544 1904x528 above
> sweep above
radio (Radio log) is closed
= 2 radio-log 2568,544 1904x528 above is gone
= focus 1
> sweep above
no window in view is kept above
""",
    "workspaces": """
> launch berth
berth (Berth board) is launched and in front
= 1 berth-board 0,40 1100x700
= focus 1
> send to workspace 3
berth (Berth board) is on workspace 3
= 1 berth-board 0,40 1100x700 on 3
= focus none
> send berth to workspace 2
berth (Berth board) is on workspace 2
= 1 berth-board 0,40 1100x700 on 2
> workspace 2
workspace 2 is shown
= workspace 2
> workspace 2
workspace 2 is shown already
! workspace 2 or back
no window on another workspace was used before
  name the workspace
! workspace last
no window on another workspace was used before
  name the workspace
! workspace last
no window on another workspace was used before
  name the workspace
! send to workspace all
no window has the focus
! workspace 9
there is no workspace 9: there are 4
  write `missing workspaces: create` under `settings` to have it made
> workspace next
workspace 3 is shown
= workspace 3
> workspace previous
workspace 2 is shown
= workspace 2
> go berth
berth (Berth board) is in front
= focus 1
! send to workspace 9
there is no workspace 9: there are 4
  write `missing workspaces: create` under `settings` to have it made
> send to workspace all
berth (Berth board) is on all workspaces
= 1 berth-board 0,40 1100x700 on None
> send to workspace all
berth (Berth board) is on all workspaces already
! send to workspace last
no window on another workspace was used before
  name the workspace
> workspace 1
workspace 1 is shown
= workspace 1
> send to workspace previous
berth (Berth board) is on workspace 4
= 1 berth-board 0,40 1100x700 on 4
= focus none
> go berth
berth (Berth board) is in front
= focus 1
= workspace 4
> launch radio
radio (Radio log) is launched and in front
= 2 radio-log 32,72 700x500 on 4
= focus 2
> send to workspace next
radio (Radio log) is on workspace 1
= 2 radio-log 32,72 700x500
= focus 1
> go radio
radio (Radio log) is in front
= focus 2
= workspace 1
> go radio
radio (Radio log) is in front already
> workspace 1
workspace 1 is shown already
> focus radio
radio (Radio log) is in front
> undo
undone: send to workspace next (1 window put back)
= 2 radio-log 32,72 700x500 on 4
= workspace 4
> close
radio (Radio log) is closed
= 2 radio-log 32,72 700x500 on 4 is gone
= focus 1
> close
berth (Berth board) is closed
= 1 berth-board 0,40 1100x700 on 4 is gone
= focus none
! close all of berth
berth has no window
! close radio
radio has no window
! close all of radio
radio has no window
> go radio
radio (Radio log) is launched and in front
= 3 radio-log 0,40 700x500 on 4
= focus 3
> kill radio
radio (Radio log) is killed
= 3 radio-log 0,40 700x500 on 4 is gone
= focus none
! kill
no window has the focus
""",
    "going": """
> go berth
berth (Berth board) is launched and in front
= 1 berth-board 0,40 1100x700
= focus 1
> go berth
berth (Berth board) is in front already
> launch berth
berth (Berth board) is launched and in front
= 2 berth-board 32,72 1100x700
= focus 2
> launch berth
berth (Berth board) is launched and in front
= 3 berth-board 64,104 1100x700
= focus 3
> go berth
berth (Berth board) is in front
= focus 1
> go berth
berth (Berth board) is in front
= focus 2
> go berth backwards
berth (Berth board) is in front
= focus 1
> go berth or minimise
berth (Berth board) is in front
= focus 2
> go radio or minimise
radio (Radio log) is launched and in front
= 4 radio-log 96,136 700x500
= focus 4
> go radio or minimise
radio (Radio log) is minimised
= 4 radio-log 96,136 700x500 minimised
= focus 2
> go berth or minimise
berth (Berth board) is in front
= focus 3
> focus last
berth (Berth board) is in front
= focus 2
> focus next
berth (Berth board) is in front
= focus 3
> focus previous
berth (Berth board) is in front
= focus 2
> focus window 2
berth (Berth board) is in front
! focus window 77
there is no window 77
> minimise
berth (Berth board) is minimised
= 2 berth-board 32,72 1100x700 minimised
= focus 3
> go radio
radio (Radio log) is in front
= 4 radio-log 96,136 700x500
= focus 4
> close all of berth
3 windows closed
  berth (Berth board)
  berth (Berth board)
  berth (Berth board)
= 1 berth-board 0,40 1100x700 is gone
= 2 berth-board 32,72 1100x700 minimised is gone
= 3 berth-board 64,104 1100x700 is gone
! float
only a listener can do it, as it is kept from then on
  start one: jaklet listen
! keep arranged columns
only a listener can do it, as it is kept from then on
  start one: jaklet listen
! run morning
no macro is called 'morning'
  add it to `macros` in the config
> enter tidy
layer tidy is on
> leave
no layer is on
> pause
a pause begins, or is over
> resume
listening
> stop
what was under way is stopped
> tell "high water"
high water
> wait 200ms
0.2 s are over
> wait for radio up to 1s
it is so: radio
! wait for berth up to 1s
berth did not come within 1 s
> undo
undone: minimise (all stood as before)
  gone since, and left out: berth (Berth board)
""",
    "ways of apps": """
! go ledger
ledger ended with status 3 before it showed a window
  it said: no ink
! go tide
tide was launched but showed no window within 2 s
> launch letters
letters (Letters) is launched and in front
= 1 letters 0,40 792x900
= focus 1
> place left 1/2
letters (Letters) is at left 1/2
= 1 letters 8,48 1260x1368
> stretch right 1px
letters (Letters) is stretched right: 1269x1368 at 8,48
= 1 letters 8,48 1269x1368
> stretch right 10px
letters (Letters) is stretched right: 1278x1368 at 8,48
= 1 letters 8,48 1278x1368
> shrink down 1px
letters (Letters) is shrunk down: 1278x1350 at 8,48
= 1 letters 8,48 1278x1350
> nudge down 1px
letters (Letters) is nudged down: 1278x1350 at 8,49
= 1 letters 8,49 1278x1350
> launch charts
charts (Charts of the approaches) is launched and in front
= 2 charts 32,72 1200x900
= focus 2
> place right 1/3 on quay
charts (Charts of the approaches) is at right 1/3 on quay
= 2 charts 3843,8 629x1064
> maximise
charts (Charts of the approaches) is maximised
= 2 charts 2560,0 1920x1080 maximised
> send to display main
charts (Charts of the approaches) is on main
= 2 charts 0,40 2560x1400 maximised
> swap last
charts (Charts of the approaches) and letters (Letters) have changed places
= 1 letters 0,40 2560x1400 maximised
= 2 charts 8,49 1278x1350
> undo
undone: swap last (2 windows put back)
= 1 letters 8,49 1278x1350
= 2 charts 0,40 2560x1400 maximised
> send to workspace 3
charts (Charts of the approaches) is on workspace 3
= 2 charts 0,40 2560x1400 maximised on 3
= focus 1
> go charts
charts (Charts of the approaches) is in front
= 2 charts 0,40 2560x1400 maximised
= focus 2
> workspace 3
workspace 3 is shown
= focus none
= workspace 3
> go charts
charts (Charts of the approaches) is in front
= 2 charts 0,40 2560x1400 maximised on 3
= focus 2
> restore charts
charts (Charts of the approaches) is restored
= 2 charts 8,49 1278x1350 on 3
> send to display quay
charts (Charts of the approaches) is on quay
= 2 charts 2568,0 1278x1080 on 3
> workspace 1
workspace 1 is shown
= focus 1
= workspace 1
> go letters
letters (Letters) is in front already
> go charts
charts (Charts of the approaches) is in front
= 2 charts 8,40 1278x1080
= focus 2
> close letters
letters (Letters) is minimised, as its app says
= 1 letters 8,49 1278x1350 minimised
> close all of letters
letters (Letters) is minimised, as its app says
> go letters
letters (Letters) is in front
= 1 letters 8,49 1278x1350
= focus 1
> fullscreen
letters (Letters) is fullscreen
= 1 letters 0,0 2560x1440 fullscreen
> go charts
charts (Charts of the approaches) is in front
= focus 2
> minimise letters
letters (Letters) is minimised
= 1 letters 0,0 2560x1440 fullscreen minimised
> restore letters
letters (Letters) is restored
= 1 letters 0,0 2560x1440 fullscreen
= focus 1
> restore
letters (Letters) is restored
= 1 letters 8,49 1278x1350
> spread columns
2 windows share main in columns
= 1 letters 1292,48 1260x1368
= 2 charts 8,48 1276x1384
> pair left
letters (Letters) is at the left, charts (Charts of the approaches) at the right
= 1 letters 8,48 1260x1368
= 2 charts 1276,48 1276x1384
! pair right 1/3 with window 1
a window is no pair by itself
> focus right
charts (Charts of the approaches) is in front
= focus 2
> focus left
letters (Letters) is in front
= focus 1
! focus up
no window is above
> kill letters
letters (Letters) is killed
= 1 letters 8,48 1260x1368 is gone
= focus 2
""",
    "windows that refuse": """
> go pilot
pilot (Notes of the pilots) is launched and in front
= 1 pilot-notes 0,40 500x400
= focus 1
! place left 1/2
pilot (Notes of the pilots) is as near to left 1/2 as it goes
  pilot (Notes of the pilots) took no other size than 500x400
= 1 pilot-notes 8,48 500x400
! place right 1/3 on quay
pilot (Notes of the pilots) is as near to right 1/3 on quay as it goes
  pilot (Notes of the pilots) took no other size than 500x400
= 1 pilot-notes 3972,8 500x400
> spread columns
pilot (Notes of the pilots) has quay to itself
  pilot (Notes of the pilots) took no other size than 500x400
= 1 pilot-notes 2568,8 500x400
> launch berth
berth (Berth board) is launched and in front
= 2 berth-board 32,72 1100x700
= focus 2
> spread columns
berth (Berth board) has main to itself
= 2 berth-board 8,48 2544x1384
> pair left 2/3
berth (Berth board) is at the left, pilot (Notes of the pilots) at the right
  pilot (Notes of the pilots) took no other size than 500x400
= 1 pilot-notes 2052,48 500x400
= 2 berth-board 8,48 2036x1384
! swap last
berth (Berth board) and pilot (Notes of the pilots) have changed places
  pilot (Notes of the pilots) was asked to be 2036x1384 at 8,48 and is 500x400 at 8,48
= 1 pilot-notes 8,48 500x400
= 2 berth-board 2052,48 500x400
> stretch right 50px
nothing to do: the window is as far right as it goes
> maximise
berth (Berth board) is maximised
= 2 berth-board 0,40 2560x1400 maximised
> gaps off
gaps are off
> gaps on
gaps are on
> undo
undone: gaps on
""",
    "layouts": """
> save bay
saved bay: no window; recalling it clears the desk
> launch berth
berth (Berth board) is launched and in front
= 1 berth-board 0,40 1100x700
= focus 1
> place left 1/2
berth (Berth board) is at left 1/2
= 1 berth-board 8,48 1268x1384
> launch radio
radio (Radio log) is launched and in front
= 2 radio-log 32,72 700x500
= focus 2
> place right 1/2
radio (Radio log) is at right 1/2
= 2 radio-log 1284,48 1268x1384
> save 1
saved layout 1 (number 1): 2 windows on 1 display
  place: radio right 1/2 on main, berth left 1/2 on main
  workspace: 1
  order: radio, berth
  focus: radio
  state: all normal
> save bay
saved bay: 2 windows on 1 display
  place: radio right 1/2 on main, berth left 1/2 on main
  workspace: 1
  order: radio, berth
  focus: radio
  state: all normal
> nudge left
radio (Radio log) is nudged left: 1268x1384 at 1244,48
= 2 radio-log 1244,48 1268x1384
> focus berth
berth (Berth board) is in front
= focus 1
> recall bay
recalled bay: 2 of 2 windows in place, 1 moved, focus: radio
= 2 radio-log 1284,48 1268x1384
= focus 2
> recall bay
recalled bay: 2 of 2 windows in place, nothing to move, focus: radio
> close radio
radio (Radio log) is closed
= 2 radio-log 1284,48 1268x1384 is gone
= focus 1
> recall bay
recalled bay: 2 of 2 windows in place, 1 program launched in 0.2 s, focus: radio
= 3 radio-log 1284,48 1268x1384
= focus 3
> recall last
recalled layout 1: 2 of 2 windows in place, nothing to move, focus: radio
! recall pier
no layout is called 'pier'
  save one with: jaklet layout save pier
! recall home
no layout is the one to return to
  write `home: true` in one of them
> minimise all
2 windows minimised
= 1 berth-board 8,48 1268x1384 minimised
= 3 radio-log 1284,48 1268x1384 minimised
= focus none
> save low
saved low: 2 windows on 1 display
  place: radio right 1/2 on main, berth left 1/2 on main
  workspace: 1
  order: radio, berth
  focus: nothing has it
  state: radio minimised, berth minimised
> recall bay
recalled bay: 2 of 2 windows in place, 2 moved, focus: radio
= 1 berth-board 8,48 1268x1384
= 3 radio-log 1284,48 1268x1384
= focus 3
> recall low
recalled low: 2 of 2 windows in place, 2 moved, focus: as it was
= 1 berth-board 8,48 1268x1384 minimised
= 3 radio-log 1284,48 1268x1384 minimised
= focus none
> recall last
recalled bay: 2 of 2 windows in place, 2 moved, focus: radio
= 1 berth-board 8,48 1268x1384
= 3 radio-log 1284,48 1268x1384
= focus 3
> recall last
recalled low: 2 of 2 windows in place, 2 moved, focus: as it was
= 1 berth-board 8,48 1268x1384 minimised
= 3 radio-log 1284,48 1268x1384 minimised
= focus none
> undo
undone: recall last (2 windows put back)
= 1 berth-board 8,48 1268x1384
= 3 radio-log 1284,48 1268x1384
= focus 3
> undo
undone: recall last (2 windows put back)
= 1 berth-board 8,48 1268x1384 minimised
= 3 radio-log 1284,48 1268x1384 minimised
= focus none
""",
}


def windows(desk: Desk) -> dict[int, str]:
    """Return each window in words of its own data."""
    told = {}
    for one in desk.windows:
        x, y, width, height = one.frame
        marks = [one.shape.value] if one.shape.value != "normal" else []
        marks += ["minimised"] if one.minimised else []
        marks += ["above"] if one.above else []
        marks += [f"on {one.workspace}"] if one.workspace != 1 else []
        told[one.id] = " ".join([f"{one.id} {one.instance}", f"{x},{y} {width}x{height}", *marks])
    return told


def played(scene: str) -> list[str]:
    """Return the scene with what is answered and done."""
    table = Table(replace(CONFIG, apps=APPS, settings=CONFIG.settings._replace(wait=2)))
    table.history = RehearsedHistory()
    programs = table.desktop.room.programs
    table.desktop.room.programs = {name: replace(one, **TROUBLE.get(name, {})) for name, one in programs.items()}
    lines = []
    for line in scene.strip().splitlines():
        if not line.startswith(("> ", "! ")):
            continue
        before, desk = windows(table.desk()), table.desk()
        end = table.act(line[2:])
        after, now = windows(table.desk()), table.desk()
        lines += [f"{'>' if end.done else '!'} {line[2:]}", end.line, *(f"  {one}" for one in end.more)]
        lines += [f"= {told}" for wid, told in after.items() if before.get(wid) != told]
        lines += [f"= {told} is gone" for wid, told in before.items() if wid not in after]
        lines += [f"= focus {now.active or 'none'}"] if now.active != desk.active else []
        lines += [f"= workspace {now.workspace}"] if now.workspace != desk.workspace else []
    return lines


@pytest.mark.parametrize("scene", SCENES.values(), ids=SCENES)
def test_an_action_says_and_does_what_was_worked_out_by_hand(scene: str) -> None:
    assert played(scene) == scene.strip().splitlines()
