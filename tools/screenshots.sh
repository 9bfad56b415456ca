#!/usr/bin/env bash
# Take a picture of each main command's output, on the demo's files, in a real terminal window of 1280x800.
# Needs: xvfb xterm imagemagick fonts-dejavu-core metacity x11-utils chromium kwin-wayland, and `jaklet` on PATH. Run: make screenshots
set -eu
out=$(realpath "$1")
tools=$(dirname "$(realpath "$0")")
work=$(mktemp -d)
server=
trap 'kill $server 2>/dev/null || true; rm -rf "$work"' EXIT
for number in $(seq 170 270); do [ -e "/tmp/.X11-unix/X$number" ] || break; done
Xvfb ":$number" -screen 0 1280x8000x24 -nolisten tcp -noreset >/dev/null 2>&1 & server=$!
for _ in $(seq 100); do [ -S "/tmp/.X11-unix/X$number" ] && break; sleep 0.1; done

jaklet demo --write "$work/harbour" >/dev/null
cd "$work/harbour"
export JAKLET_CONFIG=jaklet.yaml JAKLET_DESK=tabletop:tabletop.yaml XDG_STATE_HOME="$work/state" PS1='$ '

# What stands behind ## is done in the place of what is shown. A picture shows the beginning of what is printed, with its command: the terminal is as tall as it takes, and is cut.
shot() { # [DONE=SECONDS] [ROWS=N] shot NAME COMMANDS: type them into a terminal, wait until they are done, take its picture
  local name=$1 done="$work/done"
  shift
  rm -f "$done"
  printf '%s\n' "$@" > "$work/typed"
  cat > "$work/run" <<'RUN'
printf '\033[?25l'
while IFS= read -r line; do printf '\033[1m$ %s\033[0m\n' "${line%% ## *}"; bash -c "${line##* ## }" < /dev/tty; echo; done < "$1"
touch "$2"
sleep 60
RUN
  DISPLAY=":$number" TERM=xterm-256color xterm -fa 'DejaVu Sans Mono' -fs 10 -bg '#101418' -fg '#e6e6e6' \
    -geometry "157x${ROWS:-180}+0+0" -b 6 -e bash "$work/run" "$work/typed" "$done" & local term=$!
  for _ in $(seq $((${DONE:-60} * 10))); do [ -e "$done" ] && break; sleep 0.1; done
  sleep 0.5 # the terminal draws what it was sent
  DISPLAY=":$number" import -window root -crop 1280x800+0+0 +repage "$out/$name.png"
  kill $term 2>/dev/null || true
  wait $term 2>/dev/null || true
  echo "$out/$name.png"
}

shot check 'jaklet check first-try'
# An editor with findings, and a shell that knows the names.
DISPLAY=":$number" HOME="$work" xterm -fa 'DejaVu Sans Mono' -fs 10 -bg '#101418' -fg '#e6e6e6' -geometry 157x33+0+0 -b 6 \
  -e nvim -u NONE -n -S "$tools/editing_picture.lua" & term=$!
for _ in $(seq 300); do [ -e shown ] && break; sleep 0.1; done
DISPLAY=":$number" import -window root -crop 1280x556+0+0 +repage "$work/editor.png"
kill $term; wait $term 2>/dev/null || true
_JAKLET_COMPLETE=source_bash jaklet > "$work/completion"
printf '%s\n' 'PS1="$ "; bind "set bell-style none"; bind "set completion-query-items 0"; bind "set page-completions off"' ". $work/completion" > "$work/rc"
DONE=25 ROWS=16 shot shell "jaklet --show-completion ## python $tools/answering.py '$ ' $'jaklet layout recall \t\t\x03,jaklet act \"go \t\t\x03,jaklet keys why super+s\t\t\x03,jaklet check --for\tj\t\t\x03' bash --noprofile --rcfile $work/rc -i"
convert "$out/shell.png" -crop 1280x240+0+0 +repage "$work/shell.png"; rm "$out/shell.png"
convert "$work/editor.png" "$work/shell.png" -append "$out/while-writing.png"
echo "$out/while-writing.png"
shot keys 'jaklet keys draw --with super' 'jaklet keys half' 'jaklet keys for "recall arrivals"'
XDG_STATE_HOME=$PWD/state jaklet use --since 365d --out "$out/use.png" >/dev/null
echo "$out/use.png"
XDG_STATE_HOME=$PWD/state shot suggest 'jaklet keys suggest --changes 3'
shot practise "jaklet practise --new 6 ## python $tools/answering.py 'keys: ' 'super+b,super+r,super+k,?,super+c,super+shift+b' jaklet practise --new 6" 'jaklet keys --to-learn'
jaklet keys --out keys.html >/dev/null
chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --user-data-dir="$work/browser" --window-size=1280,800 \
  --screenshot="$out/keys-page.png" "file://$PWD/keys.html" >/dev/null 2>&1
