"""`include`: more files of the same kind, some of them for one host or keyboard only."""

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any, Final, NamedTuple

from jaklet.config.reading import ConfigReading
from jaklet.core.values.findings import finding
from jaklet.core.values.globs import matches
from jaklet.yaml_files import fields
from jaklet.yaml_files.fields import Table
from jaklet.yaml_files.reader import Value

DEEPEST: Final = 8
MOST_PARTS: Final = 200  # files of one config; some that include each other twice, and so on, would be without end


class ConfigFile(NamedTuple):
    """A file of the config, and its name as the user would write it."""

    path: Path
    shown: str


PART_KEYS: Final[Table] = {"file": fields.text, "host": fields.words, "keyboard": fields.keyboards}


def parts_of(value: Value, part: ConfigFile, trail: tuple[Path, ...], reading: ConfigReading) -> Iterator[ConfigFile]:
    """Yield the files that `include` names, in its order; those for another host or keyboard are left out."""
    for item in value.items() if value.is_list else () if value.is_empty else (value,):
        name, read = _named(item, reading)
        if name is None:
            continue
        other = ConfigFile(part.path.parent / Path(name).expanduser(), str(Path(part.shown).parent / name))
        elsewhere = _for_others(read, reading)
        if elsewhere:
            reading.left_out.append(f"{name} is for {elsewhere}")
        elif not other.path.is_file():  # a circle of links, too
            remedy = f"write it, or mend the name; names are relative to {part.shown}"
            reading.found.append(finding("JK110", item.spot, problem=f"there is no file {name}", remedy=remedy))
        elif other.path.resolve() in trail or len(trail) > DEEPEST:
            problem = f"{name} includes itself" if other.path.resolve() in trail else f"{name} is included too deeply"
            reading.found.append(finding("JK110", item.spot, problem=problem, remedy="take it out of one of the files"))
        elif reading.parts >= MOST_PARTS:
            problem = f"these are more than {MOST_PARTS} files"
            reading.found.append(finding("JK110", item.spot, problem=problem, remedy="include each of them once"))
            return
        else:
            yield other


def _named(item: Value, reading: ConfigReading) -> tuple[str | None, Mapping[str, Any]]:
    """Return the file that is named, None if none is, and for whom it is."""
    if not item.is_map:
        return fields.text(item, "a part", reading.found), {}
    read = fields.fields(item, "this part", PART_KEYS, reading.found)
    if not any(key.text == "file" for key, _ in item.pairs()):
        remedy = "write {file: NAME.yaml, host: HOST}"
        reading.found.append(finding("JK106", item.spot, what="this part", key="file", remedy=remedy))
    return read.get("file"), read


def _for_others(read: Mapping[str, Any], reading: ConfigReading) -> str:
    """Return the host or keyboard that a part is for, if that is not this one."""
    if "host" in read and not any(matches(host, reading.here.host) for host in read["host"]):
        return f"host {' or '.join(read['host'])}"
    if "keyboard" in read and not _in_use(read["keyboard"], reading):
        return f"keyboard {' or '.join(read['keyboard'])}"
    return ""


def _in_use(keyboards: tuple[str, ...], reading: ConfigReading) -> bool:
    """True if the keyboard in use is one of these: the one asked for, else the first that the settings name."""
    used = [*reading.here.keyboards, *reading.config.settings.keyboards][:1]
    return any(used[0].split()[0] == name.split()[0] for name in keyboards) if used else False
