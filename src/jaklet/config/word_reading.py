"""The section `words`: short names for actions, to be typed."""

from jaklet.config.bound_actions import DOING_KEYS, done_schema, read_done
from jaklet.config.reading import ConfigReading, good_name
from jaklet.core.language.verbs import VERBS, traits_of
from jaklet.core.values.config import Word
from jaklet.core.values.findings import finding
from jaklet.core.values.json_schema import by_name
from jaklet.core.values.spans import Spot
from jaklet.yaml_files import fields
from jaklet.yaml_files.reader import Value
from jaklet.yaml_files.schemas import with_schema


@with_schema(lambda: by_name(done_schema()))
def read_words(value: Value, reading: ConfigReading) -> None:
    """Read the section `words`."""
    words: dict[str, Word] = {}
    small: dict[str, Spot] = {name.lower(): reading.spots["word", name] for name in reading.config.words}
    for key, name, item in fields.mapping(value, "words", reading.found):
        done = read_done(item, key.spot, f"word {name}", DOING_KEYS, reading)
        if name.lower() in VERBS:
            problem = f"{name!r} is what an action begins with"
            reading.found.append(finding("JK108", key.spot, problem=problem, remedy="choose another word"))
            continue
        if name.lower() in small:
            also = ((small[name.lower()], "the first one"),)
            reading.found.append(finding("JK107", key.spot, also, name=name, inside="words"))
        elif done and traits_of(done.action).by_key:
            reading.found.append(finding("JK311", key.spot, verb=done.action.verb))
        elif good_name(key, name, "word", reading) and done:
            words[name] = Word(done.action, done.read.get("note", ""), done.read.get("sure", False))
        small.setdefault(name.lower(), key.spot)
    reading.config = reading.config._replace(words={**reading.config.words, **words})
