#!/bin/bash
# The suites on another release of Debian, with its desktops and its Python: tools/today.sh [RELEASE] [pytest words…]
#
# The release is made in a folder of its own ($TODAY, by default /var/tmp/jaklet-today), and entered in a mount namespace
# of its own, so that nothing stays mounted. Made once, in some four minutes; 2.5 GB. Root and debootstrap are needed.
# RELEASE `here`: on this machine, as it is. The table of docs/desks.md has the results of all suites afterwards.
# Status 77: the folder cannot be made here.
set -eu
release=${1:-trixie}
[ $# -gt 0 ] && shift
here=$(cd "$(dirname "$0")/.." && pwd)
folder=${TODAY:-/var/tmp/jaklet-today}/$release
packages="gnome-shell kwin-wayland kwin-x11 mutter xfwm4 xfconf metacity xwayland xvfb xserver-xorg-core
  xserver-xorg-video-dummy dbus libglib2.0-bin procps xauth x11-utils x11-xserver-utils x11-xkb-utils x11-apps xterm mousepad
  zenity xkb-data libxcb1 python3-venv libkscreen-bin qt6-wayland libkf6service-bin kwin-style-breeze
  strace git"

# Puts what came of all suites into the table of releases: tell FOLDER pytest words…
tell() {
  local results=$1
  shift
  [ $# -gt 0 ] || python3 "$here/tools/release_table.py" "$here/docs/desks.md" "$results"
}
if [ "$release" = here ]; then
  status=0
  PATH=$(cd "${VENV:-$here/.venv}" && pwd)/bin:$PATH "$here/tools/release_suites.sh" "$here/build/results" "$@" || status=$?
  tell "$here/build/results" "$@"
  exit $status
fi

lacks() { echo "make today: $1" >&2; exit 77; }
[ "$(id -u)" -eq 0 ] || lacks "root is needed, to enter a folder as another Debian: sudo make today"
[ -f /etc/debian_version ] || lacks "a Debian is needed, whose archive has the release"
PACKAGES="debootstrap" "$here/tools/debian_packages.sh" || lacks "debootstrap is needed"
[ "${IN_NAMESPACE:-}" ] || exec env IN_NAMESPACE=1 unshare --mount "$0" "$release" "$@"

archive=$(sed -n 's/^URIs: *\([^ ]*\).*/\1/p' /etc/apt/sources.list.d/*.sources 2>/dev/null | head -1)
[ "$archive" ] || archive=$(awk '$1 == "deb" && $2 ~ /^http/ { print $2; exit }' /etc/apt/sources.list)
mkdir -p "$folder"
if ! [ -d "$folder/usr" ]; then
  rm -rf "$folder.new" # of a run that was interrupted
  debootstrap --variant=minbase --include=ca-certificates "$release" "$folder.new" "$archive" >"$folder.log" 2>&1 ||
    { tail -5 "$folder.log" >&2; lacks "the archive cannot be reached, or has no $release: see $folder.log"; }
  rmdir "$folder"
  mv "$folder.new" "$folder"
fi
# As this machine reaches the archive and the package index, so does the folder.
mount -t proc proc "$folder/proc"
mount --rbind /dev "$folder/dev"
mount --rbind /sys "$folder/sys" # by it the shell learns that no systemd has started it, and Xwayland may start
cp /etc/resolv.conf "$folder/etc/"
cp /etc/apt/apt.conf.d/* "$folder/etc/apt/apt.conf.d/"
cp -r /etc/ssl/certs/. "$folder/etc/ssl/certs/"
pip=${VENV:-$here/.venv}/bin/pip
for file in $("$pip" config debug | sed -n 's/^ *\(\/[^ ]*\), exists: True$/\1/p'); do
  mkdir -p "$folder$(dirname "$file")"
  cp "$file" "$folder$file"
done
for path in $("$pip" config list | grep -oE "(file:/)?/[^' ]+" | sed 's,^file://,,; s,/simple$,,' | sort -u); do
  if [ -d "$path" ]; then mkdir -p "$folder$path" && mount --bind "$path" "$folder$path"; fi
  if [ -f "$path" ]; then mkdir -p "$folder$(dirname "$path")" && cp "$path" "$folder$path"; fi
done
if ! [ "$(cat "$folder/root/packages" 2>/dev/null)" = "$packages" ]; then
  chroot "$folder" env DEBIAN_FRONTEND=noninteractive sh -c "apt-get update -q && apt-get install -y -q --no-install-recommends $(echo $packages)" \
    >>"$folder.log" 2>&1 || { tail -5 "$folder.log" >&2; lacks "its packages cannot be installed: see $folder.log"; }
  echo "$packages" >"$folder/root/packages"
fi
mkdir -p "$folder/tmp/.X11-unix" "$folder/src"
chmod 1777 "$folder/tmp" "$folder/tmp/.X11-unix" # the shell refuses one that is not
rm -rf "$folder/src/jaklet"
mkdir "$folder/src/jaklet"
(cd "$here" && git ls-files -z | tar -c --null -T - 2>/dev/null) | tar -x -C "$folder/src/jaklet"
env | sed -n "s/^\(PIP_[A-Z_]*\)=\(.*\)/export \1='\2'/p" >"$folder/root/pip"
status=0
chroot "$folder" /usr/bin/env -i HOME=/root LANG=C.UTF-8 PATH=/usr/bin:/bin:/usr/sbin:/sbin CI="${CI:-}" bash -s -- "$@" <<'INSIDE' || status=$?
set -eu
. /root/pip
cd /src/jaklet
[ -d /opt/jaklet ] || python3 -m venv /opt/jaklet
/opt/jaklet/bin/pip install --quiet --disable-pip-version-check --editable '.[dev]' 2>/dev/null
PATH=/opt/jaklet/bin:$PATH exec tools/release_suites.sh /root/results "$@"
INSIDE
tell "$folder/root/results" "$@"
exit $status
