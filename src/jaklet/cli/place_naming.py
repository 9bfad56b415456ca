"""A place that gets a name: written into the config, once it is known that the config is right with it."""

from collections.abc import Container

from jaklet.core.values.errors import JakletError


def name_place(config: str | None, desk: str | None, name: str, place: str) -> str:
    """Write a place under a name; return the file in which it stands. Raises `JakletError`, and nothing is written."""
    from jaklet.cli.fixing import new_errors
    from jaklet.cli.resources import checked_config
    from jaklet.config.edit import PLACES, with_place, write_edited
    from jaklet.config.paths import locate_config

    result, paths = checked_config(config, desk), locate_config(config)
    if name in result.reading.config.places:
        raise JakletError(f"{name} is a place already", "take another name")
    sources = result.reading.sources
    main = next(name for name, path in result.reading.files.items() if path.resolve() == paths.config.resolve())
    having = (path for path in (main, *sources) if any(line.startswith(f"{PLACES}:") for line in sources[path].lines))
    path = next(having, main)
    text = with_place(sources[path], name, place)
    by_hand = f"write it into the section {PLACES} by hand: {name}: {place}"
    wrong, _ = new_errors(result, {path: text}, paths, desk, by_hand)
    if wrong:
        raise JakletError(wrong[0].cause, "take another name")
    write_edited(result.reading.files[path], sources[path], text)
    return path


def places_on_disk(config: str | None) -> Container[str]:
    """Return the names of the places that the config has, as its files are now; nothing where there is none."""
    from jaklet.config.build import read_config
    from jaklet.config.paths import place_for
    from jaklet.installed.programs import InstalledPrograms

    paths = place_for(config)
    return read_config(paths.config, paths.shown, InstalledPrograms()).config.places
