#!/bin/bash
# The suites that tell how Jaklet gets on with a release of Debian: tools/release_suites.sh FOLDER [pytest words…]
#
# pytest is the one in PATH. FOLDER gets a result of each suite (JUnit's XML) and the file `versions`, from which
# tools/release_table.py makes a column for docs/desks.md.
set -eu
cd "$(dirname "$0")/.."
results=$1
shift
mkdir -p "$results"
rm -rf "$results"/*
failed=0

# suite NAME VERSION pytest words…: what fails is tried once more, in sessions of its own, and the table says so.
suite() {
  local name=$1 version=$2
  shift 2
  printf '%s\t%s\n' "$name" "$version" >>"$results/versions"
  echo "--- $name ($version)"
  set -- -q --timeout 120 -m "not slow" -o junit_family=xunit1 -o cache_dir="$results/cache-$name" "$@"
  pytest --junitxml "$results/$name.xml" "$@" && return
  echo "--- $name once more: what has failed"
  pytest --last-failed --last-failed-no-failures none --junitxml "$results/$name-again.xml" "$@" || failed=1
}

version() { dpkg-query --show --showformat '${source:Upstream-Version}' "$1" | grep -oE '^[0-9.]*[0-9]'; }

printf 'release\t%s\n' "$(. /etc/os-release && echo "${VERSION_ID:+Debian $VERSION_ID}")" | sed 's/\t$/\tDebian unstable/' >"$results/versions"
suite core "$(python3 -c 'import platform; print(platform.python_version())')" -n 2 tests/core tests/config tests/checks tests/counters tests/drawing tests/editor \
  tests/finder tests/installed tests/practice tests/rehearsal tests/suggesting "$@"
suite gnome "$(version gnome-shell)" tests/desktops/test_contract.py tests/desktops/test_gnome.py -k gnome "$@"
suite plasma "$(version kwin-wayland)" tests/desktops/test_contract.py tests/desktops/test_plasma.py \
  tests/desktops/test_plasma_keys.py -k plasma "$@"
for manager in xfwm4 mutter kwin_x11; do
  if [ $manager = mutter ] && ! mutter --help | grep -q -- --x11; then
    printf '%s\t%s\n' mutter "$(version mutter): manages no X server" | tee -a "$results/versions"
    continue
  fi
  MANAGER=$manager suite "$manager" "$(version "${manager/_/-}")" tests/managers/test_placing.py tests/managers/test_recalling.py \
    -k "not beside and not above" "$@" # one display, and three: all of it takes twice as long
done
exit $failed
