#!/bin/sh
# Make a Debian package of the wheel: jaklet_VERSION_ARCH.deb.
#
# What it needs from PyPI is inside, in a virtual environment of Debian's Python at /usr/lib/jaklet, as Debian's own
# packages of it are older than what Jaklet is tested with. Arguments: the wheel, the folder for the package, pip.
set -eu
wheel=$1 out=$2
here=$(dirname "$0")
python=/usr/bin/python3
[ -x "$python" ] || { echo "a Debian package is made with Debian's Python: apt install python3" >&2; exit 1; }
minor=$($python -c 'import sys; print(sys.version_info.minor)')
version=$(basename "$wheel" | cut -d- -f2)
arch=$(dpkg --print-architecture)
stage=$(mktemp -d)
trap 'rm -rf "$stage"' EXIT
root=$stage/jaklet home=/usr/lib/jaklet
umask 022
mkdir -p "$root$home" "$root/usr/bin" "$root/usr/share/doc/jaklet" "$root/DEBIAN"

# The programs: a virtual environment by hand, as Debian's venv may not be installed; it says nothing of where it is.
mkdir -p "$root$home/bin" "$root$home/lib/python3.$minor/site-packages"
ln -s ../../../bin/python3 "$root$home/bin/python3"
printf 'home = /usr/bin\ninclude-system-site-packages = true\nversion = 3.%s\n' "$minor" >"$root$home/pyvenv.cfg"
# In the package the link leads to Debian's Python; here it would lead nowhere.
mkdir -p "$root/usr/bin" && ln -s "$python" "$root/usr/bin/python3"
PYTHONDONTWRITEBYTECODE=1 "$3" --python "$root$home/bin/python3" --disable-pip-version-check install --quiet \
  --ignore-installed --no-compile --no-warn-script-location --prefer-binary \
  --prefix "$root$home" "$wheel[editor]"
# pip takes Debian's scheme for a prefix, and its own paths for the shebangs.
if [ -d "$root$home/local" ]; then
  cp -a "$root$home/local/." "$root$home/" && rm -rf "$root$home/local"
fi
[ ! -d "$root$home/lib/python3.$minor/dist-packages" ] || {
  cp -a "$root$home/lib/python3.$minor/dist-packages/." "$root$home/lib/python3.$minor/site-packages/"
  rm -rf "$root$home/lib/python3.$minor/dist-packages"
}
find "$root$home/bin" -type f ! -name jaklet -delete
printf '#!%s/bin/python3\nimport sys\n\nfrom jaklet.__main__ import run\n\nsys.exit(run())\n' "$home" >"$root$home/bin/jaklet"
chmod 755 "$root$home/bin/jaklet"
ln -s ../lib/jaklet/bin/jaklet "$root/usr/bin/jaklet"
find "$root$home" -name __pycache__ -prune -exec rm -rf {} +
find "$root$home" \( -name '*.so' -o -name '*.so.*' \) -exec strip --strip-unneeded {} + -exec chmod 644 {} +
find "$root$home/lib" -type f -perm /111 ! -name '*.so*' -exec chmod 644 {} +

# What belongs elsewhere on Debian: manual pages, completion, the unit of a session, what every package has.
for page in "$root$home"/share/man/man*/*; do
  [ -e "$page" ] || continue
  section=${page##*.}
  mkdir -p "$root/usr/share/man/man$section"
  gzip -9nc "$page" >"$root/usr/share/man/man$section/$(basename "$page").gz"
done
rm -rf "$root$home/share" "$root$home/include"
mkdir -p "$root/usr/share/bash-completion/completions" "$root/usr/share/zsh/vendor-completions" \
  "$root/usr/share/fish/vendor_completions.d" "$root/usr/lib/systemd/user"
shells() { env -i PATH=/usr/bin HOME="$stage" PYTHONDONTWRITEBYTECODE=1 _JAKLET_COMPLETE="source_$1" \
  "$root$home/bin/python3" -c 'import sys; sys.argv = ["jaklet"]; from jaklet.__main__ import run; run()'; }
shells bash >"$root/usr/share/bash-completion/completions/jaklet"
shells zsh >"$root/usr/share/zsh/vendor-completions/_jaklet"
shells fish >"$root/usr/share/fish/vendor_completions.d/jaklet.fish"
PYTHONDONTWRITEBYTECODE=1 "$root$home/bin/python3" -c \
  'from jaklet.cli.autostart import unit_text; print(unit_text(["/usr/bin/jaklet", "listen"]), end="")' \
  >"$root/usr/lib/systemd/user/jaklet.service"
{
  printf 'Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/\nUpstream-Name: Jaklet\n\n'
  printf 'Files: *\nCopyright: 2026 The Jaklet founders\nLicense: Expat\n'
  sed -n '/^Permission/,$p' "$here/../LICENSE" | sed 's/^$/./; s/^/ /'
  printf '\nFiles: usr/lib/jaklet/lib/*\nCopyright: their authors\nLicense: as-they-say\n'
  printf ' Each package from PyPI has its licence in its own folder, NAME.dist-info.\n'
} >"$root/usr/share/doc/jaklet/copyright"
{
  printf 'jaklet (%s) unstable; urgency=medium\n\n  * Made of the wheel of this version. What is new stands in CHANGELOG.md.\n\n' "$version"
  printf ' -- The Jaklet founders <founders@jaklet.invalid>  %s\n' "$(date -Ru -d "@$(git -C "$here" log -1 --format=%ct)")"
} | gzip -9n >"$root/usr/share/doc/jaklet/changelog.gz"
mkdir -p "$root/usr/share/lintian/overrides"
cat >"$root/usr/share/lintian/overrides/jaklet" <<'END'
# What comes from PyPI is built there, with its libraries beside it: Debian's are older than what is tested.
jaklet: wrong-path-for-interpreter
jaklet: embedded-library
jaklet: custom-library-search-path
jaklet: unstripped-binary-or-object
jaklet: shared-library-lacks-prerequisites
jaklet: hardening-no-fortify-functions
jaklet: library-not-linked-against-libc
END

cat >"$root/DEBIAN/control" <<END
Package: jaklet
Version: $version
Architecture: $arch
Maintainer: The Jaklet founders <founders@jaklet.invalid>
Installed-Size: $(du -ks "$root/usr" | cut -f1)
Depends: python3 (>= 3.$minor~), python3 (<< 3.$((minor + 1))~), libc6 (>= 2.34), libxcb1
Recommends: xkb-data
Suggests: python3-matplotlib, python3-scipy
Section: x11
Priority: optional
Homepage: https://jaklet.invalid
Description: hotkeys, window places and named layouts, checked before use
 Hotkey bindings, macros and configuration files that launch or focus
 programs and save and recall named layouts of windows, on X11 and on
 Plasma on Wayland. Bindings are checked for conflicts before they are
 used, and all of it can be tried on a simulated desk.
END
# Bytecode is made where it is installed, by Debian's Python; without it each start would take four times as long.
cat >"$root/DEBIAN/postinst" <<'END'
#!/bin/sh
set -e
if [ "$1" = configure ]; then
  py3compile -p jaklet /usr/lib/jaklet || true
fi
END
cat >"$root/DEBIAN/prerm" <<'END'
#!/bin/sh
set -e
py3clean -p jaklet || true
END
chmod 755 "$root/DEBIAN/postinst" "$root/DEBIAN/prerm"
rm "$root/usr/bin/python3"
mkdir -p "$out"
dpkg-deb --root-owner-group -Zxz --build "$root" "$out/jaklet_${version}_$arch.deb" >/dev/null
echo "$out/jaklet_${version}_$arch.deb"