echo "$out/keys-page.png"
shot keys-why 'jaklet keys why super+shift+1 --keyboard us --keyboard fr' 'jaklet keys why super+w' 'jaklet keys free --with super --hand left'
jaklet fire super+r super+right super+t super+q super+b super+left >/dev/null
jaklet act "go ledger" >/dev/null; jaklet act "place ledger right 1/2 on quay" >/dev/null; jaklet fire super+b >/dev/null
cp tabletop.yaml kept.yaml
printf -- '- {id: 9, program: letters, title: "Letter to the pilot", kind: dialog, parent: 1}\n- {id: 10, program: pilot-notes}\n' > more
sed -i '/^stacking:/,$d' tabletop.yaml; cat more >> tabletop.yaml
shot apps 'jaklet apps' 'jaklet apps suggest' 'jaklet pick apps ra --print'
mv kept.yaml tabletop.yaml; jaklet act "close ledger" >/dev/null
cp tabletop.yaml kept.yaml
shot place-draw 'jaklet place draw "left 2/3" "right 1/3" "centre 40% x 40%"'
for app in ledger letters charts; do jaklet act "go $app" >/dev/null; done
jaklet act "place tides at 300,500 size 700x700" >/dev/null
jaklet act "place ledger at 1200,120 size 900x700" >/dev/null
jaklet act "spread grid" >/dev/null
jaklet act "place charts at 9000,50 size 900x600" >/dev/null
jaklet act "keep letters above" >/dev/null
jaklet fire super+b super+up >/dev/null
shot desk-marks 'jaklet desk' 'jaklet act gather' 'jaklet undo'
mv kept.yaml tabletop.yaml
jaklet layout save departures --number 1 --note "Berths large, radio beside, tide gauge on quay" >/dev/null
jaklet layout copy departures "night watch" >/dev/null
jaklet layout save bay --app berths --active >/dev/null
jaklet layout remove bay >/dev/null
jaklet layout draw departures arrivals --before-after --figures --out "$out/layout-sheet.png" >/dev/null
jaklet act "place radio right 1/4" >/dev/null; jaklet layout save departures >/dev/null
jaklet act "go letters" >/dev/null; jaklet act "place letters bottom 1/3 on quay" >/dev/null; jaklet layout save departures --note "With letters" >/dev/null
jaklet act "close letters" >/dev/null; jaklet act "place radio right 1/3" >/dev/null; jaklet act "go berths" >/dev/null; jaklet layout save departures >/dev/null
shot layout-list 'jaklet layout list' 'jaklet layout show departures' 'jaklet layout history departures' 'jaklet layout diff departures@2 departures' 'jaklet layout history'
jaklet layout remove "night watch" >/dev/null
jaklet act "place berths at 700,300 size 900x600" >/dev/null
jaklet act "place radio full on quay" >/dev/null
jaklet act "close tides" >/dev/null
shot recall 'jaklet desk' 'jaklet layout recall departures --dry-run' 'jaklet fire super+1' 'jaklet layout recall 1'
jaklet demo --write fresh >/dev/null
export JAKLET_DESK=tabletop:fresh/tabletop.yaml
(cd fresh && python "$tools/overlay_pictures.py" "$out/overlay.png")
(unset DISPLAY; python "$tools/plasma_picture.py" "$work/plasma.png")
(unset DISPLAY; python "$tools/gnome_picture.py" "$work/plasma.png" "$out/wayland.png") && echo "$out/wayland.png"
sed -i 's/^trials: .*/&\n  the radio stays aside:\n    press: [super+r, super+left]\n    expect: [radio at right 1\/3 on main, front is radio, nothing lost]/' jaklet.yaml
shot rehearse 'jaklet trial' 'jaklet rehearse super+b super+left'
export JAKLET_DESK=x11 XDG_RUNTIME_DIR="$work" DISPLAY=":$number" PATH="$PWD/bin:$PATH" XDG_DATA_DIRS="$PWD/share:/usr/share"
sed -i 's/^  super+t: go tides/  super+t: go tides\n  super+f9: go harbour/; s/^apps:/apps:\n  harbour: {launch: "true", wait: 200ms}/' jaklet.yaml
metacity >/dev/null 2>&1 & manager=$!
for _ in $(seq 100); do xprop -root _NET_SUPPORTING_WM_CHECK 2>/dev/null | grep -q 'window id' && break; sleep 0.1; done
jaklet listen >/dev/null 2>&1 & listener=$!
for _ in $(seq 100); do jaklet status >/dev/null 2>&1 && break; sleep 0.1; done
cat > "$work/keys.py" <<'KEYS'
import sys, time
import xcffib, xcffib.xproto, xcffib.xtest
connection = xcffib.connect()
setup, fake = connection.get_setup(), connection(xcffib.xtest.key).FakeInput
rows = connection.core.GetKeyboardMapping(setup.min_keycode, setup.max_keycode - setup.min_keycode + 1).reply()
names = {"super": 0xFFEB, "shift": 0xFFE1, "left": 0xFF51, "right": 0xFF53, "f9": 0xFFC6}
for chord in sys.argv[1:]:
    codes = [setup.min_keycode + list(rows.keysyms).index(names.get(k) or ord(k)) // rows.keysyms_per_keycode for k in chord.split("+")]
    for kind, order in ((2, codes), (3, codes[::-1])):
        for code in order:
            fake(kind, code, 0, 0, 0, 0, 0)
    connection.flush()
    time.sleep(1.2)  # as a person would
KEYS
python "$work/keys.py" super+b super+left super+r super+right super+2 super+f9 super+x super+d super+5
sed -i 's/^  super+q: .*/  super+q: place full/' jaklet.yaml
shot status 'jaklet status'
jaklet stop >/dev/null; kill $manager; wait $listener $manager 2>/dev/null || true
# Windows that share a display of the usual size, in three forms.
while [ -e "/tmp/.X11-unix/X$number" ]; do number=$((number + 1)); done
Xvfb ":$number" -screen 0 1280x800x24 -nolisten tcp -noreset >/dev/null 2>&1 & small=$!
for _ in $(seq 100); do [ -S "/tmp/.X11-unix/X$number" ] && break; sleep 0.1; done
export DISPLAY=":$number"
metacity >/dev/null 2>&1 & manager=$!
for _ in $(seq 100); do xprop -root _NET_SUPPORTING_WM_CHECK 2>/dev/null | grep -q 'window id' && break; sleep 0.1; done
jaklet listen >/dev/null 2>&1 & listener=$!
for _ in $(seq 100); do jaklet status >/dev/null 2>&1 && break; sleep 0.1; done
jaklet act 'keep arranged halves' >/dev/null
for app in berths radio tides ledger; do jaklet act "go $app" >/dev/null && sleep 1; done # each in front before the next
for form in halves 'one large left 3/5' columns; do
  jaklet act "keep arranged $form" >/dev/null
  sleep 6 # until they stand, and the notice is gone
  import -window root "$work/form-${form%% *}.png"
done
montage "$work"/form-{halves,one,columns}.png -tile 3x1 -geometry 640x400+4+4 -background '#101418' "$out/arranged.png"
jaklet stop >/dev/null; kill $manager $small; wait $listener $manager 2>/dev/null || true
unset JAKLET_CONFIG JAKLET_DESK
