"""Places: parts of a work area, with alternatives, and other forms on some displays."""

from collections.abc import Mapping
from typing import NamedTuple

from jaklet.core.values.forms import NamedPlace, PlaceForm


class Place(NamedTuple):
    """A form, and the display it is meant for (None: the display the window is on).

    `then`: the alternatives that repeated presses walk through after this one. A place of the section `places` can
    have other forms on some displays (`varied`), and a note.
    """

    form: PlaceForm
    display: str | None = None
    then: tuple["Place", ...] = ()
    varied: tuple[tuple[str, PlaceForm], ...] = ()
    note: str = ""

    @property
    def alternatives(self) -> tuple["Place", ...]:
        """The place itself and those that follow it, each alone."""
        return (self._replace(then=()), *self.then) if self.then else (self,)

    def form_on(self, role: str) -> PlaceForm:
        """Return the form that it has on a display."""
        return dict(self.varied).get(role, self.form) if self.varied else self.form

    def __str__(self) -> str:
        first = f"{self.form} on {self.display}" if self.display else str(self.form)
        return ", ".join((first, *map(str, self.then)))


def resolve_place(place: Place, names: Mapping[str, Place]) -> Place:
    """Return the place with all names in it looked up. A display that is named here wins over the name's own."""
    if not isinstance(place.form, NamedPlace) and not place.then:
        return place
    every = [one for part in place.alternatives for one in _looked_up(part, names)]
    return every[0]._replace(then=tuple(every[1:]))


def _looked_up(place: Place, names: Mapping[str, Place]) -> tuple[Place, ...]:
    if not isinstance(place.form, NamedPlace):
        return (place,)
    found = names[place.form.name]  # the check has seen to it that it is there
    return tuple(one._replace(display=place.display or one.display) for one in found.alternatives)
