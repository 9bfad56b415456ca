#!/bin/sh
# Install the Debian package in a Debian that has nothing else, and do with it what a new user does. As root.
set -eu
package=$(readlink -f "$1")
suite=$(. /etc/os-release && echo "$VERSION_CODENAME")
place=$(mktemp -d)
trap 'rm -rf "$place"' EXIT
debootstrap --variant=minbase "$suite" "$place" >"$place.log" 2>&1 || { tail -5 "$place.log" >&2; exit 1; }
rm -f "$place.log"
[ ! -e /etc/apt/apt.conf ] || cp /etc/apt/apt.conf "$place/etc/apt/"
cp "$package" "$place/jaklet.deb"
inside() { chroot "$place" env -i PATH=/usr/bin:/bin:/usr/sbin:/sbin HOME=/root LC_ALL=C.UTF-8 DEBIAN_FRONTEND=noninteractive "$@"; }
inside apt-get update -qq
inside apt-get install -y -qq --no-install-recommends ./jaklet.deb >/dev/null
inside jaklet --version --verbose
inside sh -c 'cd /root && jaklet demo >/dev/null && jaklet demo --write harbour >/dev/null && cd harbour &&
  jaklet check . && jaklet act "go berths" --config . --desk tabletop:tabletop.yaml &&
  jaklet layout draw arrivals --config . --desk tabletop:tabletop.yaml'
inside sh -c 'test -n "$(find /usr/lib/jaklet -name "*.pyc" -path "*jaklet/checks*")"'
inside sh -c 'test -s /usr/share/man/man1/jaklet.1.gz && test -s /usr/lib/systemd/user/jaklet.service'
inside sh -c 'cd /root/harbour && PATH=$PWD/bin:$PATH && jaklet lsp </dev/null; test $? = 1'  # an editor that ends at once
inside apt-get remove -y -qq jaklet >/dev/null
inside sh -c 'test ! -e /usr/lib/jaklet || { find /usr/lib/jaklet | head; exit 1; }'
echo "the package was installed, used and removed in a bare $suite"
