"""The kinds of things that can be picked from, by the words for them."""

from typing import Final

ALL: Final = "all"
KIND_NAMES: Final = ("windows", "apps", "layouts", "actions", "hosts")
