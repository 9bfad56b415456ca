"""What the user is told besides the answers of commands."""

from typing import NamedTuple


class Notice(NamedTuple):
    """Something that the user is told. `failed`: of a failure. `topic`: a later one on the same replaces it.

    `about`: what it names, such as a layer.
    """

    text: str
    failed: bool = False
    topic: str = ""
    about: str = ""
