# Each target does all its set-up, so that it works from a fresh clone.
PYTHON ?= python3
VENV ?= .venv
# Tests run in so many processes, each with servers of its own. Those of X often wait, so that three keep two cores busy.
WORKERS ?= 3
BIN := $(VENV)/bin
DEBIAN := xvfb strace metacity x11-utils x11-xserver-utils x11-xkb-utils libxcb1 xkb-data \
  x11-apps xterm mousepad dillo libglib2.0-bin
# More window managers, and a server whose outputs come and go: tests that need one that cannot be had are skipped.
MARCO := marco mate-desktop-common mate-settings-daemon-common
XFWM4 := xfwm4 xfconf dbus
ICEWM := icewm
JWM := jwm
# The other managers of `make managers`.
MUTTER := mutter dbus
KWIN := kwin-x11 dbus
MUFFIN := muffin cinnamon-settings-daemon cinnamon-desktop-data dbus
WMAKER := wmaker
OUTPUTS := xserver-xorg-core xserver-xorg-video-dummy
# Plasma on Wayland, without a screen.
PLASMA := kwin-wayland xwayland kwin-style-breeze dbus procps libkf5screen-bin qtwayland5 libkf5service-bin
# GNOME on Wayland, without a screen.
GNOME := gnome-shell xwayland dbus libglib2.0-bin zenity
# A browser, in which the page of keys is tested.
BROWSER := chromium
# An editor and shells, in which what they are told is tested.
WRITING := neovim zsh fish socat netcat-openbsd
DEB := python3 binutils dpkg-dev lintian
SHOTS := xvfb xterm imagemagick fonts-dejavu-core metacity x11-utils chromium neovim

.PHONY: demo test test-all soak today managers lint bench dist deb deb-tried screenshots docs debian clean

demo: $(BIN)/.ready
	$(BIN)/jaklet demo

test: $(BIN)/.ready debian
	$(BIN)/pytest -n $(WORKERS) --dist worksteal -m "not slow"

test-all: $(BIN)/.ready debian managers
	$(BIN)/pytest --ignore tests/managers --ignore tests/soak

# A made-up working day of eight hours in minutes, on two managers and KWin on Wayland; KEYS: how many it has.
KEYS ?= 4000
soak: $(BIN)/.ready debian
	$(BIN)/pytest -s tests/soak --keys $(KEYS)

# The same on the desktops of today: another release of Debian in a folder, with its Python, as root.
RELEASE ?= trixie
today: $(BIN)/.ready
	VENV="$(abspath $(VENV))" tools/today.sh $(RELEASE)

# All window managers, or the one that MANAGER=command names; the result goes into docs/desks.md, but for one alone.
managers: $(BIN)/.ready debian
	@PACKAGES="$(MUTTER)" tools/debian_packages.sh || echo "mutter is skipped"
	@PACKAGES="$(KWIN)" tools/debian_packages.sh || echo "kwin_x11 is skipped"
	@PACKAGES="$(MUFFIN)" tools/debian_packages.sh || echo "muffin is skipped"
	@PACKAGES="$(WMAKER)" tools/debian_packages.sh || echo "wmaker is skipped"
	$(BIN)/pytest -n $(WORKERS) --dist loadscope tests/managers $(if $(MANAGER),,--table docs/desks.md)

lint: $(BIN)/.ready
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy

bench: $(BIN)/.ready debian
	$(BIN)/python -m benchmarks --write
	$(BIN)/python -m benchmarks.plasma --write
	$(BIN)/python -m benchmarks.gnome --write
	$(BIN)/python -m benchmarks.editing --write

# What is published: wheel, sdist, Debian package. A commit with a tag is the version that the tag says.
dist: $(BIN)/.ready
	@tag=$$(git describe --exact-match --tags 2>/dev/null || true); version=$$($(BIN)/jaklet --version | cut -d' ' -f2); \
	[ -z "$$tag" ] || [ "$$tag" = "v$$version" ] || { echo "the tag $$tag is not the version $$version" >&2; exit 1; }
	$(BIN)/pip install --quiet --disable-pip-version-check --editable '.[dev,release]'
	rm -rf dist
	$(BIN)/python -m build --outdir dist .
	$(BIN)/twine check --strict dist/*

deb: dist
	@PACKAGES="$(DEB)" tools/debian_packages.sh
	tools/deb.sh dist/*.whl dist $(BIN)/pip
	lintian --fail-on error dist/*.deb

# The package in a Debian that has nothing else, as root.
deb-tried: deb
	@PACKAGES="debootstrap" tools/debian_packages.sh
	tools/deb_tried.sh dist/*.deb

screenshots: $(BIN)/.ready
	@PACKAGES="$(SHOTS) $(PLASMA) $(GNOME)" tools/debian_packages.sh
	PATH="$(abspath $(BIN)):$$PATH" tools/screenshots.sh docs/screenshots

docs: $(BIN)/.ready
	$(BIN)/python tools/make_xcb.py
	$(BIN)/python tools/make_owners.py
	$(BIN)/python tools/make_commands.py
	$(BIN)/python tools/make_findings.py
	PYTHONPATH=. $(BIN)/python tools/make_tables.py
	$(BIN)/python tools/make_descriptions.py
	$(BIN)/python tools/make_actions.py
	$(BIN)/python tools/make_desks.py
	$(BIN)/python tools/make_man.py

# Faults planted in what has changed since a commit, to be noticed by the nearest tests.
SINCE ?= HEAD~1
mutations: $(BIN)/.ready
	$(BIN)/python tools/mutations.py --changed $(SINCE) --count 20

debian:
	@PACKAGES="$(DEBIAN)" tools/debian_packages.sh
	@PACKAGES="$(MARCO)" tools/debian_packages.sh || echo "tests with marco are skipped"
	@PACKAGES="$(XFWM4)" tools/debian_packages.sh || echo "tests with xfwm4 are skipped"
	@PACKAGES="$(ICEWM)" tools/debian_packages.sh || echo "tests with icewm are skipped"
	@PACKAGES="$(JWM)" tools/debian_packages.sh || echo "tests with jwm are skipped"
	@PACKAGES="$(PLASMA)" tools/debian_packages.sh || echo "tests with Plasma are skipped"
	@PACKAGES="$(GNOME)" tools/debian_packages.sh || echo "tests with GNOME are skipped"
	@PACKAGES="$(BROWSER)" tools/debian_packages.sh || echo "the page of keys is tested in no browser"
	@PACKAGES="$(WRITING)" tools/debian_packages.sh || echo "what editors and shells are told is tested in fewer of them"
	@PACKAGES="$(OUTPUTS)" tools/debian_packages.sh || echo "tests with outputs that come and go are skipped"

# The stamp goes last, so that a set-up that was cut short is done again.
$(BIN)/.ready: pyproject.toml
	$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11) and "Jaklet needs Python 3.11 or newer; try make PYTHON=python3.11")'
	$(PYTHON) -m venv $(VENV) || { echo "cannot make a virtual environment; on Debian: apt install python3-venv"; exit 1; }
	$(BIN)/pip install --quiet --disable-pip-version-check --editable '.[dev]'
	touch $@

clean:
	rm -rf $(VENV) build dist .mypy_cache .ruff_cache .pytest_cache .hypothesis
