"""Places: parts of a work area, as sentences, as exact frames, and recognised from frames."""
