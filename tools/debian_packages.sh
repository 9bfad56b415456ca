#!/bin/sh
# Install the Debian packages named in $PACKAGES that are not there yet; say clearly where that cannot be done.
set -u
missing=
for package in $PACKAGES; do
  dpkg-query -W -f '${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing="$missing $package"
done
[ -n "$missing" ] || exit 0
as_root=
if [ "$(id -u)" -ne 0 ]; then
  as_root='sudo -n'
  if ! sudo -n true 2>/dev/null; then
    echo "These Debian packages are missing:$missing. Install them first: sudo apt install$missing" >&2
    exit 1
  fi
fi
echo "installing Debian packages:$missing"
export DEBIAN_FRONTEND=noninteractive
if ! { $as_root apt-get update -qq && $as_root apt-get install -y -qq --no-install-recommends $missing >/dev/null; }; then
  echo "These Debian packages could not be installed:$missing. Install them by hand, then try again." >&2
  exit 1
fi
